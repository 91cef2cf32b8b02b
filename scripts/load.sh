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
if [ "${1:-}" = --many ]; then
  # The press as it stands, where it was built before; else as an installation has it.
  source "$ROOT/scripts/press.sh"
  [ -x "$PRESS" ] || (cd "$ROOT" && cargo build --locked --profile start -p heliant-press \
    --target-dir "$PRESS_TARGET") || stop "the press does not build"
fi
throwaway_start
cd "$ROOT"
"$BIN/heliant-server" serve --demo --web web/dist --port 8700 \
  ${PRESS:+--press "$PRESS"} >"$THROWAWAY/said" 2>"$THROWAWAY/log" &
server=$!
trap 'kill $server 2>/dev/null; throwaway_stop' EXIT
until grep -q 'Heliant is at' "$THROWAWAY/said"; do
  kill -0 $server 2>/dev/null || { tail -n 5 "$THROWAWAY/log" >&2; stop "the server ended"; }
  sleep 0.2
done
sleep 1
url=$(sed -n 's/^Heliant is at //p' "$THROWAWAY/said")
if [ "${1:-}" = --many ]; then
  # What many jobs and many packs cost.
  "$BIN/many" "$url" "$DATABASE_URL" "$server"
elif [ "${1:-}" = --rude ]; then
  # What others notice of somebody who asks for more than their share.
  "$BIN/rude" "$url" "$server"
else
  "$BIN/heliant-load" --url "$url" --database "$DATABASE_URL" "$@"
fi
