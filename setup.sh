# Shared by ./start and ./test: functions that install what is missing. Each does nothing when all is there.
# To be sourced from the root of the checkout.

fail() {
  echo "${0##*/}: $*" >&2
  exit 1
}

ensure_packages() {
  local missing=()
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local become=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null && sudo -n true 2>/dev/null ||
      fail "Debian packages are missing: run 'apt-get install ${missing[*]}' as root, then try again"
    become=(sudo -n)
  fi
  echo "Installing Debian packages: ${missing[*]}"
  { "${become[@]}" apt-get update -qq && "${become[@]}" env DEBIAN_FRONTEND=noninteractive \
      apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >/dev/null 2>&1 ||
    fail "Debian packages could not be installed: ${missing[*]}"
}

# ensure_python: the virtualenv from the lock file, made anew when the lock file changes.
ensure_python() {
  command -v python3.11 >/dev/null || fail "Python 3.11 is needed and was not found"
  local stamp
  stamp=$(cat requirements.lock pyproject.toml | sha256sum | cut -c1-16)
  [ "$(cat .venv/.prepared 2>/dev/null)" = "$stamp" ] && return
  echo "Installing Python packages into .venv"
  if [ ! -x .venv/bin/python ]; then
    python3.11 -m venv .venv 2>/dev/null || { ensure_packages python3-venv && python3.11 -m venv .venv; } ||
      fail "the virtualenv .venv could not be made"
  fi
  .venv/bin/pip install --quiet --disable-pip-version-check -r requirements.lock ||
    fail "Python packages could not be installed; pip's reason stands above"
  .venv/bin/pip install --quiet --disable-pip-version-check --no-deps -e . ||
    fail "the application itself could not be installed into .venv"
  echo "$stamp" >.venv/.prepared
}

# ensure_web: npm packages from the lock file and the front end's build, made anew when its sources change.
ensure_web() {
  command -v node >/dev/null && command -v npm >/dev/null || fail "Node 20 with npm is needed and was not found"
  local packages sources
  packages=$(sha256sum web/package-lock.json | cut -c1-16)
  if [ "$(cat web/node_modules/.prepared 2>/dev/null)" != "$packages" ]; then
    echo "Installing npm packages"
    (cd web && npm ci --no-audit --no-fund --loglevel=error >/dev/null) || fail "npm packages could not be installed"
    echo "$packages" >web/node_modules/.prepared
  fi
  sources=$(cd web && find src showing index.html vite.config.ts vite.showing.config.ts tsconfig.json package-lock.json -type f -print0 | sort -z |
    xargs -0 sha256sum | sha256sum | cut -c1-16)
  if [ "$(cat web/dist/.prepared 2>/dev/null)" != "$sources" ]; then
    echo "Building the front end"
    (cd web && npm run --silent build >/tmp/lantern-build.$$ 2>&1) ||
      { cat /tmp/lantern-build.$$ >&2; fail "the front end could not be built"; }
    rm -f /tmp/lantern-build.$$
    echo "$sources" >web/dist/.prepared
  fi
}
