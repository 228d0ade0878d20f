-- +goose Up
-- What the migration before has moved goes; what students' loads look for gets an index.
/*M! ALTER TABLE site ADD CONSTRAINT site_enrolment FOREIGN KEY IF NOT EXISTS (enrolment_id) REFERENCES enrolment (id) */;
/*M! ALTER TABLE course ADD CONSTRAINT course_enrolment FOREIGN KEY IF NOT EXISTS (enrolment_id) REFERENCES enrolment (id) */;
ALTER TABLE site DROP COLUMN IF EXISTS public_key, DROP COLUMN IF EXISTS clock_offset_ms;
ALTER TABLE item MODIFY attempt_id BIGINT NOT NULL, ADD INDEX IF NOT EXISTS item_attempt (attempt_id), ADD INDEX IF NOT EXISTS item_student (student_id);
/*M! ALTER TABLE item DROP FOREIGN KEY IF EXISTS item_ibfk_1 */;
ALTER TABLE item DROP INDEX IF EXISTS assignment_id, DROP COLUMN IF EXISTS assignment_id, DROP COLUMN IF EXISTS attempt;
/*M! ALTER TABLE item ADD CONSTRAINT item_of_attempt FOREIGN KEY IF NOT EXISTS (attempt_id) REFERENCES attempt (id) */;
ALTER TABLE submission MODIFY attempt_id BIGINT NOT NULL;
/*M! ALTER TABLE submission DROP FOREIGN KEY IF EXISTS submission_ibfk_1 */;
ALTER TABLE submission DROP INDEX IF EXISTS assignment_id;
ALTER TABLE submission DROP COLUMN IF EXISTS assignment_id, DROP COLUMN IF EXISTS attempt;
CREATE UNIQUE INDEX IF NOT EXISTS submission_live ON submission (attempt_id, live);
/*M! ALTER TABLE submission ADD CONSTRAINT submission_of_attempt FOREIGN KEY IF NOT EXISTS (attempt_id) REFERENCES attempt (id) */;
ALTER TABLE assignment DROP COLUMN IF EXISTS opens, DROP COLUMN IF EXISTS due, DROP COLUMN IF EXISTS closes, DROP COLUMN IF EXISTS grace_minutes, DROP COLUMN IF EXISTS due_was,
  DROP COLUMN IF EXISTS parts, DROP COLUMN IF EXISTS extension, DROP COLUMN IF EXISTS noted;
ALTER TABLE ledger DROP COLUMN IF EXISTS receipt, MODIFY received LONGBLOB NOT NULL;
ALTER TABLE report DROP COLUMN IF EXISTS handled, ADD INDEX IF NOT EXISTS report_student (student_id);
ALTER TABLE returned ADD INDEX IF NOT EXISTS returned_student (student_id);
ALTER TABLE job ADD COLUMN IF NOT EXISTS token CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '', -- of the worker that has taken it
  ADD COLUMN IF NOT EXISTS asked BOOLEAN NOT NULL DEFAULT FALSE, -- for again while it ran
  ADD INDEX IF NOT EXISTS job_student (student_id);
ALTER TABLE event ADD INDEX IF NOT EXISTS event_at (at);
ALTER TABLE signin_failure ADD INDEX IF NOT EXISTS failure_at (at);
ALTER TABLE version ADD INDEX IF NOT EXISTS version_digest (digest);
ALTER TABLE handout ADD INDEX IF NOT EXISTS handout_digest (digest);
ALTER TABLE student MODIFY feed_token VARCHAR(64) CHARACTER SET ascii NULL DEFAULT NULL;
UPDATE student SET feed_token = NULL WHERE feed_token = '';
CREATE UNIQUE INDEX IF NOT EXISTS student_feed ON student (feed_token);
