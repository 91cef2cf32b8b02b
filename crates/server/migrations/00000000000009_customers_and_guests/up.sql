-- Templates, readings that are withdrawn, people from outside who see the jobs they were given, and what units are shown.
ALTER TABLE jobs ADD COLUMN template boolean NOT NULL DEFAULT false;

-- A reading stays as it was read: that it counts for nothing is a record beside it. `jobs.readings_n` counts both.
CREATE TABLE withdrawals (
    job_id uuid NOT NULL REFERENCES jobs (id),
    -- The id a reading has in its job, which is not its row's where it came with a file.
    reading text NOT NULL,
    withdrawn_at timestamptz NOT NULL,
    withdrawn_by text NOT NULL,
    reason text NOT NULL CHECK (length(reason) BETWEEN 1 AND 200),
    -- Which of the job's records it is, as `jobs.readings_n` counts: what was before it can be shown as it stood.
    record_n integer NOT NULL,
    PRIMARY KEY (job_id, reading)
);
CREATE TRIGGER withdrawals_only_added BEFORE UPDATE OR DELETE ON withdrawals
    FOR EACH ROW EXECUTE FUNCTION refuse_change();

-- From outside the company: sees the jobs given, and nothing else.
ALTER TABLE accounts DROP CONSTRAINT accounts_role_check;
ALTER TABLE accounts ADD CONSTRAINT accounts_role_check
    CHECK (role IN ('owner', 'designer', 'field', 'viewer', 'inspector'));
CREATE TABLE seats (
    account_id uuid NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    job_id uuid NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    given_by text NOT NULL,
    given_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, job_id)
);
CREATE INDEX seats_job ON seats (job_id);

-- A link is an account that nobody signs in to: a seat at one job and a session that ends on a date.
ALTER TABLE accounts ADD COLUMN link_until timestamptz;

-- What units are shown: of the company (one row), and what somebody chose otherwise.
CREATE TABLE company (
    one boolean PRIMARY KEY DEFAULT true CHECK (one),
    shown jsonb NOT NULL DEFAULT '{}'
);
INSERT INTO company DEFAULT VALUES;
ALTER TABLE accounts ADD COLUMN shown jsonb NOT NULL DEFAULT '{}';
