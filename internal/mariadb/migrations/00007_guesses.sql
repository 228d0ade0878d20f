-- +goose Up
-- Guesses at passwords are counted in one row each, so that an attempt is counted before it is made, however many come at once.
CREATE TABLE IF NOT EXISTS guess (
  who VARCHAR(220) PRIMARY KEY, -- an address or an account
  n INT NOT NULL,
  since DATETIME(3) NOT NULL, -- the first of them
  INDEX (since)
);
DROP TABLE IF EXISTS signin_failure;
