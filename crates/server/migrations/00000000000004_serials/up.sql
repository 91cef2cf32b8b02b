-- The serial numbers on a job's roof map stand in its line of the list, so that one that is scanned twice is found over all
-- jobs without reading their documents.
ALTER TABLE jobs ADD COLUMN serials text[] NOT NULL DEFAULT '{}';
UPDATE jobs SET serials = ARRAY(
    SELECT found #>> '{}'
    FROM job_revisions r, jsonb_path_query(r.document, '$.job.roof.*.modules.*.serial') AS found
    WHERE r.job_id = jobs.id AND r.revision = jobs.revision AND jsonb_typeof(found) = 'string'
);
CREATE INDEX jobs_serials ON jobs USING gin (serials);
