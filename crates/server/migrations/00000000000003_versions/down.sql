ALTER TABLE jobs DROP COLUMN readings_n;
ALTER TABLE sheets ADD CONSTRAINT sheets_kind_check CHECK (kind IN ('module', 'inverter', 'optimizer', 'micro'));
ALTER TABLE sheets DROP COLUMN version;
ALTER TABLE readings DROP COLUMN version;
ALTER TABLE job_revisions DROP COLUMN version;
