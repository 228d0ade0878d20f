-- name: AddStudent :execlastid
INSERT INTO student (email, password_hash, family, given, number, zone, demo) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: StudentByEmail :one
SELECT * FROM student WHERE email = ?;
-- name: DemoStudent :one
SELECT * FROM student WHERE demo ORDER BY id LIMIT 1;
-- name: OpenGuess :exec
INSERT INTO guess (who, n, since, last) VALUES (sqlc.arg(who), 0, sqlc.arg(now), sqlc.arg(now)) ON DUPLICATE KEY UPDATE n = n;
-- name: GuessOf :one
SELECT * FROM guess WHERE who = ? FOR UPDATE;
-- name: SetGuess :exec
UPDATE guess SET n = ?, since = ?, last = ? WHERE who = ?;
-- name: TakeBackGuess :exec
UPDATE guess SET n = n - 1 WHERE who = ? AND n > 0;
-- name: ForgetGuesses :exec
DELETE FROM guess WHERE who = ?;
-- name: SetPassword :execrows
UPDATE student SET password_hash = ? WHERE id = ?;
-- name: AddSession :execlastid
INSERT INTO session (digest, student_id, agent, begun_at, expires_at) VALUES (?, ?, ?, ?, ?);
-- name: SessionByDigest :one
SELECT id, student_id FROM session WHERE digest = ? AND expires_at > sqlc.arg(now);
-- name: SessionLives :one
SELECT COUNT(*) FROM session WHERE id = ? AND expires_at > sqlc.arg(now);
-- name: Sessions :many
SELECT id, agent, begun_at FROM session WHERE student_id = ? AND expires_at > sqlc.arg(now) ORDER BY begun_at DESC;
-- name: RemoveSession :execrows
DELETE FROM session WHERE id = ? AND student_id = ?;
-- name: RemoveSessionsBut :exec
DELETE FROM session WHERE student_id = ? AND id <> sqlc.arg(but);
-- name: AddReset :exec
INSERT INTO reset (digest, student_id, expires_at) VALUES (?, ?, ?);
-- name: AskReset :execlastid
INSERT INTO reset_asked (email, asked_at) VALUES (?, ?);
-- name: ResetAsked :one
SELECT * FROM reset_asked WHERE id = ?;
-- name: RemoveResetAsked :exec
DELETE FROM reset_asked WHERE id = ?;
-- name: PurgeResetsAsked :execrows
DELETE FROM reset_asked WHERE asked_at < ? LIMIT 5000;
-- name: ResetsGoodAfter :one
SELECT COUNT(*) FROM reset WHERE student_id = ? AND expires_at > ?;
-- name: EndPassesOf :exec
DELETE FROM pass WHERE student_id = ?;
-- name: LockReset :one
SELECT student_id FROM reset WHERE digest = ? AND expires_at > sqlc.arg(now) FOR UPDATE;
-- name: RemoveResets :exec
DELETE FROM reset WHERE student_id = ?;
-- name: PurgeResets :execrows
DELETE FROM reset WHERE expires_at < ? LIMIT 5000;
-- name: LockStudent :one
SELECT * FROM student WHERE id = ? FOR UPDATE;
-- name: UnsealedTokens :many
SELECT id, token FROM site WHERE token NOT LIKE 'v1:%';
-- name: SealSiteToken :exec
UPDATE site SET token = sqlc.arg(token) WHERE id = sqlc.arg(id) AND token = sqlc.arg(was);
