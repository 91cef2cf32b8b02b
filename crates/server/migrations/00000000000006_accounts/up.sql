-- Signing in: devices that somebody signed in on before are let through where strangers have to wait; passwords are changed
-- by oneself or through a link that serves once.

CREATE TABLE devices (
    token_hash bytea PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    seen_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX devices_account ON devices (account_id);

CREATE TABLE password_links (
    token_hash bytea PRIMARY KEY,
    account_id uuid NOT NULL UNIQUE REFERENCES accounts (id) ON DELETE CASCADE,
    made_by text NOT NULL,
    expires_at timestamptz NOT NULL
);

-- A try stands here from before its password is looked at, and goes when it was right. `device` is the known one it came from.
ALTER TABLE sign_in_failures ADD COLUMN device bytea;
CREATE INDEX sign_in_failures_name ON sign_in_failures (sign_in, at);
CREATE INDEX sign_in_failures_address ON sign_in_failures (address, at);
