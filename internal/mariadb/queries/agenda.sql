-- name: SetAssignmentEffort :execrows
UPDATE assignment SET effort_minutes = ?, effort_low = ?, effort_high = ?, enough = ? WHERE id = ? AND student_id = ?;
-- name: SetAssignmentEnough :execrows
UPDATE assignment SET enough = TRUE WHERE id = ? AND student_id = ?;
-- name: WorkDoneOn :one
SELECT CAST(COALESCE(SUM(minutes), 0) AS SIGNED) FROM work WHERE assignment_id = ? AND student_id = ?;
-- name: AddWork :exec
INSERT INTO work (student_id, assignment_id, at, minutes) VALUES (?, ?, ?, ?);
-- name: SetAssignmentNotBefore :exec
UPDATE assignment SET not_before = ? WHERE id = ? AND student_id = ?;
-- name: AddPin :exec
INSERT INTO pin (student_id, assignment_id, start_at, end_at) VALUES (?, ?, ?, ?);
-- name: RemovePins :exec
DELETE FROM pin WHERE student_id = ?;
-- name: PutExtension :exec
INSERT INTO extension (part_id, asked_at, granted_at, due, closes, note, version_id) VALUES (?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE asked_at = VALUES(asked_at), granted_at = VALUES(granted_at), due = VALUES(due), closes = VALUES(closes), note = VALUES(note), version_id = VALUES(version_id);
-- name: RemoveExtension :exec
DELETE FROM extension WHERE part_id = ?;
-- name: AddReminder :execrows
INSERT IGNORE INTO reminder (student_id, mark, assignment_id, text, at) VALUES (?, ?, ?, ?, ?);
-- name: RemindersSaid :many
SELECT mark FROM reminder WHERE student_id = ? AND at > ?;
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
-- name: SetSeenEvent :exec
UPDATE student SET seen_event = GREATEST(seen_event, sqlc.arg(seen)) WHERE id = sqlc.arg(id);
-- name: SetFeedDigest :exec
UPDATE student SET feed_digest = ? WHERE id = ?;
-- name: StudentByFeed :one
SELECT * FROM student WHERE feed_digest = ?;
-- name: SetSettings :exec
UPDATE student SET settings = ? WHERE id = ?;
