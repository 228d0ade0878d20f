-- +goose Up
-- An upload owns the rows of its content from the first byte on; nothing is copied when it ends. One that was under way
-- begins again: its sender is told that it is not there.
ALTER TABLE upload ADD COLUMN IF NOT EXISTS content_id BIGINT NULL, ADD COLUMN IF NOT EXISTS hash VARBINARY(200) NULL; -- the state of the digest so far
DELETE FROM upload WHERE digest IS NULL AND content_id IS NULL;
UPDATE upload u JOIN content c ON c.digest = u.digest SET u.content_id = c.id WHERE u.content_id IS NULL;
DROP TABLE IF EXISTS upload_chunk;
ALTER TABLE upload ADD INDEX IF NOT EXISTS upload_created (created_at), ADD INDEX IF NOT EXISTS upload_content (content_id);
ALTER TABLE content ADD INDEX IF NOT EXISTS content_created (created_at);
