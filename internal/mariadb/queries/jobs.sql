-- name: AddJob :exec
INSERT INTO job (kind, subject, student_id, run_at) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE asked = asked OR token <> '', run_at = LEAST(run_at, VALUES(run_at)), failure = '';
-- name: JobsDue :many
SELECT j.id, j.kind FROM job j
  WHERE j.run_at <= sqlc.arg(now) AND (j.taken_until IS NULL OR j.taken_until < sqlc.arg(lease)) AND (sqlc.arg(only) = '' OR j.kind = sqlc.arg(only))
    AND NOT EXISTS (SELECT 1 FROM job t WHERE t.student_id = j.student_id AND t.token <> '' AND t.taken_until >= sqlc.arg(lease))
    AND ((j.deaths = 0 AND j.token = '') OR j.kind = sqlc.arg(first) OR NOT EXISTS (SELECT 1 FROM job o WHERE o.token <> '' AND o.taken_until >= sqlc.arg(lease) AND o.deaths > 0 AND o.kind <> sqlc.arg(first)))
  ORDER BY j.run_at LIMIT 20;
-- name: JobsDueOfBusy :many
SELECT j.id, j.kind, b.busy FROM (SELECT t.student_id, COUNT(*) AS busy FROM job t WHERE t.token <> '' AND t.taken_until >= sqlc.arg(lease) GROUP BY t.student_id) b
  STRAIGHT_JOIN job j ON j.student_id = b.student_id
  WHERE j.run_at <= sqlc.arg(now) AND (j.taken_until IS NULL OR j.taken_until < sqlc.arg(lease)) AND (sqlc.arg(only) = '' OR j.kind = sqlc.arg(only))
    AND ((j.deaths = 0 AND j.token = '') OR j.kind = sqlc.arg(first) OR NOT EXISTS (SELECT 1 FROM job o WHERE o.token <> '' AND o.taken_until >= sqlc.arg(lease) AND o.deaths > 0 AND o.kind <> sqlc.arg(first)))
  ORDER BY busy, j.run_at LIMIT 20;
-- name: LockJob :one
SELECT * FROM job WHERE id = sqlc.arg(id) AND run_at <= sqlc.arg(now) AND (taken_until IS NULL OR taken_until < sqlc.arg(lease)) FOR UPDATE SKIP LOCKED;
-- name: TakeJob :exec
UPDATE job SET taken_until = ?, token = ?, tries = tries + 1, deaths = ? WHERE id = ?;
-- name: KeepJob :execrows
UPDATE job SET taken_until = ? WHERE id = ? AND token = ?;
-- name: RetryJob :execrows
UPDATE job SET taken_until = NULL, token = '', deaths = 0, run_at = ?, failure = ? WHERE id = ? AND token = ?;
-- name: RepeatJob :execrows
UPDATE job SET taken_until = NULL, token = '', run_at = IF(asked, sqlc.arg(now), sqlc.arg(run_at)), asked = FALSE, tries = 0, deaths = 0, failure = '' WHERE id = sqlc.arg(id) AND token = sqlc.arg(token);
-- name: RemoveJob :execrows
DELETE FROM job WHERE id = ? AND token = ? AND NOT asked;
-- name: JobsOf :many
SELECT * FROM job WHERE student_id = ?;
-- name: RemoveJobOf :execrows
DELETE FROM job WHERE kind = ? AND subject = ? AND student_id = ?;
-- name: HoldJob :execrows
UPDATE job SET tries = tries + 1 WHERE id = ? AND token = ?;
-- name: AddEvent :exec
INSERT INTO event (student_id, kind, assignment_id, text) VALUES (?, ?, ?, ?);
-- name: EventsAfter :many
SELECT * FROM event WHERE student_id = ? AND id > ? ORDER BY id LIMIT 500;
-- name: EventsMark :one
SELECT COUNT(*) AS events, CAST(COALESCE(SUM(id), 0) AS SIGNED) AS total FROM event WHERE student_id = ? AND id > ?;
-- name: EventsSettled :one
SELECT CAST(COALESCE(MAX(id), 0) AS SIGNED) FROM event
WHERE student_id = sqlc.arg(student_id) AND at < CURRENT_TIMESTAMP(3) - INTERVAL CAST(sqlc.arg(seconds) AS SIGNED) SECOND;
-- name: LastEvent :one
SELECT CAST(COALESCE(MAX(id), 0) AS SIGNED) FROM event WHERE student_id = ?;
-- name: PurgeEvents :execrows
DELETE FROM event WHERE at < ? LIMIT 5000;
-- name: PurgeTouched :execrows
DELETE FROM touched WHERE at < ? LIMIT 5000;
-- name: PurgeGuesses :execrows
DELETE FROM guess WHERE since < ? LIMIT 5000;
-- name: PurgeReminders :execrows
DELETE FROM reminder WHERE at < ? LIMIT 5000;
-- name: PurgeSessions :execrows
DELETE FROM session WHERE expires_at < ? LIMIT 5000;
-- name: HastenJobs :exec
UPDATE job SET asked = asked OR token <> '', run_at = LEAST(run_at, sqlc.arg(run_at)) WHERE kind IN ('report', 'return') AND subject = sqlc.arg(subject) AND student_id = sqlc.arg(student_id);
