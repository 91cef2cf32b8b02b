-- What somebody from outside sees of a job: the revision given, or the present one where none is.
ALTER TABLE seats ADD COLUMN revision integer CHECK (revision > 0);
