-- +goose Up
-- Who asked for a link by which a password can be set anew: looked up by a job, so that the answer tells nothing of whether
-- there is such an account.
CREATE TABLE IF NOT EXISTS reset_asked (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  email VARCHAR(200) NOT NULL,
  asked_at DATETIME(3) NOT NULL,
  INDEX (asked_at)
);
