-- +goose Up
-- The pages of documents, as PDFs: made when they are first looked at, and kept for as long as the document is.
CREATE TABLE IF NOT EXISTS laid_out (
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  made CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  bytes BIGINT NOT NULL,
  FOREIGN KEY (digest) REFERENCES content (digest) ON DELETE CASCADE
);
