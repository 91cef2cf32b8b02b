# shellcheck shell=bash
# Starts the application with the demo data.
need_tools
need_packages "${BASE_PACKAGES[@]}"
build_all
if [ "${1:-}" = --fresh ]; then
  if [ -e "$VAR/demo/data/postmaster.pid" ] && pg_as "$(pg_bin)/pg_ctl" -D "$VAR/demo/data" status \
    >/dev/null 2>&1; then
    stop "the demo is running: end it first (Ctrl-C where it was started)"
  fi
  say "starting over"
  rm -rf "$VAR/demo"
fi
trap pg_stop EXIT
trap 'exit 130' INT
trap 'exit 143' TERM
pg_start "$VAR/demo"
mkdir -p "$VAR/log"
cd "$ROOT"
"$BIN/heliant-server" serve --demo --web web/dist --port "${HELIANT_PORT:-8400}" \
  2>>"$VAR/log/server.log" || {
  tail -n 5 "$VAR/log/server.log" >&2
  stop "the server ended"
}
