-- +goose Up
-- A student as registered, and what has changed for her: with the revision of the catalogue it makes the site's revision.
ALTER TABLE student ADD COLUMN IF NOT EXISTS family VARCHAR(100) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS given VARCHAR(100) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS revision BIGINT NOT NULL DEFAULT 0;
UPDATE student SET family = SUBSTRING_INDEX(name, ' ', -1), given = TRIM(LEFT(name, CHAR_LENGTH(name) - CHAR_LENGTH(SUBSTRING_INDEX(name, ' ', -1)))) WHERE family = '';
