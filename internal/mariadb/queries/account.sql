-- name: AddStudent :execlastid
INSERT INTO student (email, password_hash, family, given, number, zone, demo) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: StudentByEmail :one
SELECT * FROM student WHERE email = ?;
-- name: DemoStudent :one
SELECT * FROM student WHERE demo ORDER BY id LIMIT 1;
-- name: AddSigninFailure :exec
INSERT INTO signin_failure (who) VALUES (?);
-- name: CountSigninFailures :one
SELECT COUNT(*) FROM signin_failure WHERE who = ? AND at > ?;
-- name: ClearSigninFailures :exec
DELETE FROM signin_failure WHERE who = ?;
