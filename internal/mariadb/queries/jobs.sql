-- name: AddJob :exec
INSERT INTO job (kind, subject, student_id, run_at) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE run_at = LEAST(run_at, VALUES(run_at)), failure = '';
-- name: NextJob :one
SELECT * FROM job WHERE run_at <= sqlc.arg(now) AND (taken_until IS NULL OR taken_until < sqlc.arg(lease)) ORDER BY run_at LIMIT 1 FOR UPDATE SKIP LOCKED;
-- name: TakeJob :exec
UPDATE job SET taken_until = ?, tries = tries + 1 WHERE id = ?;
-- name: KeepJob :exec
UPDATE job SET taken_until = ? WHERE id = ?;
-- name: RetryJob :exec
UPDATE job SET taken_until = NULL, run_at = ?, failure = ? WHERE id = ?;
-- name: RepeatJob :exec
UPDATE job SET taken_until = NULL, run_at = ?, tries = 0, failure = '' WHERE id = ?;
-- name: RemoveJob :exec
DELETE FROM job WHERE id = ?;
-- name: JobsOf :many
SELECT * FROM job WHERE student_id = ?;
-- name: RemoveJobOf :execrows
DELETE FROM job WHERE kind = ? AND subject = ? AND student_id = ?;
-- name: HoldJob :execrows
UPDATE job SET failure = failure, tries = tries + 1 WHERE id = ?;
