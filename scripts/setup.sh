#!/usr/bin/env bash
# Installs what is missing: Debian packages, the locked Python environment, the locked front end.
# Run again, it finds everything in place and returns at once.
set -euo pipefail
cd "$(dirname "$0")/.."

UV_VERSION=0.13.9
DEBIAN_PACKAGES=(mariadb-server-core mariadb-client-core chromium poppler-utils python3-venv
  libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)

fail() { echo "endurant: $*" >&2; exit 2; }

command -v python3 >/dev/null || fail "python3 is missing; install Debian's python3 (3.11)"
python3 -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))' ||
  fail "python3 is $(python3 -V); Python 3.11 is expected"
command -v node >/dev/null || fail "node is missing; install Node.js 20 with npm"
[ "$(node -p 'process.versions.node.split(".")[0] >= 20')" = true ] ||
  fail "node is $(node -v); Node.js 20 or newer is expected"
command -v npm >/dev/null || fail "npm is missing; install it with Node.js"

missing=()
for package in "${DEBIAN_PACKAGES[@]}"; do
  dpkg-query -W -f='${db:Status-Status}' "$package" 2>/dev/null | grep -q '^installed$' ||
    missing+=("$package")
done
if [ ${#missing[@]} -gt 0 ]; then
  as_root=()
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || fail "Debian packages are missing: ${missing[*]}; install them as root"
    as_root=(sudo)
  fi
  echo "Installing from Debian: ${missing[*]}"
  export DEBIAN_FRONTEND=noninteractive
  log=$(mktemp)
  { "${as_root[@]}" apt-get update && "${as_root[@]}" apt-get install -y --no-install-recommends "${missing[@]}"; } \
    >"$log" 2>&1 || { tail -5 "$log" >&2; fail "Debian's packages could not be installed; is there a network?"; }
  rm -f "$log"
fi

# What was installed from a lock file is stamped with the hash of that file.
stamped() { [ -f "$2" ] && [ "$(cat "$2")" = "$(cat "${@:3}" | sha256sum)" ] && [ -e "$1" ]; }

if ! .tools/bin/uv --version 2>/dev/null | grep -q " $UV_VERSION\b"; then
  python3 -m venv .tools
  .tools/bin/pip install --quiet --disable-pip-version-check "uv==$UV_VERSION" 2>&1 | grep -v '^WARNING' ||
    [ "${PIPESTATUS[0]}" = 0 ] || fail "uv could not be installed from PyPI; is there a network?"
fi
if ! stamped .venv/bin/endurant .venv/.stamp pyproject.toml uv.lock; then
  echo "Installing the locked Python environment"
  UV_LINK_MODE=copy .tools/bin/uv sync --frozen --quiet --python "$(command -v python3)" ||
    fail "the Python packages could not be installed from PyPI; is there a network?"
  # Compiled once here, so that the command line starts quickly even where nothing may be written.
  .venv/bin/python -m compileall -q -j 0 .venv/lib >/dev/null || true
  cat pyproject.toml uv.lock | sha256sum >.venv/.stamp
fi
if ! stamped web/node_modules/.bin/vite web/node_modules/.stamp web/package.json web/package-lock.json; then
  echo "Installing the locked front-end packages"
  (cd web && npm ci --no-audit --no-fund --loglevel=error) ||
    fail "the front-end packages could not be installed from the npm registry; is there a network?"
  cat web/package.json web/package-lock.json | sha256sum >web/node_modules/.stamp
fi
