-- A name that somebody gave a revision: a label on what never changes.
CREATE TABLE revision_names (
    job_id uuid NOT NULL,
    revision integer NOT NULL,
    name text NOT NULL CHECK (length(name) BETWEEN 1 AND 80),
    named_by text NOT NULL,
    named_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (job_id, revision),
    FOREIGN KEY (job_id, revision) REFERENCES job_revisions (job_id, revision)
);
