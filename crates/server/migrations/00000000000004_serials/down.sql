DROP INDEX jobs_serials;
ALTER TABLE jobs DROP COLUMN serials;
