-- What is made off the request path: packs by the press, and what a data sheet does to the jobs that hold an older one.
-- Both can be made again from what is kept elsewhere: a backup leaves their rows out.

CREATE TABLE packs (
    job_id uuid NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    revision integer NOT NULL,
    readings_n integer NOT NULL,
    -- The programs that made it: others print it otherwise.
    edition text NOT NULL,
    state text NOT NULL DEFAULT 'queued' CHECK (state IN ('queued', 'setting', 'ready', 'failed')),
    phase text NOT NULL DEFAULT '',
    asked_by text NOT NULL,
    asked_by_id uuid REFERENCES accounts (id),
    asked_at timestamptz NOT NULL DEFAULT clock_timestamp(),
    begun_at timestamptz,
    -- Said anew while it is being set; a server that died says nothing, and another takes it up.
    alive_at timestamptz,
    took_ms integer,
    problem text,
    pdf bytea,
    PRIMARY KEY (job_id, revision, readings_n)
);
ALTER TABLE packs ALTER COLUMN pdf SET STORAGE EXTERNAL;
CREATE INDEX packs_waiting ON packs (asked_at) WHERE state IN ('queued', 'setting');

-- The newest row of a job and a revision of a sheet; of the job's revision it names.
CREATE TABLE consequences (
    kind text NOT NULL,
    sheet text NOT NULL,
    revision integer NOT NULL,
    job_id uuid NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    job_revision integer NOT NULL,
    edition text NOT NULL,
    -- 2 stops, 1 caution, 0 neither.
    worst smallint NOT NULL,
    -- Null where the job holds no older revision.
    effect jsonb,
    PRIMARY KEY (kind, sheet, revision, job_id)
);

-- The data sheets a job holds, in its line of the list: `modules/key` and `modules@revision/key`, so that no document is
-- read to find the jobs of a sheet.
ALTER TABLE jobs ADD COLUMN sheets text[] NOT NULL DEFAULT '{}';
UPDATE jobs SET sheets = ARRAY(
    SELECT entry FROM job_revisions r,
        jsonb_each(r.document -> 'library') AS l (list, entries), jsonb_array_elements(l.entries) AS s (held),
        LATERAL (VALUES (l.list || '/' || (held ->> 'sheet')),
            (l.list || '@' || (held ->> 'revision') || '/' || (held ->> 'sheet'))) AS e (entry)
    WHERE r.job_id = jobs.id AND r.revision = jobs.revision AND jsonb_typeof(l.entries) = 'array'
);
CREATE INDEX jobs_sheets ON jobs USING gin (sheets);
DROP INDEX job_revisions_library;
