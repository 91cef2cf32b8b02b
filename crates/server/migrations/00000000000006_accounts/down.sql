DROP INDEX sign_in_failures_address;
DROP INDEX sign_in_failures_name;
ALTER TABLE sign_in_failures DROP COLUMN device;
DROP TABLE password_links;
DROP TABLE devices;
