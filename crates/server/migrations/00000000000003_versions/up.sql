-- Every stored document carries the version of the job file it was written in; what was kept before is of version 2.
-- Which kinds of data sheets there are is the program's to say.

ALTER TABLE job_revisions ADD COLUMN version integer NOT NULL DEFAULT 2 CHECK (version >= 1);
ALTER TABLE readings ADD COLUMN version integer NOT NULL DEFAULT 2 CHECK (version >= 1);
ALTER TABLE sheets ADD COLUMN version integer NOT NULL DEFAULT 2 CHECK (version >= 1);
ALTER TABLE job_revisions ALTER COLUMN version DROP DEFAULT;
ALTER TABLE readings ALTER COLUMN version DROP DEFAULT;
ALTER TABLE sheets ALTER COLUMN version DROP DEFAULT;
ALTER TABLE sheets DROP CONSTRAINT sheets_kind_check;

-- How many readings the job's line in the list was computed with: a save that does not know the newest is computed again.
ALTER TABLE jobs ADD COLUMN readings_n integer NOT NULL DEFAULT 0;
UPDATE jobs SET readings_n = (SELECT count(*) FROM readings WHERE readings.job_id = jobs.id);
