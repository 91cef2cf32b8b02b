-- The list of jobs: put away, found by what stands in them, waiting for a decision on a data sheet, deleted by the owner.
CREATE EXTENSION IF NOT EXISTS pg_trgm;

ALTER TABLE jobs ADD COLUMN archived_at timestamptz;
-- What is looked through for words: name, address and notes of the newest revision.
ALTER TABLE jobs ADD COLUMN said text NOT NULL DEFAULT '';
-- Newer revisions of data sheets that somebody decided against, as entries like those of `sheets`.
ALTER TABLE jobs ADD COLUMN kept text[] NOT NULL DEFAULT '{}';
UPDATE jobs SET
    said = concat_ws(E'\n', r.document #>> '{job,name}', r.document #>> '{job,address}', r.document #>> '{job,notes}'),
    kept = ARRAY(
        SELECT (k ->> 'kind') || 's@' || (k ->> 'newer') || '/' || (k ->> 'sheet')
        FROM jsonb_array_elements(coalesce(r.document #> '{job,kept_sheets}', '[]')) AS k
    )
FROM job_revisions r WHERE r.job_id = jobs.id AND r.revision = jobs.revision;
CREATE INDEX jobs_said ON jobs USING gin ((said || ' ' || updated_by) gin_trgm_ops);
CREATE INDEX jobs_updated ON jobs (updated_at DESC, id);

-- What was only ever added goes with its job, where its owner says so: within a transaction that names the job.
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' AND to_jsonb(OLD) ->> 'job_id' = current_setting('heliant.deleting', true) THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION 'rows of % are only ever added', TG_TABLE_NAME;
END
$$;
