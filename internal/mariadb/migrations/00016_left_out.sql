-- +goose Up
-- What a site publishes that cannot be used, kept with the revision in which it is so, and when what could not be fetched is
-- fetched again.
ALTER TABLE site ADD COLUMN IF NOT EXISTS left_out VARCHAR(500) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS again_at DATETIME(3) NULL;
