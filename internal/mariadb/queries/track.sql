-- name: AddSite :execlastid
INSERT INTO site (student_id, name, base_url, token) VALUES (?, ?, ?, ?);
-- name: Site :one
SELECT * FROM site WHERE id = ?;
-- name: Sites :many
SELECT * FROM site WHERE student_id = ? ORDER BY id;
-- name: SiteSynced :exec
UPDATE site SET name = ?, public_key = ?, clock_offset_ms = ?, synced_at = ?, notice = '' WHERE id = ?;
-- name: SiteNotice :exec
UPDATE site SET notice = ? WHERE id = ?;
-- name: SiteRate :exec
UPDATE site SET bytes_per_second = ? WHERE id = ?;
-- name: PutCourse :exec
INSERT INTO course (student_id, site_id, site_key, code, title, zone, instructor, name_habit) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE code = VALUES(code), title = VALUES(title), zone = VALUES(zone), instructor = VALUES(instructor);
-- name: AddCourse :execlastid
INSERT INTO course (student_id, site_key, code, title, zone, instructor, contact, term, name_habit, usual) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?);
-- name: SetCourse :execrows
UPDATE course SET code = ?, title = ?, zone = ?, instructor = ?, contact = ?, term = ?, name_habit = ?, usual = ? WHERE id = ? AND student_id = ?;
-- name: SetCourseArchived :execrows
UPDATE course SET archived = ? WHERE id = ? AND student_id = ?;
-- name: Courses :many
SELECT * FROM course WHERE student_id = ? ORDER BY id;
-- name: Course :one
SELECT * FROM course WHERE id = ? AND student_id = ?;
-- name: PutAssignment :exec
INSERT INTO assignment (student_id, course_id, site_key, title, instructions, opens, due, closes, grace_minutes, late, points, weight, sheet,
  first_report_minutes, later_report_minutes)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE title = VALUES(title), instructions = VALUES(instructions), opens = VALUES(opens),
  due_was = IF(due = VALUES(due), due_was, due), due = VALUES(due), closes = VALUES(closes), grace_minutes = VALUES(grace_minutes),
  late = VALUES(late), points = VALUES(points), weight = VALUES(weight), sheet = VALUES(sheet),
  first_report_minutes = VALUES(first_report_minutes), later_report_minutes = VALUES(later_report_minutes);
-- name: Assignments :many
SELECT * FROM assignment WHERE student_id = ? ORDER BY id;
-- name: Assignment :one
SELECT * FROM assignment WHERE id = ? AND student_id = ?;
-- name: AssignmentByKey :one
SELECT * FROM assignment WHERE course_id = ? AND site_key = ?;
-- name: SetAssignmentOwn :exec
UPDATE assignment SET own = ? WHERE id = ? AND student_id = ?;
-- name: SetAssignmentEffort :exec
UPDATE assignment SET effort_minutes = ?, effort_low = ?, effort_high = ?, enough = ? WHERE id = ? AND student_id = ?;
-- name: AddWork :exec
INSERT INTO work (student_id, assignment_id, at, minutes) VALUES (?, ?, ?, ?);
-- name: WorkDone :many
SELECT assignment_id, CAST(SUM(minutes) AS SIGNED) AS minutes FROM work WHERE student_id = ? GROUP BY assignment_id;
-- name: AddAssignment :execlastid
INSERT INTO assignment (student_id, course_id, site_key, source, title, instructions, opens, due, closes, grace_minutes, late, points, weight, sheet, parts, own,
  first_report_minutes, later_report_minutes, effort_minutes)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 60, 1440, ?);
-- name: SetAssignment :execrows
UPDATE assignment SET course_id = ?, title = ?, instructions = ?, opens = ?, due_was = IF(due = sqlc.arg(due), due_was, due), due = sqlc.arg(due), closes = ?, grace_minutes = ?, late = ?, points = ?, weight = ?, sheet = ?, parts = ?,
  own = ?, cancelled = ? WHERE id = ? AND student_id = ? AND source <> 'site';
-- name: RemoveAssignment :execrows
DELETE FROM assignment WHERE assignment.id = ? AND assignment.student_id = ? AND source <> 'site' AND NOT EXISTS (SELECT 1 FROM submission s WHERE s.assignment_id = assignment.id);
-- name: SetAssignmentExtension :exec
UPDATE assignment SET extension = ? WHERE id = ? AND student_id = ?;
-- name: SetAssignmentNoted :exec
UPDATE assignment SET noted = ? WHERE id = ? AND student_id = ?;
-- name: Pins :many
SELECT * FROM pin WHERE student_id = ? ORDER BY start_at;
-- name: AddPin :exec
INSERT INTO pin (student_id, assignment_id, start_at, end_at) VALUES (?, ?, ?, ?);
-- name: RemovePins :exec
DELETE FROM pin WHERE student_id = ?;
-- name: SetSettings :exec
UPDATE student SET settings = ? WHERE id = ?;
-- name: SetFeedToken :exec
UPDATE student SET feed_token = ? WHERE id = ?;
-- name: StudentByFeed :one
SELECT * FROM student WHERE feed_token = ? AND feed_token <> '';
-- name: SetSeenEvent :exec
UPDATE student SET seen_event = GREATEST(seen_event, sqlc.arg(seen)) WHERE id = sqlc.arg(id);
-- name: AddFeed :execlastid
INSERT INTO feed (student_id, name, url, purpose, course_id) VALUES (?, ?, ?, ?, ?);
-- name: Feed :one
SELECT * FROM feed WHERE id = ?;
-- name: Feeds :many
SELECT * FROM feed WHERE student_id = ? ORDER BY id;
-- name: FeedSynced :exec
UPDATE feed SET synced_at = ?, notice = ? WHERE id = ?;
-- name: RemoveFeed :execrows
DELETE FROM feed WHERE id = ? AND student_id = ?;
-- name: AddBusy :exec
INSERT INTO busy (student_id, feed_id, title, start_at, end_at) VALUES (?, ?, ?, ?, ?);
-- name: RemoveBusy :exec
DELETE FROM busy WHERE feed_id = ?;
-- name: Busy :many
SELECT * FROM busy WHERE student_id = ? AND end_at > ? ORDER BY start_at;
-- name: AddReminder :execrows
INSERT IGNORE INTO reminder (student_id, mark, assignment_id, text, at) VALUES (?, ?, ?, ?, ?);
-- name: Reminders :many
SELECT * FROM reminder WHERE student_id = ? ORDER BY id DESC LIMIT 50;
-- name: UnmailedReminders :many
SELECT * FROM reminder WHERE student_id = ? AND NOT mailed ORDER BY id;
-- name: SetReminderMailed :exec
UPDATE reminder SET mailed = TRUE WHERE id = ?;
-- name: Students :many
SELECT id FROM student ORDER BY id;
-- name: SavedViews :many
SELECT * FROM saved_view WHERE student_id = ? ORDER BY name;
-- name: PutSavedView :exec
INSERT INTO saved_view (student_id, name, filter) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE filter = VALUES(filter);
-- name: RemoveSavedView :execrows
DELETE FROM saved_view WHERE id = ? AND student_id = ?;
-- name: ChangesSince :many
SELECT * FROM event WHERE student_id = ? AND id > ? AND kind IN ('new', 'changed', 'handout', 'report', 'return', 'reminder', 'refused') ORDER BY id DESC LIMIT 100;
-- name: PutHandout :exec
INSERT INTO handout (assignment_id, name, bytes, digest) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE bytes = VALUES(bytes), digest = VALUES(digest);
-- name: Handouts :many
SELECT h.* FROM handout h JOIN assignment a ON a.id = h.assignment_id WHERE a.student_id = ? ORDER BY h.id;
-- name: Handout :one
SELECT h.* FROM handout h JOIN assignment a ON a.id = h.assignment_id WHERE a.student_id = ? AND h.id = ?;
-- name: AddEvent :exec
INSERT INTO event (student_id, kind, assignment_id, text) VALUES (?, ?, ?, ?);
-- name: EventsAfter :many
SELECT * FROM event WHERE student_id = ? AND id > ? ORDER BY id LIMIT 100;
-- name: LastEvent :one
SELECT CAST(COALESCE(MAX(id), 0) AS SIGNED) FROM event WHERE student_id = ?;
-- name: SetAssignmentNotBefore :exec
UPDATE assignment SET not_before = ? WHERE id = ? AND student_id = ?;
-- name: SetAssignmentCancelled :exec
UPDATE assignment SET cancelled = ? WHERE id = ? AND student_id = ?;
-- name: SetFeedNotice :exec
UPDATE feed SET notice = ? WHERE id = ?;
