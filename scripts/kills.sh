# shellcheck shell=bash
# Kills the server again and again while people save and read, and every tenth time the database
# too; then holds what was acknowledged against what is there. `./heliant kills [times]`.
times=${1:-20}
[[ $times =~ ^[0-9]{1,5}$ ]] || stop "how many kills? a number up to 99999"
need_tools
need_packages "${BASE_PACKAGES[@]}"
source "$ROOT/scripts/throwaway.sh"
(cd "$ROOT" && cargo build --locked --quiet --workspace --bins) || stop "it does not build"
BIN=$ROOT/target/debug
throwaway_start
cd "$ROOT"
acknowledged=$THROWAWAY/acknowledged
enough=$THROWAWAY/enough
server=
kills_end() {
  touch "$enough"
  if [ -n "$server" ]; then kill -9 "$server" 2>/dev/null || true; fi
  wait 2>/dev/null || true
  throwaway_stop
}
trap kills_end EXIT

serve() {
  "$BIN/heliant-server" serve --demo --web web/dist --port 8750 >"$THROWAWAY/said" \
    2>>"$THROWAWAY/log" &
  server=$!
  local i
  for i in $(seq 300); do
    grep -q 'Heliant is at' "$THROWAWAY/said" && return
    kill -0 "$server" 2>/dev/null || { tail -n 3 "$THROWAWAY/log" >&2; stop "the server ended"; }
    sleep 0.1
  done
  stop "the server does not start"
}

# As a machine that loses its power: no process of the cluster is asked.
kill_database() {
  local head; head=$(head -n 1 "$PG_DIR/data/postmaster.pid")
  # shellcheck disable=SC2046
  kill -9 "$head" $(pgrep -P "$head") 2>/dev/null || true
  local i
  for i in $(seq 50); do
    sleep 0.2
    (PG_FIRST_PORT=$PG_PORT pg_start "$THROWAWAY/pg") >>"$THROWAWAY/again" 2>&1 && return
  done
  cat "$THROWAWAY/again" >&2
  stop "the database does not come back"
}

serve
url=$(sed -n 's/^Heliant is at //p' "$THROWAWAY/said")
"$BIN/kills" work "$url" "$acknowledged" "$enough" &
work=$!
for n in $(seq "$times"); do
  sleep "$((RANDOM % 2)).$((RANDOM % 9 + 1))"
  kill -9 "$server"
  wait "$server" 2>/dev/null || true
  [ $((n % 10)) -ne 0 ] || kill_database
  serve
  [ "$(sed -n 's/^Heliant is at //p' "$THROWAWAY/said")" = "$url" ] || stop "another port is taken"
  [ $((n % 10)) -ne 0 ] || say "$n kills"
done
sleep 1
touch "$enough"
wait "$work" || stop "the work ended badly"
"$BIN/kills" check "$DATABASE_URL" "$acknowledged"
