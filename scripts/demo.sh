# shellcheck shell=bash
# Starts the application with the demo data.
need_tools
source "$ROOT/scripts/press.sh"
need_packages "${BASE_PACKAGES[@]}" "${PRESS_FONTS[@]}"
build_all
if [ "${1:-}" = --fresh ]; then
  if [ -e "$VAR/demo/data/postmaster.pid" ] && pg_as "$(pg_bin)/pg_ctl" -D "$VAR/demo/data" status \
    >/dev/null 2>&1; then
    stop "the demo is running: end it first (Ctrl-C where it was started)"
  fi
  say "starting over"
  rm -rf "$VAR/demo"
fi
# What was started ends with this: the server at once, not when it would be done by itself.
SERVER=
demo_end() {
  if [ -n "$SERVER" ]; then
    kill "$SERVER" 2>/dev/null && wait "$SERVER" 2>/dev/null || true
  fi
  press_end || true
  pg_stop
}
trap demo_end EXIT
trap 'exit 130' INT
trap 'exit 143' TERM
pg_start "$VAR/demo"
mkdir -p "$VAR/log"
cd "$ROOT"
press_begin
pg_application
HELIANT_OWNER_URL=$DATABASE_URL DATABASE_URL=$APPLICATION_URL \
  "$BIN/heliant-server" serve --demo --web web/dist --port "${HELIANT_PORT:-8400}" \
  --press "$PRESS" --press-building "$PRESS_BUILDING" 2>>"$VAR/log/server.log" &
SERVER=$!
wait "$SERVER" || {
  tail -n 5 "$VAR/log/server.log" >&2
  stop "the server ended"
}
