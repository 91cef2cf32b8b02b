-- One company per installation: accounts, sessions, jobs with every revision, readings, data sheets.

CREATE TABLE accounts (
    id uuid PRIMARY KEY,
    name text NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    sign_in text NOT NULL UNIQUE CHECK (sign_in = lower(sign_in) AND length(sign_in) BETWEEN 1 AND 120),
    role text NOT NULL CHECK (role IN ('owner', 'designer', 'field', 'viewer')),
    password_hash text NOT NULL,
    disabled boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL DEFAULT now()
);

-- The cookie itself is never kept, only its hash.
CREATE TABLE sessions (
    token_hash bytea PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);
CREATE INDEX sessions_expires_at ON sessions (expires_at);

CREATE TABLE sign_in_failures (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sign_in text NOT NULL,
    address text NOT NULL,
    at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failures_at ON sign_in_failures (at);

CREATE TABLE jobs (
    id uuid PRIMARY KEY,
    name text NOT NULL,
    school text NOT NULL CHECK (school IN ('na', 'iec')),
    revision integer NOT NULL CHECK (revision >= 1),
    verdict text NOT NULL,
    counts jsonb NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);
CREATE INDEX jobs_updated_at ON jobs (updated_at DESC);

CREATE TABLE job_revisions (
    job_id uuid NOT NULL REFERENCES jobs (id),
    revision integer NOT NULL CHECK (revision >= 1),
    document jsonb NOT NULL,
    saved_at timestamptz NOT NULL DEFAULT now(),
    saved_by text NOT NULL,
    PRIMARY KEY (job_id, revision)
);

CREATE TABLE readings (
    id uuid PRIMARY KEY,
    seq bigint GENERATED ALWAYS AS IDENTITY,
    job_id uuid NOT NULL REFERENCES jobs (id),
    taken_at timestamptz NOT NULL,
    taken_by text NOT NULL,
    entered_by uuid REFERENCES accounts (id),
    reading jsonb NOT NULL
);
CREATE INDEX readings_job ON readings (job_id, seq);

CREATE TABLE sheets (
    kind text NOT NULL CHECK (kind IN ('module', 'inverter')),
    sheet text NOT NULL,
    revision integer NOT NULL CHECK (revision >= 1),
    document jsonb NOT NULL,
    entered_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (kind, sheet, revision)
);

-- Records are only ever added to: a reading and a saved revision stay as they were.
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'rows of % are only ever added', TG_TABLE_NAME;
END
$$;
CREATE TRIGGER readings_only_added BEFORE UPDATE OR DELETE ON readings FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER job_revisions_only_added BEFORE UPDATE OR DELETE ON job_revisions FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER sheets_only_added BEFORE UPDATE OR DELETE ON sheets FOR EACH ROW EXECUTE FUNCTION refuse_change();
