# shellcheck shell=bash
# docs/screenshots from the demo data, in a real browser. A folder may be named to keep them
# elsewhere.
need_tools
need_packages "${BASE_PACKAGES[@]}" chromium chromium-driver
source "$ROOT/scripts/throwaway.sh"
web_build
cd "$ROOT"
throwaway_start -c fsync=off
export HELIANT_TEST_DATABASE_URL=$PG_ADMIN_URL
cargo build --locked --workspace --all-targets --quiet
target/debug/screenshots "${1:-docs/screenshots}"
