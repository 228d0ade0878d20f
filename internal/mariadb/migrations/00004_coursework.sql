-- +goose Up
-- Parts, attempts and enrolments as rows. Every statement can be run again after a break; what is left over is dropped by
-- the next migration.
CREATE TABLE IF NOT EXISTS enrolment (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  institution VARCHAR(200) NOT NULL,
  number VARCHAR(32) NOT NULL, -- and the names as registered there
  family VARCHAR(100) NOT NULL,
  given VARCHAR(100) NOT NULL,
  zone VARCHAR(64) NOT NULL,
  clock_offset_ms BIGINT NOT NULL DEFAULT 0, -- the institution's clock less ours
  INDEX (student_id),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
INSERT IGNORE INTO enrolment (id, student_id, institution, number, family, given, zone, clock_offset_ms)
  SELECT s.id, s.student_id, s.name, st.number, st.family, st.given, st.zone, s.clock_offset_ms FROM site s JOIN student st ON st.id = s.student_id;
ALTER TABLE site ADD COLUMN IF NOT EXISTS enrolment_id BIGINT NULL, ADD COLUMN IF NOT EXISTS revision BIGINT NOT NULL DEFAULT -1; -- of what was taken over last
UPDATE site SET enrolment_id = id WHERE enrolment_id IS NULL;
ALTER TABLE site MODIFY enrolment_id BIGINT NOT NULL;
ALTER TABLE course ADD COLUMN IF NOT EXISTS enrolment_id BIGINT NULL;
UPDATE course c JOIN site s ON s.id = c.site_id SET c.enrolment_id = s.enrolment_id WHERE c.enrolment_id IS NULL;
-- The keys that a site has signed with; none is ever replaced.
CREATE TABLE IF NOT EXISTS site_key (
  site_id BIGINT NOT NULL,
  key_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, -- empty: not known yet
  public_key VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  first_seen DATETIME(3) NOT NULL,
  PRIMARY KEY (site_id, key_id),
  FOREIGN KEY (site_id) REFERENCES site (id)
);
INSERT IGNORE INTO site_key (site_id, key_id, public_key, first_seen)
  SELECT s.id, COALESCE((SELECT JSON_VALUE(l.receipt, '$.key') FROM ledger l JOIN submission u ON u.id = l.submission_id JOIN assignment a ON a.id = u.assignment_id
    JOIN course c ON c.id = a.course_id WHERE c.site_id = s.id ORDER BY l.id DESC LIMIT 1), ''), s.public_key, COALESCE(s.synced_at, NOW(3)) FROM site s WHERE s.public_key <> '';

CREATE TABLE IF NOT EXISTS part (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  assignment_id BIGINT NOT NULL,
  n INT NOT NULL, -- its place, from 1 on
  name VARCHAR(100) NOT NULL, -- empty where there is only one
  opens VARCHAR(19) NOT NULL, -- wall times in the course's zone, or empty
  due VARCHAR(19) NOT NULL,
  closes VARCHAR(19) NOT NULL,
  grace_minutes INT NOT NULL,
  due_was VARCHAR(19) NOT NULL DEFAULT '', -- before the last change
  points DOUBLE NULL, -- of its own
  weight DOUBLE NULL,
  route VARCHAR(16) NOT NULL DEFAULT '',
  slots JSON NOT NULL DEFAULT '[]', -- of its own
  UNIQUE (assignment_id, n),
  FOREIGN KEY (assignment_id) REFERENCES assignment (id) ON DELETE CASCADE
);
INSERT IGNORE INTO part (assignment_id, n, name, opens, due, closes, grace_minutes, due_was)
  SELECT a.id, 1, '', a.opens, a.due, a.closes, a.grace_minutes, a.due_was FROM assignment a WHERE JSON_LENGTH(a.parts) = 0;
INSERT IGNORE INTO part (assignment_id, n, name, opens, due, closes, grace_minutes, due_was)
  SELECT a.id, s.n + 1, COALESCE(NULLIF(JSON_VALUE(a.parts, CONCAT('$[', s.n, '].name')), ''), IF(JSON_LENGTH(a.parts) > 1, CONCAT('part ', s.n + 1), '')), COALESCE(JSON_VALUE(a.parts, CONCAT('$[', s.n, '].opens')), ''), JSON_VALUE(a.parts, CONCAT('$[', s.n, '].due')),
    COALESCE(JSON_VALUE(a.parts, CONCAT('$[', s.n, '].closes')), ''), a.grace_minutes, IF(s.n = 0, a.due_was, '')
  FROM assignment a JOIN (SELECT 0 AS n UNION ALL SELECT 1 UNION ALL SELECT 2 UNION ALL SELECT 3 UNION ALL SELECT 4) s ON s.n < JSON_LENGTH(a.parts) ORDER BY a.id, s.n;
-- More time that was asked for or given, and what was sent outside of Orario.
CREATE TABLE IF NOT EXISTS extension (
  part_id BIGINT PRIMARY KEY,
  asked_at DATETIME(3) NULL,
  granted_at DATETIME(3) NULL,
  due VARCHAR(19) NOT NULL DEFAULT '',
  closes VARCHAR(19) NOT NULL DEFAULT '',
  note VARCHAR(500) NOT NULL DEFAULT '',
  version_id BIGINT NULL, -- that proves it
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE
);
-- One for a part that is not there any more had no effect; what it says is kept with the first part.
INSERT IGNORE INTO extension (part_id, asked_at, granted_at, due, closes, note, version_id)
  SELECT p.id, REPLACE(REPLACE(JSON_VALUE(a.extension, '$.asked'), 'T', ' '), 'Z', ''), IF(COALESCE(JSON_VALUE(a.parts, CONCAT('$[', p.n - 1, '].name')), '') = COALESCE(JSON_VALUE(a.extension, '$.part'), ''), REPLACE(REPLACE(JSON_VALUE(a.extension, '$.granted'), 'T', ' '), 'Z', ''), NULL),
    COALESCE(JSON_VALUE(a.extension, '$.due'), ''), COALESCE(JSON_VALUE(a.extension, '$.closes'), ''), COALESCE(JSON_VALUE(a.extension, '$.note'), ''), JSON_VALUE(a.extension, '$.proof')
  FROM assignment a JOIN part p ON p.assignment_id = a.id WHERE a.extension <> '{}'
    AND (COALESCE(JSON_VALUE(a.parts, CONCAT('$[', p.n - 1, '].name')), '') = COALESCE(JSON_VALUE(a.extension, '$.part'), '')
      OR p.n = 1 AND NOT EXISTS (SELECT 1 FROM part q WHERE q.assignment_id = a.id AND COALESCE(JSON_VALUE(a.parts, CONCAT('$[', q.n - 1, '].name')), '') = COALESCE(JSON_VALUE(a.extension, '$.part'), '')));
CREATE TABLE IF NOT EXISTS noted (
  part_id BIGINT PRIMARY KEY,
  at DATETIME(3) NOT NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE
);
INSERT IGNORE INTO noted (part_id, at, note)
  SELECT p.id, REPLACE(REPLACE(JSON_VALUE(a.noted, '$.at'), 'T', ' '), 'Z', ''), COALESCE(JSON_VALUE(a.noted, '$.note'), '') FROM assignment a JOIN part p ON p.assignment_id = a.id
  WHERE JSON_VALUE(a.noted, '$.at') IS NOT NULL AND (JSON_LENGTH(a.parts) <= 1 OR COALESCE(JSON_CONTAINS(a.noted, JSON_QUOTE(COALESCE(JSON_VALUE(a.parts, CONCAT('$[', p.n - 1, '].name')), '')), '$.parts'), 0));
CREATE TABLE IF NOT EXISTS attempt (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  part_id BIGINT NOT NULL,
  number INT NOT NULL,
  state ENUM('preparing', 'sending', 'sent') NOT NULL DEFAULT 'preparing',
  begun_from BIGINT NULL, -- the attempt whose files it began with
  UNIQUE (part_id, number),
  INDEX (student_id),
  FOREIGN KEY (part_id) REFERENCES part (id) ON DELETE CASCADE,
  FOREIGN KEY (begun_from) REFERENCES attempt (id)
);
-- Work belonged to the part that came next: the first not noted as sent, or the last.
INSERT IGNORE INTO attempt (student_id, part_id, number, state)
  SELECT a.student_id, (SELECT p.id FROM part p LEFT JOIN noted n ON n.part_id = p.id WHERE p.assignment_id = a.id ORDER BY n.part_id IS NOT NULL, IF(n.part_id IS NULL, p.n, -p.n) LIMIT 1), w.attempt,
    CASE WHEN EXISTS (SELECT 1 FROM submission s WHERE s.assignment_id = a.id AND s.attempt = w.attempt AND s.state = 'accepted') THEN 'sent'
      WHEN EXISTS (SELECT 1 FROM submission s WHERE s.assignment_id = a.id AND s.attempt = w.attempt AND s.state = 'sending') THEN 'sending' ELSE 'preparing' END
  FROM assignment a JOIN (SELECT assignment_id, attempt FROM item UNION SELECT assignment_id, attempt FROM submission) w ON w.assignment_id = a.id;
INSERT IGNORE INTO attempt (student_id, part_id, number) SELECT a.student_id, p.id, 1 FROM part p JOIN assignment a ON a.id = p.assignment_id;
ALTER TABLE item ADD COLUMN IF NOT EXISTS attempt_id BIGINT NULL, ADD COLUMN IF NOT EXISTS inherited BOOLEAN NOT NULL DEFAULT FALSE; -- copied from the attempt before, untouched since
UPDATE item i JOIN part p ON p.assignment_id = i.assignment_id JOIN attempt t ON t.part_id = p.id AND t.number = i.attempt SET i.attempt_id = t.id
  WHERE i.attempt_id IS NULL AND p.id = (SELECT q.id FROM part q LEFT JOIN noted n ON n.part_id = q.id WHERE q.assignment_id = i.assignment_id ORDER BY n.part_id IS NOT NULL, IF(n.part_id IS NULL, q.n, -q.n) LIMIT 1);
ALTER TABLE submission ADD COLUMN IF NOT EXISTS attempt_id BIGINT NULL;
UPDATE submission i JOIN part p ON p.assignment_id = i.assignment_id JOIN attempt t ON t.part_id = p.id AND t.number = i.attempt SET i.attempt_id = t.id
  WHERE i.attempt_id IS NULL AND p.id = (SELECT q.id FROM part q LEFT JOIN noted n ON n.part_id = q.id WHERE q.assignment_id = i.assignment_id ORDER BY n.part_id IS NOT NULL, IF(n.part_id IS NULL, q.n, -q.n) LIMIT 1);

-- The ledger keeps what came, byte by byte, and the key that it was checked with.
ALTER TABLE ledger ADD COLUMN IF NOT EXISTS received LONGBLOB NULL, ADD COLUMN IF NOT EXISTS key_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS agrees BOOLEAN NOT NULL DEFAULT FALSE;
UPDATE ledger SET received = receipt, key_id = COALESCE(JSON_VALUE(receipt, '$.key'), ''), agrees = JSON_CONTAINS(proof, 'true', '$.agrees') WHERE received IS NULL;
-- What the student did about the passages of a report.
CREATE TABLE IF NOT EXISTS passage (
  submission_id BIGINT NOT NULL,
  n INT NOT NULL,
  handled ENUM('fixed', 'not_mine') NOT NULL,
  PRIMARY KEY (submission_id, n),
  FOREIGN KEY (submission_id) REFERENCES submission (id)
);
INSERT IGNORE INTO passage (submission_id, n, handled)
  SELECT r.submission_id, s.seq, JSON_VALUE(r.handled, CONCAT('$."', s.seq, '"')) FROM report r JOIN seq_0_to_9999 s ON JSON_VALUE(r.handled, CONCAT('$."', s.seq, '"')) <> '' WHERE r.handled <> '{}';
