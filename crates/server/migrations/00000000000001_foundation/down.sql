DROP TABLE sheets, readings, job_revisions, jobs, sign_in_failures, sessions, accounts;
DROP FUNCTION refuse_change;
