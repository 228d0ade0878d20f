-- +goose Up
-- What lies in a handout that is an archive: names by digest, so that a copy out of it is known as the handout.
ALTER TABLE handout ADD COLUMN IF NOT EXISTS inside JSON NOT NULL DEFAULT '{}';
ALTER TABLE version ADD INDEX IF NOT EXISTS by_name (student_id, name);
CREATE FULLTEXT INDEX IF NOT EXISTS words ON version (name, body);
