# shellcheck shell=bash
# A database for tests and measurements that is thrown away. Never for real data: it forgets on a
# crash.
throwaway_start() {
  THROWAWAY=$(mktemp -d "${TMPDIR:-/tmp}/heliant-XXXXXX")
  chmod 755 "$THROWAWAY"
  trap throwaway_stop EXIT
  trap 'exit 130' INT
  trap 'exit 143' TERM
  PG_INITDB=(--no-sync)
  PG_FIRST_PORT=54600
  pg_start "$THROWAWAY/pg" "$@"
}

throwaway_stop() {
  pg_stop
  rm -rf "$THROWAWAY"
}
