#!/bin/sh
# The browser tests drive Debian's chromium; install it where that is allowed.
if command -v chromium >/dev/null 2>&1; then
  exit 0
fi
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
  echo "Installing chromium ..."
  apt-get update -qq >/dev/null && DEBIAN_FRONTEND=noninteractive \
    apt-get install -y -qq --no-install-recommends chromium >/dev/null && exit 0
fi
echo "The browser tests need chromium; on Debian: apt-get install chromium." >&2
exit 1
