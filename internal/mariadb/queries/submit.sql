-- name: AddSubmission :execlastid
INSERT INTO submission (student_id, assignment_id, attempt, idempotency_key, declared, comment, started_at, total_bytes) VALUES (?, ?, ?, ?, ?, ?, ?, ?);
-- name: AddSubmissionFile :exec
INSERT INTO submission_file (submission_id, n, version_id, slot, name, digest, bytes) VALUES (?, ?, ?, ?, ?, ?, ?);
-- name: Submission :one
SELECT * FROM submission WHERE id = ? AND student_id = ?;
-- name: Submissions :many
SELECT * FROM submission WHERE student_id = ? ORDER BY id;
-- name: SubmissionFiles :many
SELECT f.* FROM submission_file f JOIN submission s ON s.id = f.submission_id WHERE s.student_id = ? ORDER BY f.submission_id, f.n;
-- name: FilesOfSubmission :many
SELECT * FROM submission_file WHERE submission_id = ? ORDER BY n;
-- name: SetSubmissionDraft :execrows
UPDATE submission SET draft_id = ? WHERE id = ? AND state = 'sending';
-- name: SetFileUpload :exec
UPDATE submission_file SET upload_url = ? WHERE submission_id = ? AND n = ?;
-- name: SetSubmissionProgress :exec
UPDATE submission SET sent_bytes = ? WHERE id = ?;
-- name: SetSubmissionReason :exec
UPDATE submission SET reason = ? WHERE id = ?;
-- name: EndSubmission :execrows
UPDATE submission SET state = ?, reason = ?, number = ?, accepted_at = ?, sent_bytes = total_bytes WHERE id = ? AND state = 'sending';
-- name: CancelSubmission :execrows
UPDATE submission SET state = 'cancelled', reason = 'cancelled by you' WHERE id = ? AND student_id = ? AND state = 'sending' AND draft_id IS NULL;
-- name: AddLedger :exec
INSERT INTO ledger (student_id, submission_id, receipt, proof, recorded_at) VALUES (?, ?, ?, ?, ?);
-- name: Ledger :many
SELECT l.*, s.attempt, s.number, a.id AS assignment_id, a.title, c.code, c.zone FROM ledger l JOIN submission s ON s.id = l.submission_id
JOIN assignment a ON a.id = s.assignment_id JOIN course c ON c.id = a.course_id WHERE l.student_id = ? ORDER BY l.id DESC;
-- name: LedgerOf :one
SELECT * FROM ledger WHERE submission_id = ? AND student_id = ?;
