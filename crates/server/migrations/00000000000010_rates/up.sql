-- The company's own prices and times, by the keys of the rule table of rates; what is not in it goes by the table.
ALTER TABLE company ADD COLUMN rates jsonb NOT NULL DEFAULT '{}';
