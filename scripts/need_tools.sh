#!/bin/sh
# Says in one plain sentence what is missing before anything is installed.
python=${1:-python3}
if ! command -v "$python" >/dev/null 2>&1; then
  echo "Python 3.11 or newer is needed, with pip and venv; $python was not found." >&2
  exit 1
fi
if ! "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
  echo "Python 3.11 or newer is needed; $python is $("$python" --version 2>&1)." >&2
  exit 1
fi
if ! "$python" -c 'import venv, ensurepip' 2>/dev/null; then
  echo "Python's venv is needed; on Debian: apt-get install python3-venv." >&2
  exit 1
fi
if ! command -v npm >/dev/null 2>&1 || ! command -v node >/dev/null 2>&1; then
  echo "Node 20 or newer is needed, with npm; it was not found." >&2
  exit 1
fi
if ! node -e 'process.exit(parseInt(process.versions.node) < 20 ? 1 : 0)'; then
  echo "Node 20 or newer is needed; this is $(node --version)." >&2
  exit 1
fi
