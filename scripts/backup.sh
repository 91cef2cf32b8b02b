# shellcheck shell=bash
# Backup and restore of the data, whole or not at all. A backup is a tar of two files: `about`,
# which says what it is, of which version, and the checksum of the other; and the database's own
# dump.
what=$1
file=${2:-}
[ -n "$file" ] || { usage >&2; exit 2; }
need_packages "${BASE_PACKAGES[@]}"
[ -e "$VAR/demo/data/PG_VERSION" ] || [ "$what" = restore ] ||
  stop "there is no data yet: start ./heliant demo first"

umask 077
WORK=$(mktemp -d "${TMPDIR:-/tmp}/heliant-backup-XXXXXX")
backup_end() { rm -rf "$WORK"; pg_stop; }
trap backup_end EXIT
trap 'exit 130' INT TERM

# What is made anew from the rest stays out.
MADE_ANEW=(packs pack_appendices consequences)

about() { sed -n "s/^$1: //p" "$WORK/about"; }

# The newest migration this version of the program knows.
schema_known() {
  local all=("$ROOT"/crates/server/migrations/*/)
  basename "${all[-1]}" | cut -d_ -f1
}

# Says why a file is refused; nothing has been touched by then.
refuse() { stop "$file is refused: $*; the data is as it was"; }

# A file is taken only where it is one of ours, of a version we know, and as it was written.
checked() {
  [ -r "$file" ] || stop "$file is not there or cannot be read"
  [ "$(tar -tf "$file" 2>/dev/null)" = $'about\ndata.dump' ] ||
    refuse "it is no backup of this application"
  tar -xf "$file" -C "$WORK" 2>/dev/null || refuse "it is cut off or damaged"
  [ "$(head -n 1 "$WORK/about")" = 'heliant backup' ] ||
    refuse "it is no backup of this application"
  local schema; schema=$(about schema)
  [[ $schema =~ ^[0-9]+$ ]] || refuse "it does not say of which version it is"
  [ "$((10#$schema))" -le "$((10#$(schema_known)))" ] ||
    refuse "a newer version of the program wrote it (schema $schema, this one knows up to \
$(schema_known)): restore it with that version"
  [ "$(sha256sum <"$WORK/data.dump" | cut -d' ' -f1)" = "$(about sha256)" ] ||
    refuse "its checksum is not the one that was written: the file was changed or damaged"
}

if [ "$what" = backup ]; then
  pg_start "$VAR/demo"
  schema=$(psql -qtA "$DATABASE_URL" -c 'SELECT max(version) FROM __diesel_schema_migrations') ||
    stop "there is no data to back up: start ./heliant demo first"
  leave=()
  for table in "${MADE_ANEW[@]}"; do leave+=("--exclude-table-data=$table"); done
  pg_dump --format=custom "${leave[@]}" --file="$WORK/data.dump" "$DATABASE_URL" ||
    stop "the backup failed; nothing was written"
  cat >"$WORK/about" <<TEXT
heliant backup
program: $(sed -n 's/^version = "\(.*\)"/\1/p' "$ROOT/Cargo.toml" | head -n 1)
schema: $schema
made: $(date -u +%Y-%m-%dT%H:%M:%SZ)
sha256: $(sha256sum <"$WORK/data.dump" | cut -d' ' -f1)
TEXT
  tar -cf "$file.part" -C "$WORK" about data.dump ||
    { rm -f "$file.part"; stop "the backup could not be written"; }
  mv "$file.part" "$file"
  say "wrote $file"
else
  checked
  pg_start "$VAR/demo"
  others=$(psql -qtA "$PG_ADMIN_URL" \
    -c "SELECT count(*) FROM pg_stat_activity WHERE datname = 'heliant'")
  [ "$others" = 0 ] || stop "the application is running: end it first (Ctrl-C where it was started)"
  export PGOPTIONS='-c client_min_messages=warning'
  psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE IF EXISTS heliant_restore' \
    -c 'CREATE DATABASE heliant_restore'
  if ! pg_restore --exit-on-error --no-owner \
    --dbname="${DATABASE_URL%/heliant}/heliant_restore" "$WORK/data.dump"; then
    psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE heliant_restore'
    refuse "its dump cannot be read"
  fi
  psql -q "$PG_ADMIN_URL" -c 'DROP DATABASE heliant' \
    -c 'ALTER DATABASE heliant_restore RENAME TO heliant'
  say "took the data from $file, made $(about made)"
fi
