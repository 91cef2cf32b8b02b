-- A large pack is several documents: the papers in `packs.pdf`, and the appendices, from 1 on.
CREATE TABLE pack_appendices (
    job_id uuid NOT NULL,
    revision integer NOT NULL,
    readings_n integer NOT NULL,
    n integer NOT NULL CHECK (n > 0),
    pdf bytea NOT NULL,
    PRIMARY KEY (job_id, revision, readings_n, n),
    FOREIGN KEY (job_id, revision, readings_n) REFERENCES packs ON DELETE CASCADE
);
ALTER TABLE pack_appendices ALTER COLUMN pdf SET STORAGE EXTERNAL;

-- Put before all others by the owner.
ALTER TABLE packs ADD COLUMN put_first timestamptz;
