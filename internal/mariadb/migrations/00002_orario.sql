-- +goose Up
CREATE TABLE IF NOT EXISTS student (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  email VARCHAR(200) NOT NULL UNIQUE,
  password_hash VARCHAR(200) NOT NULL,
  family VARCHAR(100) NOT NULL,
  given VARCHAR(100) NOT NULL,
  number VARCHAR(32) NOT NULL,
  zone VARCHAR(64) NOT NULL,
  demo BOOLEAN NOT NULL DEFAULT FALSE, -- may be entered without a password where the server allows it
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
CREATE TABLE IF NOT EXISTS sessions (
  token CHAR(43) PRIMARY KEY,
  data BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  INDEX (expiry)
);
CREATE TABLE IF NOT EXISTS signin_failure (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  who VARCHAR(220) NOT NULL, -- an address or an account
  at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  INDEX (who, at)
);
CREATE TABLE IF NOT EXISTS site (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  name VARCHAR(200) NOT NULL,
  base_url VARCHAR(500) NOT NULL,
  token VARCHAR(200) NOT NULL,
  public_key VARCHAR(64) NOT NULL DEFAULT '',
  clock_offset_ms BIGINT NOT NULL DEFAULT 0, -- the site's clock less ours
  bytes_per_second DOUBLE NULL, -- the slowest of the last transfers
  synced_at DATETIME(3) NULL,
  notice VARCHAR(500) NOT NULL DEFAULT '', -- why the last sync failed, or empty
  UNIQUE (student_id, base_url(200)),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
CREATE TABLE IF NOT EXISTS course (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  site_id BIGINT NOT NULL,
  site_key VARCHAR(64) NOT NULL,
  code VARCHAR(32) NOT NULL,
  title VARCHAR(200) NOT NULL,
  zone VARCHAR(64) NOT NULL,
  instructor VARCHAR(200) NOT NULL,
  name_habit VARCHAR(255) NOT NULL DEFAULT '', -- the student's pattern where an assignment gives none
  UNIQUE (site_id, site_key),
  FOREIGN KEY (student_id) REFERENCES student (id),
  FOREIGN KEY (site_id) REFERENCES site (id)
);
CREATE TABLE IF NOT EXISTS assignment (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  course_id BIGINT NOT NULL,
  site_key VARCHAR(64) NOT NULL,
  -- as the site publishes it; replaced by every sync
  title VARCHAR(300) NOT NULL,
  instructions MEDIUMTEXT NOT NULL,
  opens VARCHAR(19) NOT NULL, -- wall times in the course's zone, or empty
  due VARCHAR(19) NOT NULL,
  closes VARCHAR(19) NOT NULL,
  grace_minutes INT NOT NULL,
  late JSON NOT NULL,
  points DOUBLE NOT NULL,
  weight DOUBLE NOT NULL, -- percent of the course
  sheet JSON NOT NULL,
  first_report_minutes INT NOT NULL,
  later_report_minutes INT NOT NULL,
  due_was VARCHAR(19) NOT NULL DEFAULT '', -- before the last change
  -- the student's own; no sync touches it
  own JSON NOT NULL DEFAULT '{}',
  effort_minutes INT NOT NULL DEFAULT 180,
  done_minutes INT NOT NULL DEFAULT 0,
  enough BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE (course_id, site_key),
  INDEX (student_id),
  FOREIGN KEY (student_id) REFERENCES student (id),
  FOREIGN KEY (course_id) REFERENCES course (id)
);
CREATE TABLE IF NOT EXISTS handout (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  assignment_id BIGINT NOT NULL,
  name VARCHAR(255) NOT NULL,
  bytes BIGINT NOT NULL,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  UNIQUE (assignment_id, name),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id) ON DELETE CASCADE
);
CREATE TABLE IF NOT EXISTS version (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  name VARCHAR(255) NOT NULL,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  bytes BIGINT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  facts JSON NOT NULL,
  body MEDIUMTEXT NOT NULL, -- the text in it, for search and comparison
  made_from BIGINT NULL,
  created_at DATETIME(3) NOT NULL,
  INDEX (student_id, created_at),
  FOREIGN KEY (student_id) REFERENCES student (id),
  FOREIGN KEY (made_from) REFERENCES version (id)
);
CREATE TABLE IF NOT EXISTS item (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_id BIGINT NOT NULL,
  attempt INT NOT NULL,
  slot VARCHAR(100) NOT NULL,
  name VARCHAR(255) NOT NULL, -- under which it is sent
  version_id BIGINT NOT NULL,
  INDEX (assignment_id, attempt),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id),
  FOREIGN KEY (version_id) REFERENCES version (id)
);
CREATE TABLE IF NOT EXISTS submission (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_id BIGINT NOT NULL,
  attempt INT NOT NULL,
  idempotency_key CHAR(26) CHARACTER SET ascii NOT NULL UNIQUE,
  state ENUM('sending', 'accepted', 'refused', 'cancelled') NOT NULL DEFAULT 'sending',
  -- while it is or may be under way there is one per attempt
  live TINYINT AS (IF(state IN ('sending', 'accepted'), 1, NULL)) STORED,
  declared BOOLEAN NOT NULL,
  comment VARCHAR(4000) NOT NULL,
  started_at DATETIME(3) NOT NULL,
  reason VARCHAR(1000) NOT NULL DEFAULT '', -- of a refusal, or of the last failure
  draft_id BIGINT NULL,
  total_bytes BIGINT NOT NULL,
  sent_bytes BIGINT NOT NULL DEFAULT 0,
  number VARCHAR(64) NOT NULL DEFAULT '',
  accepted_at DATETIME(3) NULL,
  UNIQUE (assignment_id, attempt, live),
  INDEX (student_id),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id)
);
CREATE TABLE IF NOT EXISTS submission_file (
  submission_id BIGINT NOT NULL,
  n INT NOT NULL,
  version_id BIGINT NOT NULL,
  slot VARCHAR(100) NOT NULL,
  name VARCHAR(255) NOT NULL,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  bytes BIGINT NOT NULL,
  upload_url VARCHAR(500) NOT NULL DEFAULT '', -- at the site, while it is being uploaded
  PRIMARY KEY (submission_id, n),
  FOREIGN KEY (submission_id) REFERENCES submission (id),
  FOREIGN KEY (version_id) REFERENCES version (id)
);
-- Receipts in the order in which they came; nothing is ever changed or taken out.
CREATE TABLE IF NOT EXISTS ledger (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  submission_id BIGINT NOT NULL UNIQUE,
  receipt JSON NOT NULL,
  proof JSON NOT NULL,
  recorded_at DATETIME(3) NOT NULL,
  INDEX (student_id, id),
  FOREIGN KEY (submission_id) REFERENCES submission (id)
);
CREATE TABLE IF NOT EXISTS report (
  submission_id BIGINT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  state ENUM('waiting', 'ready') NOT NULL,
  expected_at DATETIME(3) NULL,
  made_at DATETIME(3) NULL,
  share DOUBLE NULL,
  body LONGTEXT NOT NULL DEFAULT '', -- as it came
  handled JSON NOT NULL DEFAULT '{}', -- passage number: fixed or not mine
  FOREIGN KEY (submission_id) REFERENCES submission (id)
);
CREATE TABLE IF NOT EXISTS returned (
  submission_id BIGINT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  mark DOUBLE NULL,
  points DOUBLE NOT NULL,
  comments JSON NOT NULL,
  invited BOOLEAN NOT NULL,
  marked_at DATETIME(3) NULL,
  FOREIGN KEY (submission_id) REFERENCES submission (id)
);
CREATE TABLE IF NOT EXISTS job (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(32) NOT NULL,
  subject BIGINT NOT NULL, -- of what: a site, an item, a submission
  student_id BIGINT NOT NULL,
  run_at DATETIME(3) NOT NULL,
  tries INT NOT NULL DEFAULT 0,
  taken_until DATETIME(3) NULL, -- by a worker that is alive
  failure VARCHAR(500) NOT NULL DEFAULT '',
  UNIQUE (kind, subject), -- the same thing is never done twice at once
  INDEX (run_at)
);
CREATE TABLE IF NOT EXISTS event (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  kind VARCHAR(32) NOT NULL,
  assignment_id BIGINT NOT NULL DEFAULT 0,
  text VARCHAR(500) NOT NULL,
  INDEX (student_id, id)
);
