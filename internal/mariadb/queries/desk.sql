-- name: Versions :many
SELECT id, name, digest, bytes, kind, made_from, created_at FROM version WHERE student_id = ? ORDER BY id DESC LIMIT 500;
-- name: SentVersions :many
SELECT f.version_id, f.name, s.number, t.number AS attempt, a.id AS assignment_id, a.title, c.code FROM submission_file f JOIN submission s ON s.id = f.submission_id JOIN attempt t ON t.id = s.attempt_id
JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id JOIN course c ON c.id = a.course_id WHERE s.student_id = ? AND s.state = 'accepted' ORDER BY s.id;
-- name: VersionUses :many
SELECT i.id AS item_id, a.id AS assignment_id, a.title, c.code FROM item i JOIN attempt t ON t.id = i.attempt_id JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id
JOIN course c ON c.id = a.course_id WHERE i.version_id = ? AND i.student_id = ? AND t.state <> 'sent';
-- name: SearchVersions :many
SELECT id, name, kind, created_at, SUBSTRING(body, GREATEST(1, LOCATE(sqlc.arg(needle), body) - 60), 160) AS around FROM version
WHERE student_id = sqlc.arg(student_id) AND (LOCATE(sqlc.arg(needle), name) > 0 OR MATCH(name, body) AGAINST (sqlc.arg(words) IN BOOLEAN MODE)) ORDER BY id DESC LIMIT 200;
-- name: SearchInstructions :many
SELECT id FROM assignment WHERE student_id = sqlc.arg(student_id) AND (LOCATE(sqlc.arg(needle), instructions) > 0 OR LOCATE(sqlc.arg(needle), title) > 0);
