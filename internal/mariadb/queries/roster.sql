-- Everything of a student, read by package roster in one snapshot.
-- What was noted for her as changed: the same numbers mean the same coursework, since notes are only added, but for old ones
-- that go. A note that comes late is counted; one that goes while another comes alters the sum.
-- name: Touched :one
SELECT COUNT(*) AS notes, CAST(COALESCE(SUM(id), 0) AS SIGNED) AS total FROM touched WHERE student_id = ?;
-- name: StudentByID :one
SELECT * FROM student WHERE id = ?;
-- name: Enrolments :many
SELECT * FROM enrolment WHERE student_id = ? ORDER BY id;
-- name: Sites :many
SELECT * FROM site WHERE student_id = ? ORDER BY id;
-- name: Courses :many
SELECT * FROM course WHERE student_id = ? ORDER BY id;
-- name: Assignments :many
SELECT id, course_id, site_key, source, title, late, points, weight, sheet, own, first_report_minutes, later_report_minutes, effort_minutes, effort_low, effort_high, not_before, enough, cancelled
FROM assignment WHERE student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR id = sqlc.arg(only)) ORDER BY id;
-- name: Instructions :one
SELECT instructions FROM assignment WHERE id = ? AND student_id = ?;
-- Joined in the order that is written: from the student's own assignments on, and never through everybody's parts.
-- name: Parts :many
SELECT p.* FROM assignment a STRAIGHT_JOIN part p ON p.assignment_id = a.id WHERE a.student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR a.id = sqlc.arg(only));
-- name: Extensions :many
SELECT e.* FROM assignment a STRAIGHT_JOIN part p ON p.assignment_id = a.id STRAIGHT_JOIN extension e ON e.part_id = p.id WHERE a.student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR a.id = sqlc.arg(only));
-- name: NotedParts :many
SELECT n.* FROM assignment a STRAIGHT_JOIN part p ON p.assignment_id = a.id STRAIGHT_JOIN noted n ON n.part_id = p.id WHERE a.student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR a.id = sqlc.arg(only));
-- name: Attempts :many
SELECT * FROM attempt WHERE student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR part_id IN (SELECT p.id FROM part p WHERE p.assignment_id = sqlc.arg(only)));
-- name: Items :many
SELECT i.id, i.attempt_id, i.slot, i.name, i.version_id, i.inherited, v.name AS version_name, v.digest, v.facts, v.created_at, v.made_from,
  CAST(GREATEST(
    COALESCE((SELECT MAX(n.id) FROM version n FORCE INDEX (by_name) WHERE n.student_id = i.student_id AND n.name = v.name AND n.id > COALESCE(m.id, v.id) AND n.digest NOT IN (v.digest, COALESCE(m.digest, v.digest)) AND n.made_from IS NULL), 0),
    COALESCE((SELECT MAX(n.id) FROM version n FORCE INDEX (by_name) WHERE n.student_id = i.student_id AND n.name = m.name AND n.id > m.id AND n.digest NOT IN (v.digest, m.digest) AND n.made_from IS NULL), 0)) AS SIGNED) AS newer
FROM item i JOIN attempt t ON t.id = i.attempt_id JOIN version v ON v.id = i.version_id LEFT JOIN version m ON m.id = v.made_from WHERE i.student_id = ? AND t.state <> 'sent' AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR i.attempt_id IN (SELECT o.id FROM attempt o JOIN part p ON p.id = o.part_id WHERE p.assignment_id = sqlc.arg(only))) ORDER BY i.place, i.id;
-- name: Submissions :many
SELECT s.id, s.attempt_id, s.state, s.comment, s.started_at, s.reason, s.draft_id, s.total_bytes, s.sent_bytes, s.number, s.accepted_at,
  l.agrees, r.state AS report_state, r.expected_at, r.share, b.submission_id AS returned_id, b.mark, b.points, COALESCE(b.comments, '[]') AS comments, b.invited
FROM submission s LEFT JOIN ledger l ON l.submission_id = s.id LEFT JOIN report r ON r.submission_id = s.id LEFT JOIN returned b ON b.submission_id = s.id
WHERE s.student_id = ? AND s.state <> 'cancelled' AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR s.attempt_id IN (SELECT t.id FROM attempt t JOIN part p ON p.id = t.part_id WHERE p.assignment_id = sqlc.arg(only))) ORDER BY s.id;
-- name: Handouts :many
SELECT h.* FROM assignment a STRAIGHT_JOIN handout h ON h.assignment_id = a.id WHERE a.student_id = ? AND (CAST(sqlc.arg(only) AS SIGNED) = 0 OR a.id = sqlc.arg(only)) ORDER BY h.id;
-- name: WorkDone :many
SELECT assignment_id, CAST(SUM(minutes) AS SIGNED) AS minutes FROM work WHERE student_id = ? GROUP BY assignment_id;
-- name: Pins :many
SELECT * FROM pin WHERE student_id = ? ORDER BY start_at;
-- name: Busy :many
SELECT title, start_at, end_at FROM busy WHERE student_id = ? AND end_at > ? ORDER BY start_at;
