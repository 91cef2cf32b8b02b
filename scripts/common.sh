# shellcheck shell=bash
# What the commands of the launcher share: messages, packages, builds.

ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
VAR=${HELIANT_VAR:-$ROOT/var}
PROFILE=start
BIN=$ROOT/target/$PROFILE

say() { printf '%s\n' "heliant: $*" >&2; }
stop() { say "$*"; exit 1; }

# Debian packages that are missing are installed where we may; else the one command is said.
need_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' ||
      missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local install="apt-get update && apt-get install -y --no-install-recommends ${missing[*]}"
  if [ "$(id -u)" = 0 ]; then
    say "installing ${missing[*]}"
    mkdir -p "$VAR/log"
    (export DEBIAN_FRONTEND=noninteractive; apt-get update &&
      apt-get install -y --no-install-recommends "${missing[@]}") \
      >"$VAR/log/packages.log" 2>&1 ||
      stop "that failed; see $VAR/log/packages.log, or run: $install"
  elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
    say "installing ${missing[*]}"
    sudo sh -c "DEBIAN_FRONTEND=noninteractive $install" >&2 ||
      stop "that failed; run: sudo sh -c '$install'"
  else
    stop "these Debian packages are missing; run: sudo sh -c '$install'"
  fi
}

need_tools() {
  command -v cargo >/dev/null || stop "cargo is missing: install Rust (stable) and try again"
  command -v npm >/dev/null || stop "npm is missing: install Node.js 20 or newer and try again"
}

BASE_PACKAGES=(postgresql libpq-dev gcc libc6-dev)

# node_modules as the lock file says.
web_packages() {
  local stamp=$ROOT/web/node_modules/.package-lock.json
  if [ ! -e "$stamp" ] || [ "$ROOT/web/package-lock.json" -nt "$stamp" ]; then
    say "fetching the front end's packages"
    (cd "$ROOT/web" && npm ci --no-audit --no-fund --loglevel=error) >&2 || return 1
    touch "$stamp"
  fi
}

# The front end as built, where anything has changed since.
web_build() {
  local dist=$ROOT/web/dist/index.html
  web_packages || return 1
  if [ ! -e "$dist" ] || [ -n "$(find "$ROOT"/web/{src,index.html,package.json,vite.config.ts} \
    -newer "$dist" -type f ! -name generated.ts -print -quit)" ]; then
    say "building the front end"
    # Its types are checked by the tests; here it only has to run.
    (cd "$ROOT/web" && npm run --silent bundle) >&2 || return 1
  fi
}

# The server, optimised.
build() {
  [ -x "$BIN/heliant-server" ] || say "building the server; the first time takes several minutes"
  (cd "$ROOT" && cargo build --locked --profile "$PROFILE" -p heliant-server) >&2 ||
    stop "the server does not build"
}

# Both at once: the front end's log is shown when it is done.
build_all() {
  mkdir -p "$VAR/log"
  (web_build >"$VAR/log/web.log" 2>&1) &
  local web=$!
  build
  if ! wait "$web"; then
    cat "$VAR/log/web.log" >&2
    stop "the front end does not build"
  fi
}
