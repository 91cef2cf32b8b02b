DROP INDEX job_revisions_library;
DROP TABLE sheet_states;
ALTER TABLE sheets DROP COLUMN from_document;
ALTER TABLE sheets DROP COLUMN entered_by;
ALTER TABLE sheets DROP CONSTRAINT sheets_kind_check;
ALTER TABLE sheets ADD CONSTRAINT sheets_kind_check CHECK (kind IN ('module', 'inverter'));
