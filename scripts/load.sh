# shellcheck shell=bash
# Load measurement of the API: the server as an installation runs it, wholly optimised, over a
# durable database that is thrown away.
PROFILE=release
BIN=$ROOT/target/$PROFILE
need_tools
need_packages "${BASE_PACKAGES[@]}"
source "$ROOT/scripts/throwaway.sh"
build
(cd "$ROOT" && cargo build --locked --quiet --profile "$PROFILE" -p heliant-load) ||
  stop "the load program does not build"
throwaway_start
cd "$ROOT"
"$BIN/heliant-server" serve --demo --web web/dist --port 8700 \
  >"$THROWAWAY/said" 2>"$THROWAWAY/log" &
server=$!
trap 'kill $server 2>/dev/null; throwaway_stop' EXIT
until grep -q 'Heliant is at' "$THROWAWAY/said"; do
  kill -0 $server 2>/dev/null || { tail -n 5 "$THROWAWAY/log" >&2; stop "the server ended"; }
  sleep 0.2
done
sleep 1
"$BIN/heliant-load" --url "$(sed -n 's/^Heliant is at //p' "$THROWAWAY/said")" \
  --database "$DATABASE_URL" "$@"
