-- name: AddVersion :execlastid
INSERT INTO version (student_id, name, digest, bytes, kind, facts, body, made_from, created_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?);
-- name: Version :one
SELECT * FROM version WHERE id = ? AND student_id = ?;
-- name: VersionFile :one
SELECT name, kind, digest, bytes FROM version WHERE id = ? AND student_id = ?;
-- name: HandoutsOf :many
SELECT h.* FROM handout h JOIN assignment a ON a.id = h.assignment_id WHERE a.student_id = ? AND a.id = ? ORDER BY h.id;
-- name: Handout :one
SELECT h.* FROM handout h JOIN assignment a ON a.id = h.assignment_id WHERE a.student_id = ? AND h.id = ?;
-- name: AddItem :execlastid
INSERT INTO item (student_id, attempt_id, slot, name, version_id, place)
  SELECT sqlc.arg(student), sqlc.arg(attempt), sqlc.arg(slot), sqlc.arg(name), sqlc.arg(version), COALESCE(MAX(i.place), 0) FROM item i WHERE i.attempt_id = sqlc.arg(attempt);
-- name: InheritItems :exec
INSERT INTO item (student_id, attempt_id, slot, name, version_id, inherited)
  SELECT f.student_id, sqlc.arg(attempt), f.slot, f.name, f.version_id, TRUE FROM (SELECT s.student_id, sf.slot, sf.name, sf.version_id, sf.n FROM submission_file sf JOIN submission s ON s.id = sf.submission_id
    WHERE s.attempt_id = sqlc.arg(before) AND s.state = 'accepted') f ORDER BY f.n;
-- name: Item :one
SELECT i.*, p.assignment_id, p.id AS part_id FROM item i JOIN attempt t ON t.id = i.attempt_id JOIN part p ON p.id = t.part_id WHERE i.id = ? AND i.student_id = ?;
-- name: SetItem :exec
UPDATE item SET slot = ?, name = ?, version_id = ?, inherited = FALSE WHERE id = ? AND student_id = ?;
-- name: RemoveItem :execrows
DELETE FROM item WHERE id = ? AND student_id = ?;
-- name: RemoveInherited :execrows
DELETE FROM item WHERE attempt_id = ? AND slot = ? AND inherited LIMIT 1;
-- name: AddAttempt :execlastid
INSERT INTO attempt (student_id, part_id, number, begun_from) VALUES (?, ?, ?, ?);
-- name: LockPart :one
SELECT p.* FROM part p JOIN assignment a ON a.id = p.assignment_id WHERE p.id = ? AND a.student_id = ? FOR UPDATE;
-- name: LastAttempt :one
SELECT * FROM attempt WHERE part_id = ? ORDER BY number DESC LIMIT 1;
-- name: SetVersionFacts :exec
UPDATE version SET kind = ?, facts = ?, body = ? WHERE id = ? AND student_id = ?;
-- name: RemoveUpload :execrows
DELETE FROM upload WHERE id = ? AND owner = ?;
-- name: BytesOfStudent :one
SELECT CAST(
  (SELECT COALESCE(SUM(d.bytes), 0) FROM (
    SELECT v.digest, v.bytes FROM version v WHERE v.student_id = sqlc.arg(student)
    UNION SELECT u.digest, u.bytes FROM upload u WHERE u.owner = sqlc.arg(owner) AND u.digest IS NOT NULL
    UNION SELECT f.digest, f.bytes FROM workpiece_file f JOIN workpiece w ON w.id = f.workpiece_id WHERE w.student_id = sqlc.arg(student)) d)
  + (SELECT COALESCE(SUM(GREATEST(c.bytes, c.at)), 0) FROM upload c WHERE c.owner = sqlc.arg(owner) AND c.digest IS NULL)
  + (SELECT COALESCE(SUM(LENGTH(r.body)), 0) FROM writing r WHERE r.student_id = sqlc.arg(student)) AS SIGNED);
-- name: LockVersion :one
SELECT id, name FROM version WHERE id = ? AND student_id = ? FOR UPDATE;
-- name: WhatKeepsVersion :one
SELECT (SELECT COUNT(*) FROM submission_file f WHERE f.version_id = sqlc.arg(id)) AS sent, (SELECT COUNT(*) FROM item i WHERE i.version_id = sqlc.arg(id)) AS bundles,
  (SELECT COUNT(*) FROM extension e WHERE e.version_id = sqlc.arg(proof)) AS extensions;
-- name: ForgetOrigin :exec
UPDATE version SET made_from = NULL WHERE made_from = ?;
-- name: RemoveVersion :exec
DELETE FROM version WHERE id = ?;
-- name: PlaceItem :exec
UPDATE item SET place = ? WHERE id = ? AND attempt_id = ?;
-- name: ItemsOf :many
SELECT id, slot, name, version_id, place FROM item WHERE attempt_id = ? ORDER BY place, id;
