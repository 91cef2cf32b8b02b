CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'rows of % are only ever added', TG_TABLE_NAME;
END
$$;
DROP INDEX jobs_updated;
DROP INDEX jobs_said;
ALTER TABLE jobs DROP COLUMN kept;
ALTER TABLE jobs DROP COLUMN said;
ALTER TABLE jobs DROP COLUMN archived_at;
