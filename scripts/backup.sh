# shellcheck shell=bash
# Backup and restore of the data, whole or not at all.
what=$1
file=${2:-}
[ -n "$file" ] || { usage >&2; exit 2; }
need_packages "${BASE_PACKAGES[@]}"
[ -e "$VAR/demo/data/PG_VERSION" ] || [ "$what" = restore ] ||
  stop "there is no data yet: start ./heliant demo first"
trap pg_stop EXIT
trap 'exit 130' INT TERM
pg_start "$VAR/demo"
if [ "$what" = backup ]; then
  pg_dump --format=custom --file="$file.part" "$DATABASE_URL" ||
    { rm -f "$file.part"; stop "the backup failed; nothing was written"; }
  mv "$file.part" "$file"
  say "wrote $file"
else
  [ -r "$file" ] || stop "$file is not there or cannot be read"
  others=$(psql -qtA "$PG_ADMIN_URL" \
    -c "SELECT count(*) FROM pg_stat_activity WHERE datname = 'heliant'")
  [ "$others" = 0 ] || stop "the application is running: end it first (Ctrl-C where it was started)"
  export PGOPTIONS='-c client_min_messages=warning'
  psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE IF EXISTS heliant_restore' \
    -c 'CREATE DATABASE heliant_restore'
  if ! pg_restore --exit-on-error --no-owner \
    --dbname="${DATABASE_URL%/heliant}/heliant_restore" "$file"; then
    psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE heliant_restore'
    stop "$file is no backup that can be read; the data is as it was"
  fi
  psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE heliant' \
    -c 'ALTER DATABASE heliant_restore RENAME TO heliant'
  say "took the data from $file"
fi
