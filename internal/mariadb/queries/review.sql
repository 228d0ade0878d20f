-- name: PutReport :exec
INSERT INTO report (submission_id, student_id, state, expected_at, made_at, share, body) VALUES (?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE state = VALUES(state), expected_at = VALUES(expected_at), made_at = VALUES(made_at), share = VALUES(share), body = VALUES(body);
-- name: Report :one
SELECT * FROM report WHERE submission_id = ? AND student_id = ?;
-- name: Passages :many
SELECT n, handled FROM passage WHERE submission_id = ?;
-- name: PutPassage :exec
INSERT INTO passage (submission_id, n, handled) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE handled = VALUES(handled);
-- name: RemovePassage :exec
DELETE FROM passage WHERE submission_id = ? AND n = ?;
-- name: PutReturned :exec
INSERT INTO returned (submission_id, student_id, mark, points, comments, invited, marked_at) VALUES (?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE mark = VALUES(mark), points = VALUES(points), comments = VALUES(comments), invited = VALUES(invited), marked_at = VALUES(marked_at);
-- name: ReturnedOf :one
SELECT * FROM returned WHERE submission_id = ?;
-- name: AcceptedBy :many
SELECT s.id FROM submission s JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id JOIN course c ON c.id = a.course_id
WHERE c.site_id = ? AND s.state = 'accepted' AND s.started_at > ?;
