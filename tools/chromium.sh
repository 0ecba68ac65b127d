#!/usr/bin/env bash
# Installs Debian's Chromium when it is missing; the browser tests drive it.
set -euo pipefail

[ -x /usr/bin/chromium ] && exit 0
if [ "$(id -u)" != 0 ]; then
  echo "apt-mallet: the browser tests need Chromium: sudo apt-get install chromium" >&2
  exit 1
fi
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
