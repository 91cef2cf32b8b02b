CREATE INDEX job_revisions_library ON job_revisions USING gin ((document -> 'library') jsonb_path_ops);
ALTER TABLE jobs DROP COLUMN sheets;
DROP TABLE consequences;
DROP TABLE packs;
