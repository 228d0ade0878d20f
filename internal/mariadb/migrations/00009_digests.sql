-- +goose Up
-- What the migration before has moved goes.
ALTER TABLE student DROP INDEX IF EXISTS student_feed, DROP COLUMN IF EXISTS feed_token;
