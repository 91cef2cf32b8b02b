DROP TABLE pack_appendices;
ALTER TABLE packs DROP COLUMN put_first;
