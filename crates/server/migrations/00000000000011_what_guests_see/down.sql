ALTER TABLE seats DROP COLUMN revision;
