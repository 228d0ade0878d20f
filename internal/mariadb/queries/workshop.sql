-- name: AddWorkpiece :execlastid
INSERT INTO workpiece (student_id, part_id, tool, versions, wishes, said, took, created_at) VALUES (?, ?, ?, ?, ?, '[]', '{}', ?);
-- name: Workpiece :one
SELECT w.*, p.assignment_id FROM workpiece w JOIN part p ON p.id = w.part_id WHERE w.id = ? AND w.student_id = ?;
-- name: LockWorkpiece :one
SELECT id FROM workpiece WHERE id = ? AND student_id = ? AND state = ? FOR UPDATE;
-- name: WorkpiecesOf :many
SELECT id FROM workpiece WHERE part_id = ? AND student_id = ? AND state IN ('waiting', 'made', 'failed') ORDER BY id;
-- name: WorkpieceFiles :many
SELECT * FROM workpiece_file WHERE workpiece_id = ? ORDER BY n;
-- name: AddWorkpieceFile :exec
INSERT INTO workpiece_file (workpiece_id, n, name, kind, digest, bytes) VALUES (?, ?, ?, ?, ?, ?);
-- name: SetWorkpieceStep :exec
UPDATE workpiece SET done = ?, steps = ? WHERE id = ? AND state = 'waiting';
-- name: SetWorkpiece :execrows
UPDATE workpiece SET state = ?, said = ?, trouble = ? WHERE id = ? AND state = 'waiting';
-- name: SetWorkpieceTaken :exec
UPDATE workpiece SET state = ?, took = ? WHERE id = ?;
-- name: RemoveWorkpiece :execrows
DELETE FROM workpiece WHERE id = ? AND student_id = ?;
-- name: PurgeWorkpieces :execrows
DELETE FROM workpiece WHERE created_at < ? LIMIT 500;
-- name: Writing :one
SELECT * FROM writing WHERE part_id = ? AND version_id = ? AND student_id = ?;
-- name: LockWriting :one
SELECT id, revision, LENGTH(body) AS bytes FROM writing WHERE part_id = ? AND version_id = ? AND student_id = ? FOR UPDATE;
-- name: AddWriting :exec
INSERT INTO writing (student_id, part_id, version_id, body, revision, updated_at) VALUES (?, ?, ?, ?, 1, ?);
-- name: SetWriting :exec
UPDATE writing SET body = ?, revision = revision + 1, updated_at = ? WHERE id = ?;
-- name: AddPass :execlastid
INSERT INTO pass (digest, student_id, part_id, slot, ends_at) VALUES (?, ?, ?, ?, ?);
-- name: Pass :one
SELECT k.*, p.assignment_id, a.title, c.code FROM pass k JOIN part p ON p.id = k.part_id JOIN assignment a ON a.id = p.assignment_id JOIN course c ON c.id = a.course_id WHERE k.digest = ? AND k.ends_at > ?;
-- name: TakePass :execrows
UPDATE pass SET browser = sqlc.arg(browser) WHERE id = sqlc.arg(id) AND (browser = '' OR browser = sqlc.arg(browser));
-- name: CountPass :exec
UPDATE pass SET came = came + 1 WHERE id = ?;
-- name: EndPass :execrows
DELETE FROM pass WHERE id = ? AND student_id = ?;
-- name: PurgePasses :execrows
DELETE FROM pass WHERE ends_at < ? LIMIT 500;
-- name: Unfinished :many
SELECT id, at, metadata, created_at FROM upload WHERE owner = ? AND digest IS NULL AND bytes < 0 AND at > 0 ORDER BY created_at;
-- name: LaidOut :one
SELECT made, bytes FROM laid_out WHERE digest = ?;
-- name: AddLaidOut :exec
INSERT INTO laid_out (digest, made, bytes) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE made = VALUES(made), bytes = VALUES(bytes);
