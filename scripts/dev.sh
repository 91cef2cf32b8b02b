# shellcheck shell=bash
# Start with hot reload: the front end at once, the server when a Rust file changes.
need_tools
source "$ROOT/scripts/press.sh"
need_packages "${BASE_PACKAGES[@]}" "${PRESS_FONTS[@]}"
web_packages
trap 'kill $(jobs -p) 2>/dev/null; press_end; pg_stop' EXIT
trap 'exit 130' INT
trap 'exit 143' TERM
pg_start "$VAR/demo"
cd "$ROOT"
pg_application
press_begin
(cd web && npm run --silent dev) &
server=
stamp=$(mktemp)
while true; do
  if cargo build -p heliant-server; then
    [ -n "$server" ] && { kill "$server" 2>/dev/null; wait "$server" 2>/dev/null || true; }
    HELIANT_OWNER_URL=$DATABASE_URL DATABASE_URL=$APPLICATION_URL \
      target/debug/heliant-server serve --demo --web web/dist --port 8400 --press "$PRESS" \
      --press-building "$PRESS_BUILDING" 2>>"$VAR/log/server.log" &
    server=$!
  fi
  touch "$stamp"
  until [ -n "$(find crates data -newer "$stamp" \
    \( -name '*.rs' -o -name '*.csv' -o -name '*.typ' -o -name '*.sql' \) -print -quit)" ]; do
    sleep 1
  done
done
