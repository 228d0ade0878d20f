-- name: AddSubmission :execlastid
INSERT INTO submission (student_id, attempt_id, idempotency_key, declared, comment, started_at, total_bytes) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: SetAttemptState :exec
UPDATE attempt SET state = ? WHERE id = ?;
-- name: AddSubmissionFile :exec
INSERT INTO submission_file (submission_id, n, version_id, slot, name, digest, bytes) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: Submission :one
SELECT s.*, t.number AS attempt, t.part_id, p.name AS part, p.assignment_id FROM submission s JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id WHERE s.id = ? AND s.student_id = ?;
-- name: FilesOfSubmission :many
SELECT * FROM submission_file WHERE submission_id = ? ORDER BY n;
-- name: FilesOfPart :many
SELECT f.* FROM submission_file f JOIN submission s ON s.id = f.submission_id JOIN attempt t ON t.id = s.attempt_id WHERE t.part_id = ? ORDER BY f.submission_id, f.n;
-- name: SetSubmissionDraft :execrows
UPDATE submission SET draft_id = ? WHERE id = ? AND state = 'sending';
-- name: SetSubmissionSiteTime :exec
UPDATE submission SET site_first = ?, site_last = ? WHERE id = ?;
-- name: SetFileUpload :exec
UPDATE submission_file SET upload_url = ? WHERE submission_id = ? AND n = ?;
-- name: SetSubmissionProgress :exec
UPDATE submission SET sent_bytes = ? WHERE id = ?;
-- name: SetSubmissionReason :exec
UPDATE submission SET reason = ? WHERE id = ?;
-- name: EndSubmission :execrows
UPDATE submission SET state = ?, reason = ?, number = ?, accepted_at = ?, sent_bytes = total_bytes WHERE id = ? AND state = sqlc.arg(was);
-- name: CancelSubmission :execrows
UPDATE submission SET state = 'cancelled', reason = 'cancelled by you' WHERE id = ? AND student_id = ? AND state = 'sending' AND draft_id IS NULL;
-- name: SiteRate :exec
UPDATE site SET bytes_per_second = ? WHERE id = ?;
-- name: AddLedger :exec
INSERT INTO ledger (student_id, submission_id, received, key_id, agrees, proof, recorded_at) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: Ledger :many
SELECT l.*, t.number AS attempt, s.number, a.id AS assignment_id, a.title, c.code, c.zone FROM ledger l JOIN submission s ON s.id = l.submission_id JOIN attempt t ON t.id = s.attempt_id
JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id JOIN course c ON c.id = a.course_id WHERE l.student_id = ? ORDER BY l.id DESC;
-- name: LedgerOf :one
SELECT * FROM ledger WHERE submission_id = ? AND student_id = ?;
-- name: LedgerOfPart :many
SELECT l.* FROM ledger l JOIN submission s ON s.id = l.submission_id JOIN attempt t ON t.id = s.attempt_id WHERE t.part_id = ?;
-- name: PutNoted :exec
INSERT INTO noted (part_id, at, note) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE at = VALUES(at), note = VALUES(note);
-- name: RemoveNoted :exec
DELETE n FROM noted n JOIN part p ON p.id = n.part_id WHERE p.assignment_id = ?;
-- name: WayOf :one
SELECT sqlc.embed(a), sqlc.embed(c), sqlc.embed(w), sqlc.embed(e) FROM assignment a JOIN course c ON c.id = a.course_id JOIN site w ON w.id = c.site_id JOIN enrolment e ON e.id = w.enrolment_id
WHERE a.id = ? AND a.student_id = ?;
-- name: ItemsOfAttempt :many
SELECT id, slot, name, version_id FROM item WHERE attempt_id = ? ORDER BY place, id;
-- name: SetLedger :exec
UPDATE ledger SET received = ?, key_id = ?, agrees = ?, proof = ? WHERE submission_id = ? AND NOT agrees;
-- name: AddLostJobs :execrows
INSERT IGNORE INTO job (kind, subject, student_id, run_at)
  SELECT 'carry' AS kind, s.id, s.student_id, sqlc.arg(now) AS run_at FROM submission s WHERE s.state = 'sending'
  UNION ALL SELECT 'return' AS kind, s.id, s.student_id, sqlc.arg(now) AS run_at FROM submission s WHERE s.state = 'accepted' AND s.started_at > sqlc.arg(since)
  UNION ALL SELECT 'report' AS kind, s.id, s.student_id, sqlc.arg(now) AS run_at FROM submission s JOIN report r ON r.submission_id = s.id WHERE r.state = 'waiting' AND s.started_at > sqlc.arg(since)
  UNION ALL SELECT 'prove' AS kind, s.id, s.student_id, sqlc.arg(now) AS run_at FROM submission s JOIN ledger l ON l.submission_id = s.id WHERE s.state = 'accepted' AND NOT l.agrees AND s.started_at > sqlc.arg(since)
  UNION ALL SELECT 'refused' AS kind, s.id, s.student_id, sqlc.arg(now) AS run_at FROM submission s WHERE s.state = 'refused' AND s.draft_id IS NOT NULL AND s.started_at > sqlc.arg(since);
