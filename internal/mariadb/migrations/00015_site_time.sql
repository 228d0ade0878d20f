-- +goose Up
-- What the site's clock said before the last step of sending: at the earliest and at the latest of all tries.
ALTER TABLE submission ADD COLUMN IF NOT EXISTS site_first DATETIME(3) NULL, ADD COLUMN IF NOT EXISTS site_last DATETIME(3) NULL;
