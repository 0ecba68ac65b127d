#!/usr/bin/env bash
# Installs Debian's headless Chromium when it is missing; the browser tests drive it. It has no window, which
# leaves the processor to the tests.
set -euo pipefail

[ -x /usr/bin/chromium-headless-shell ] && exit 0
if [ "$(id -u)" != 0 ]; then
  echo "apt-mallet: the browser tests need Chromium: sudo apt-get install chromium-headless-shell" >&2
  exit 1
fi
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium-headless-shell >/dev/null
