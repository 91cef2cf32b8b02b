# shellcheck shell=bash
# Every check and test, the browser tests too, on a database that is thrown away.
need_tools
source "$ROOT/scripts/press.sh"
need_packages "${BASE_PACKAGES[@]}" "${PRESS_FONTS[@]}" chromium chromium-driver
source "$ROOT/scripts/throwaway.sh"
cd "$ROOT"
web_packages
say "checking the front end: types, lint, format"
(cd web && npm run --silent check && npm run --silent build)
say "checking the length of lines"
long=$(git ls-files '*.rs' '*.ts' '*.tsx' '*.sh' '*.py' '*.css' '*.toml' |
  LC_ALL=C.UTF-8 xargs grep -nE '^.{101,}') && stop "longer than 100 columns: $long"
say "checking the server: format, clippy"
cargo fmt --all --check
cargo clippy --locked --workspace --all-targets --quiet -- -D warnings
throwaway_start -c fsync=off -c full_page_writes=off -c synchronous_commit=off
export HELIANT_TEST_DATABASE_URL=$PG_ADMIN_URL
say "building the tests"
cargo build --locked --workspace --all-targets --quiet
say "testing"
# One binary that fails does not keep the others from running.
INSTA_UPDATE=no cargo test --locked --workspace --no-fail-fast --lib --bins --tests "$@"
say "testing the examples in the documents"
cargo test --locked --doc -p heliant-core
