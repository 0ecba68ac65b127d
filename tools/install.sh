#!/usr/bin/env bash
# Checks Python and Node and installs uv when it is missing.
set -euo pipefail

say() { echo "apt-mallet: $*" >&2; }

python=""
for candidate in python3.11 python3; do
  if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then
    python=$candidate
    break
  fi
done
if [ -z "$python" ] && ! command -v uv >/dev/null; then
  say "Python 3.11 is needed ($(python3 --version 2>&1 || echo 'no python3') found): install it and run this again."
  exit 1
fi
if ! command -v node >/dev/null; then
  say "Node 20 or newer is needed: install it (for example: apt-get install nodejs npm) and run this again."
  exit 1
fi
major=$(node --version | sed 's/^v\([0-9]*\).*/\1/')
if [ "$major" -lt 20 ]; then
  say "Node 20 or newer is needed ($(node --version) found): update it and run this again."
  exit 1
fi
if ! command -v uv >/dev/null && [ ! -x "$HOME/.local/bin/uv" ]; then
  say "installing uv"
  "$python" -m venv "$HOME/.local/share/apt-mallet-uv"
  "$HOME/.local/share/apt-mallet-uv/bin/pip" install --quiet uv
  mkdir -p "$HOME/.local/bin"
  ln -sf "$HOME/.local/share/apt-mallet-uv/bin/uv" "$HOME/.local/bin/uv"
fi
