-- +goose Up
-- How often the process that had taken a job died with it.
ALTER TABLE job ADD COLUMN IF NOT EXISTS deaths INT NOT NULL DEFAULT 0;
-- Sign-ins, by device. Whoever reads the table learns no token; sign-ins from before end.
CREATE TABLE IF NOT EXISTS session (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE, -- of its token
  student_id BIGINT NOT NULL,
  agent VARCHAR(300) NOT NULL, -- what the browser says it is
  begun_at DATETIME(3) NOT NULL,
  expires_at DATETIME(3) NOT NULL,
  INDEX (student_id),
  INDEX (expires_at),
  FOREIGN KEY (student_id) REFERENCES student (id) ON DELETE CASCADE
);
DROP TABLE IF EXISTS sessions;
-- Links by which a password can be set anew, once.
CREATE TABLE IF NOT EXISTS reset (
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, -- of the token in the link
  student_id BIGINT NOT NULL,
  expires_at DATETIME(3) NOT NULL,
  FOREIGN KEY (student_id) REFERENCES student (id) ON DELETE CASCADE
);
ALTER TABLE guess ADD COLUMN IF NOT EXISTS last DATETIME(3) NOT NULL DEFAULT '2000-01-01'; -- of them
-- Of the calendar link the digest is kept.
ALTER TABLE student ADD COLUMN IF NOT EXISTS feed_digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL;
UPDATE student SET feed_digest = SHA2(feed_token, 256) WHERE feed_token IS NOT NULL;
CREATE UNIQUE INDEX IF NOT EXISTS student_feed_digest ON student (feed_digest);
-- Tokens are sealed by the program when it starts.
ALTER TABLE site MODIFY token VARCHAR(1000) NOT NULL;
