-- +goose Up
ALTER TABLE student
  ADD COLUMN IF NOT EXISTS settings JSON NOT NULL DEFAULT '{}', -- hours, margin, reminders: track.Settings
  ADD COLUMN IF NOT EXISTS feed_token VARCHAR(64) CHARACTER SET ascii NOT NULL DEFAULT '', -- of the calendar feed; empty: there is none
  ADD COLUMN IF NOT EXISTS seen_event BIGINT NOT NULL DEFAULT 0; -- the last change that was looked at
ALTER TABLE course
  MODIFY site_id BIGINT NULL, -- none: the student's own
  ADD COLUMN IF NOT EXISTS contact VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS term VARCHAR(60) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS archived BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN IF NOT EXISTS usual JSON NOT NULL DEFAULT '{}'; -- what new assignments begin with: track.Usual
ALTER TABLE assignment
  ADD COLUMN IF NOT EXISTS source ENUM('site', 'own', 'calendar') NOT NULL DEFAULT 'site',
  ADD COLUMN IF NOT EXISTS parts JSON NOT NULL DEFAULT '[]', -- with windows of their own: prepare.Part
  ADD COLUMN IF NOT EXISTS extension JSON NOT NULL DEFAULT '{}', -- prepare.Extension
  ADD COLUMN IF NOT EXISTS noted JSON NOT NULL DEFAULT '{}', -- sent outside of Orario: prepare.Noted
  ADD COLUMN IF NOT EXISTS effort_low INT NULL, -- minutes if all goes well, and if little does
  ADD COLUMN IF NOT EXISTS effort_high INT NULL,
  ADD COLUMN IF NOT EXISTS cancelled BOOLEAN NOT NULL DEFAULT FALSE; -- by the calendar that it came from
CREATE TABLE IF NOT EXISTS work (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_id BIGINT NOT NULL,
  at DATETIME(3) NOT NULL,
  minutes INT NOT NULL, -- below 0: a correction
  INDEX (student_id, assignment_id),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id) ON DELETE CASCADE
);
/*M! ALTER TABLE assignment ADD COLUMN IF NOT EXISTS done_minutes INT NOT NULL DEFAULT 0 */; -- where it broke off after this was dropped
INSERT INTO work (student_id, assignment_id, at, minutes)
  SELECT student_id, id, NOW(3), done_minutes FROM assignment
  WHERE done_minutes > 0 AND NOT EXISTS (SELECT 1 FROM work w WHERE w.assignment_id = assignment.id);
ALTER TABLE assignment DROP COLUMN IF EXISTS done_minutes, ADD COLUMN IF NOT EXISTS not_before DATETIME(3) NULL; -- of planned work: "I start on Saturday"
CREATE TABLE IF NOT EXISTS pin (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_id BIGINT NOT NULL,
  start_at DATETIME(3) NOT NULL,
  end_at DATETIME(3) NOT NULL,
  INDEX (student_id),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id) ON DELETE CASCADE
);
CREATE TABLE IF NOT EXISTS feed (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  name VARCHAR(200) NOT NULL,
  url VARCHAR(1000) NOT NULL, -- empty: a file that was given once
  purpose ENUM('due', 'busy') NOT NULL,
  course_id BIGINT NULL, -- of all that is due in it; none: by its categories
  synced_at DATETIME(3) NULL,
  notice VARCHAR(500) NOT NULL DEFAULT '',
  INDEX (student_id),
  FOREIGN KEY (student_id) REFERENCES student (id),
  FOREIGN KEY (course_id) REFERENCES course (id)
);
CREATE TABLE IF NOT EXISTS busy (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  feed_id BIGINT NOT NULL,
  title VARCHAR(300) NOT NULL,
  start_at DATETIME(3) NOT NULL,
  end_at DATETIME(3) NOT NULL,
  INDEX (student_id, end_at),
  FOREIGN KEY (feed_id) REFERENCES feed (id) ON DELETE CASCADE
);
CREATE TABLE IF NOT EXISTS reminder (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  mark VARCHAR(160) NOT NULL, -- what it is about; nothing is said twice
  assignment_id BIGINT NOT NULL,
  text VARCHAR(500) NOT NULL,
  at DATETIME(3) NOT NULL,
  mailed BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE (student_id, mark)
);
CREATE TABLE IF NOT EXISTS saved_view (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  name VARCHAR(60) NOT NULL,
  filter VARCHAR(500) NOT NULL,
  UNIQUE (student_id, name),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
