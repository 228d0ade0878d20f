-- +goose Up
-- Whether a student has a job under way, which jobs are under way, and which of a kind are due, are asked at every take.
CREATE INDEX IF NOT EXISTS job_running ON job (student_id, taken_until);
CREATE INDEX IF NOT EXISTS job_taken ON job (taken_until);
CREATE INDEX IF NOT EXISTS job_kind_due ON job (kind, run_at);
