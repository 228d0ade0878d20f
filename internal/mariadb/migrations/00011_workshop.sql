-- +goose Up
-- What a tool of the Workshop makes for a part: from versions, by wishes. It lies apart until the student takes it.
CREATE TABLE IF NOT EXISTS workpiece (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  part_id BIGINT NOT NULL,
  tool VARCHAR(16) NOT NULL,
  versions JSON NOT NULL, -- that it is made of, in order
  wishes LONGTEXT NOT NULL,
  state ENUM('waiting', 'made', 'failed', 'taken') NOT NULL DEFAULT 'waiting',
  done INT NOT NULL DEFAULT 0, -- steps, of so many
  steps INT NOT NULL DEFAULT 0,
  said JSON NOT NULL, -- what was done and what to mind, in sentences
  trouble VARCHAR(500) NOT NULL DEFAULT '', -- why it failed
  took JSON NOT NULL, -- what taking it changed in the bundle, so that it can be undone
  created_at DATETIME(3) NOT NULL,
  INDEX (student_id),
  INDEX (created_at),
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE
);
CREATE TABLE IF NOT EXISTS workpiece_file (
  workpiece_id BIGINT NOT NULL,
  n INT NOT NULL,
  name VARCHAR(255) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  bytes BIGINT NOT NULL,
  PRIMARY KEY (workpiece_id, n),
  INDEX (digest),
  FOREIGN KEY (workpiece_id) REFERENCES workpiece (id) ON DELETE CASCADE
);
-- What is being written in the Workshop: a typed answer, or ink on the pages of a version. Kept at every pause.
CREATE TABLE IF NOT EXISTS writing (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  part_id BIGINT NOT NULL,
  version_id BIGINT NOT NULL DEFAULT 0, -- that is written on; 0: a typed answer
  body LONGTEXT NOT NULL,
  revision INT NOT NULL,
  updated_at DATETIME(3) NOT NULL,
  UNIQUE (part_id, version_id),
  INDEX (student_id),
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE
);
-- Lets one browser, a telephone's, put photographs into one slot for some minutes without signing in.
CREATE TABLE IF NOT EXISTS pass (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  student_id BIGINT NOT NULL,
  part_id BIGINT NOT NULL,
  slot VARCHAR(100) NOT NULL,
  ends_at DATETIME(3) NOT NULL,
  browser CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '', -- that took it, by the digest of its cookie
  came INT NOT NULL DEFAULT 0, -- photographs
  INDEX (student_id),
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE
);
ALTER TABLE item ADD COLUMN IF NOT EXISTS place INT NOT NULL DEFAULT 0; -- among those of the bundle; of equal ones the older comes first
