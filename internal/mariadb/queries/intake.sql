-- name: AddEnrolment :execlastid
INSERT INTO enrolment (student_id, institution, number, family, given, zone) VALUES (?, ?, ?, ?, ?, ?);
-- name: SetEnrolment :execrows
UPDATE enrolment SET institution = ?, number = ?, family = ?, given = ?, zone = ? WHERE id = ? AND student_id = ?;
-- name: SetEnrolmentClock :exec
UPDATE enrolment SET clock_offset_ms = ? WHERE id = ?;
-- name: Enrolment :one
SELECT * FROM enrolment WHERE id = ? AND student_id = ?;
-- name: AddSite :execlastid
INSERT INTO site (student_id, enrolment_id, name, base_url, token) VALUES (?, ?, ?, ?, ?);
-- name: Site :one
SELECT * FROM site WHERE id = ?;
-- name: SiteSynced :exec
UPDATE site SET name = ?, revision = ?, synced_at = ?, notice = sqlc.arg(left_out), left_out = sqlc.arg(left_out), again_at = ? WHERE id = ?;
-- name: SiteNotice :exec
UPDATE site SET notice = ? WHERE id = ?;
-- name: SiteKeys :many
SELECT * FROM site_key WHERE site_id = ? ORDER BY first_seen;
-- name: AddSiteKey :execrows
INSERT IGNORE INTO site_key (site_id, key_id, public_key, first_seen) VALUES (?, ?, ?, ?);
-- name: NameSiteKey :execrows
UPDATE site_key SET key_id = ? WHERE site_id = ? AND key_id = '' AND public_key = ?;
-- name: PutCourse :exec
INSERT INTO course (student_id, site_id, enrolment_id, site_key, code, title, zone, instructor, name_habit) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE code = VALUES(code), title = VALUES(title), zone = VALUES(zone), instructor = VALUES(instructor);
-- name: AddCourse :execlastid
INSERT INTO course (student_id, enrolment_id, site_key, code, title, zone, instructor, contact, term, name_habit, usual) VALUES (?, ?, '', ?, ?, ?, ?, ?, ?, ?, ?);
-- name: SetCourse :execrows
UPDATE course SET enrolment_id = ?, code = ?, title = ?, zone = ?, instructor = ?, contact = ?, term = ?, name_habit = ?, usual = ? WHERE id = ? AND student_id = ?;
-- name: SetCourseArchived :execrows
UPDATE course SET archived = ? WHERE id = ? AND student_id = ?;
-- name: Course :one
SELECT * FROM course WHERE id = ? AND student_id = ?;
-- name: PutAssignment :exec
INSERT INTO assignment (student_id, course_id, site_key, title, instructions, late, points, weight, sheet, first_report_minutes, later_report_minutes)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE title = VALUES(title), instructions = VALUES(instructions), late = VALUES(late), points = VALUES(points), weight = VALUES(weight), sheet = VALUES(sheet),
  first_report_minutes = VALUES(first_report_minutes), later_report_minutes = VALUES(later_report_minutes);
-- name: PublishedBy :many
SELECT a.id, a.site_key, a.title, a.instructions, c.site_key AS course_key, p.due FROM assignment a JOIN course c ON c.id = a.course_id LEFT JOIN part p ON p.assignment_id = a.id AND p.n = 1 WHERE c.site_id = ?;
-- name: HandoutsOfSite :many
SELECT h.assignment_id, h.name, h.digest FROM handout h JOIN assignment a ON a.id = h.assignment_id JOIN course c ON c.id = a.course_id WHERE c.site_id = ?;
-- name: AssignmentByKey :one
SELECT id FROM assignment WHERE course_id = ? AND site_key = ?;
-- name: CalendarItems :many
SELECT a.id, a.course_id, a.site_key, a.title, a.cancelled, p.due FROM assignment a JOIN part p ON p.assignment_id = a.id AND p.n = 1 WHERE a.student_id = ? AND a.source = 'calendar';
-- name: Assignment :one
SELECT * FROM assignment WHERE id = ? AND student_id = ?;
-- name: LockAssignment :one
SELECT * FROM assignment WHERE id = ? AND student_id = ? FOR UPDATE;
-- name: AddAssignment :execlastid
INSERT INTO assignment (student_id, course_id, site_key, source, title, instructions, late, points, weight, sheet, own, first_report_minutes, later_report_minutes, effort_minutes)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 60, 1440, ?);
-- name: SetAssignment :execrows
UPDATE assignment SET course_id = ?, title = ?, instructions = ?, late = ?, points = ?, weight = ?, sheet = ?, own = ?, cancelled = ?, effort_minutes = ? WHERE id = ? AND student_id = ? AND source <> 'site';
-- name: RemoveAssignment :execrows
DELETE FROM assignment WHERE assignment.id = ? AND assignment.student_id = ? AND source <> 'site';
-- name: SetAssignmentOwn :exec
UPDATE assignment SET own = ? WHERE id = ? AND student_id = ?;
-- name: SetAssignmentCancelled :exec
UPDATE assignment SET cancelled = ? WHERE id = ? AND student_id = ?;
-- name: PartsOf :many
SELECT * FROM part WHERE assignment_id = ? ORDER BY n;
-- name: AddPart :execlastid
INSERT INTO part (assignment_id, n, name, opens, due, closes, grace_minutes, slots) VALUES (?, ?, ?, ?, ?, ?, ?, ?);
-- name: SetPart :exec
UPDATE part SET n = ?, name = ?, opens = ?, due_was = IF(due = sqlc.arg(due), due_was, due), due = sqlc.arg(due), closes = ?, grace_minutes = ?, slots = ? WHERE id = ?;
-- name: MovePart :exec
UPDATE part SET n = -n WHERE assignment_id = ?;
-- name: RemovePart :execrows
DELETE FROM part WHERE id = ?;
-- name: PartHoldsWork :one
SELECT COUNT(*) > 0 FROM part p WHERE p.id = ? AND (EXISTS (SELECT 1 FROM noted n WHERE n.part_id = p.id) OR EXISTS (SELECT 1 FROM attempt t JOIN item i ON i.attempt_id = t.id WHERE t.part_id = p.id)
  OR EXISTS (SELECT 1 FROM attempt t JOIN submission s ON s.attempt_id = t.id WHERE t.part_id = p.id));
-- name: AssignmentHoldsWork :one
SELECT EXISTS (SELECT 1 FROM part p JOIN attempt t ON t.part_id = p.id WHERE p.assignment_id = sqlc.arg(assignment) AND (EXISTS (SELECT 1 FROM item i WHERE i.attempt_id = t.id) OR EXISTS (SELECT 1 FROM submission s WHERE s.attempt_id = t.id)));
-- name: PutHandout :exec
INSERT INTO handout (assignment_id, name, bytes, digest, inside) VALUES (?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE bytes = VALUES(bytes),
  inside = IF(digest = VALUES(digest) AND VALUES(inside) = '{}', inside, VALUES(inside)), digest = VALUES(digest);
-- name: AddFeed :execlastid
INSERT INTO feed (student_id, name, url, purpose, course_id) VALUES (?, ?, ?, ?, ?);
-- name: Feed :one
SELECT * FROM feed WHERE id = ?;
-- name: Feeds :many
SELECT * FROM feed WHERE student_id = ? ORDER BY id;
-- name: FeedSynced :exec
UPDATE feed SET synced_at = ?, notice = ? WHERE id = ?;
-- name: SetFeedNotice :exec
UPDATE feed SET notice = ? WHERE id = ?;
-- name: RemoveFeed :execrows
DELETE FROM feed WHERE id = ? AND student_id = ?;
-- name: AddBusy :exec
INSERT INTO busy (student_id, feed_id, title, start_at, end_at) VALUES (?, ?, ?, ?, ?);
-- name: RemoveBusy :exec
DELETE FROM busy WHERE feed_id = ?;
