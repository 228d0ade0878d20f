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
-- name: AddSource :exec
INSERT INTO source (student_id, course_id, assignment_id, version_id) VALUES (?, ?, ?, ?);
-- name: RemoveSource :execrows
DELETE FROM source WHERE id = ? AND student_id = ?;
-- name: SourcesOf :many
SELECT s.id, s.assignment_id, s.version_id, v.name, v.kind, v.body FROM source s JOIN version v ON v.id = s.version_id
WHERE s.student_id = ? AND s.course_id = ? AND (s.assignment_id IS NULL OR s.assignment_id = ?) ORDER BY s.id;
-- name: EarlierWork :many
SELECT DISTINCT v.id, v.name, v.body, a.title, c.code FROM submission_file f JOIN submission s ON s.id = f.submission_id JOIN version v ON v.id = f.version_id
JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id JOIN course c ON c.id = a.course_id
WHERE s.student_id = ? AND s.state = 'accepted' AND a.id <> ? AND v.body <> '' ORDER BY v.id;
-- name: PutOwnCheck :exec
INSERT INTO own_check (attempt_id, student_id, made_at, mark, body) VALUES (?, ?, ?, ?, ?)
ON DUPLICATE KEY UPDATE made_at = VALUES(made_at), mark = VALUES(mark), body = VALUES(body);
-- name: OwnCheckOfPart :one
SELECT o.* FROM own_check o JOIN attempt t ON t.id = o.attempt_id WHERE t.part_id = ? AND o.student_id = ? ORDER BY t.number DESC LIMIT 1;
-- name: OwnCheckOfAttempt :one
SELECT o.* FROM own_check o WHERE o.attempt_id = ? AND o.student_id = ?;
-- name: OwnPassages :many
SELECT n, handled FROM own_passage WHERE attempt_id = ?;
-- name: PutOwnPassage :exec
INSERT INTO own_passage (attempt_id, n, handled) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE handled = VALUES(handled);
-- name: RemoveOwnPassage :exec
DELETE FROM own_passage WHERE attempt_id = ? AND n = ?;
-- name: RemoveOwnPassages :exec
DELETE FROM own_passage WHERE attempt_id = ?;
