-- +goose Up
-- How often the process that had taken a job died with it.
ALTER TABLE job ADD COLUMN IF NOT EXISTS deaths INT NOT NULL DEFAULT 0;
