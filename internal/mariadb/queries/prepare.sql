-- name: AddVersion :execlastid
INSERT INTO version (student_id, name, digest, bytes, kind, facts, body, made_from, created_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?);
-- name: Version :one
SELECT * FROM version WHERE id = ? AND student_id = ?;
-- name: Versions :many
SELECT id, name, digest, bytes, kind, made_from, created_at FROM version WHERE student_id = ? ORDER BY id DESC LIMIT 500;
-- name: AddItem :execlastid
INSERT INTO item (student_id, assignment_id, attempt, slot, name, version_id) VALUES (?, ?, ?, ?, ?, ?);
-- name: Item :one
SELECT * FROM item WHERE id = ? AND student_id = ?;
-- name: Items :many
SELECT i.id, i.assignment_id, i.attempt, i.slot, i.name, i.version_id, v.name AS version_name, v.digest, v.bytes, v.facts, v.created_at, v.made_from
FROM item i JOIN version v ON v.id = i.version_id WHERE i.student_id = ? ORDER BY i.id;
-- name: SetItem :exec
UPDATE item SET slot = ?, name = ?, version_id = ? WHERE id = ? AND student_id = ?;
-- name: RemoveItem :execrows
DELETE FROM item WHERE id = ? AND student_id = ?;
-- name: SentVersions :many
SELECT f.version_id, f.name, s.number, s.attempt, a.id AS assignment_id, a.title, c.code FROM submission_file f JOIN submission s ON s.id = f.submission_id
JOIN assignment a ON a.id = s.assignment_id JOIN course c ON c.id = a.course_id WHERE s.student_id = ? AND s.state = 'accepted' ORDER BY s.id;
-- name: SearchVersions :many
SELECT id, name, kind, created_at, SUBSTRING(body, GREATEST(1, LOCATE(sqlc.arg(needle), body) - 40), 120) AS around FROM version
WHERE student_id = sqlc.arg(student_id) AND (LOCATE(sqlc.arg(needle), name) > 0 OR LOCATE(sqlc.arg(needle), body) > 0) ORDER BY id DESC LIMIT 10;
