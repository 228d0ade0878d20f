-- name: AddStudent :execlastid
INSERT INTO student (email, password_hash, family, given, number, zone, demo) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: StudentByEmail :one
SELECT * FROM student WHERE email = ?;
-- name: DemoStudent :one
SELECT * FROM student WHERE demo ORDER BY id LIMIT 1;
-- name: Guess :execlastid
INSERT INTO guess (who, n, since) VALUES (sqlc.arg(who), LAST_INSERT_ID(1), sqlc.arg(now))
  ON DUPLICATE KEY UPDATE n = LAST_INSERT_ID(IF(since < sqlc.arg(span_from), 1, n + 1)), since = IF(since < sqlc.arg(span_from), sqlc.arg(now), since);
-- name: TakeBackGuess :exec
UPDATE guess SET n = n - 1 WHERE who = ? AND n > 0;
-- name: ForgetGuesses :exec
DELETE FROM guess WHERE who = ?;
