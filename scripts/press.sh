# shellcheck shell=bash
# The press: the program that sets documents. It is most of the packages, so it is built apart,
# behind the application that is served already, in a folder of its own: nothing waits for its lock.
PRESS_TARGET=$ROOT/target/press
PRESS=$PRESS_TARGET/start/heliant-press
PRESS_BUILDING=$VAR/press.building
PRESS_FONTS=(fonts-wqy-zenhei fonts-lohit-deva fonts-tlwg-garuda-ttf)

# Builds it, after the command line, which is small and rests on what the server rests on. The
# server reads from PRESS_BUILDING how many of its packages are done.
press_build() {
  local of done_n=0 id list=(cargo tree --locked -p heliant-press -e 'normal,build' --prefix none)
  cd "$ROOT" || return 1
  of=$("${list[@]}" --no-dedupe -f '{p}' 2>/dev/null | sort -u | wc -l)
  press_says "0 $of"
  nice -n 19 cargo build --locked --profile start -p heliant-server -p heliant-cli \
    >"$VAR/log/press.log" 2>&1
  # One line of JSON for each part; a package may be several.
  while read -r id; do
    done_n=$((done_n + 1))
    [ "$done_n" -lt "$of" ] && press_says "$done_n $of"
  done < <(nice -n 19 cargo build --locked --profile start -p heliant-press \
    --target-dir "$PRESS_TARGET" --message-format=json 2>>"$VAR/log/press.log" |
    sed -un 's/.*"reason":"compiler-artifact","package_id":"\([^"]*\)".*/\1/p' |
    awk '!seen[$0]++ { print; fflush() }')
  if cargo build --locked --profile start -p heliant-press --target-dir "$PRESS_TARGET" \
    >>"$VAR/log/press.log" 2>&1; then
    rm -f "$PRESS_BUILDING"
  else
    press_says failed
  fi
}

# Whole or not at all: the server may be reading.
press_says() {
  printf '%s\n' "$1" >"$PRESS_BUILDING.part"
  mv "$PRESS_BUILDING.part" "$PRESS_BUILDING"
}

# Begins to build it beside what is served. PRESS_PID is the process that does.
press_begin() {
  mkdir -p "$VAR/log"
  press_says '0 1'
  # A group of its own: it ends with its cargo.
  setsid bash -c 'source "$1/scripts/common.sh"; source "$1/scripts/press.sh"; press_build' \
    press "$ROOT" </dev/null >/dev/null 2>&1 &
  PRESS_PID=$!
}

press_end() {
  [ -n "${PRESS_PID:-}" ] && kill -- "-$PRESS_PID" 2>/dev/null
  PRESS_PID=
}
