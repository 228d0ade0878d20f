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
-- name: Courses :many
SELECT * FROM course WHERE student_id = ? ORDER BY id;
-- name: Course :one
SELECT * FROM course WHERE id = ? AND student_id = ?;
-- name: SetCourseHabit :execrows
UPDATE course SET name_habit = ? WHERE id = ? AND student_id = ?;
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
-- name: SetAssignmentWork :exec
UPDATE assignment SET effort_minutes = ?, done_minutes = ?, enough = ? WHERE id = ? AND student_id = ?;
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
