#!/bin/sh
# The browser tests drive Debian's Chromium; install it where that is allowed, without a window if there is such a
# package. See scripts/chromium.py.
if command -v chromium-headless-shell >/dev/null 2>&1 || command -v chromium >/dev/null 2>&1; then
  exit 0
fi
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
  echo "Installing chromium ..."
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq >/dev/null
  for package in chromium-headless-shell chromium; do
    apt-get install -y -qq --no-install-recommends "$package" >/dev/null 2>&1 && exit 0
  done
fi
echo "The browser tests need Chromium; on Debian: apt-get install chromium-headless-shell." >&2
exit 1
