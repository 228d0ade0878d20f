-- name: PutReport :exec
INSERT INTO report (submission_id, student_id, state, expected_at, made_at, share, body) VALUES (?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE state = VALUES(state), expected_at = VALUES(expected_at), made_at = VALUES(made_at), share = VALUES(share), body = VALUES(body);
-- name: Reports :many
SELECT submission_id, state, expected_at, made_at, share FROM report WHERE student_id = ?;
-- name: Report :one
SELECT * FROM report WHERE submission_id = ? AND student_id = ?;
-- name: SetReportHandled :exec
UPDATE report SET handled = ? WHERE submission_id = ? AND student_id = ?;
-- name: PutReturned :exec
INSERT INTO returned (submission_id, student_id, mark, points, comments, invited, marked_at) VALUES (?, ?, ?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE mark = VALUES(mark), points = VALUES(points), comments = VALUES(comments), invited = VALUES(invited), marked_at = VALUES(marked_at);
-- name: Returned :many
SELECT * FROM returned WHERE student_id = ?;
-- name: ReturnedOf :one
SELECT * FROM returned WHERE submission_id = ?;
