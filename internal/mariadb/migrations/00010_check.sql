-- +goose Up
-- Files of the Library that a student's work is compared with before it is sent: that of one assignment, or of a whole course.
CREATE TABLE IF NOT EXISTS source (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  course_id BIGINT NOT NULL,
  assignment_id BIGINT NULL, -- none: all of the course
  version_id BIGINT NOT NULL,
  INDEX (student_id),
  FOREIGN KEY (course_id) REFERENCES course (id) ON DELETE CASCADE,
  FOREIGN KEY (assignment_id) REFERENCES assignment (id) ON DELETE CASCADE,
  FOREIGN KEY (version_id) REFERENCES version (id) ON DELETE CASCADE
);
-- The student's own check of what an attempt holds, the last one.
CREATE TABLE IF NOT EXISTS own_check (
  attempt_id BIGINT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  made_at DATETIME(3) NOT NULL,
  mark CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, -- of the bundle as it was
  body LONGTEXT NOT NULL,
  INDEX (student_id),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id) ON DELETE CASCADE
);
CREATE TABLE IF NOT EXISTS own_passage (
  attempt_id BIGINT NOT NULL,
  n INT NOT NULL,
  handled ENUM('fixed', 'not_mine') NOT NULL,
  PRIMARY KEY (attempt_id, n),
  FOREIGN KEY (attempt_id) REFERENCES own_check (attempt_id) ON DELETE CASCADE
);
