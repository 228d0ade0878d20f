-- +goose Up
-- File contents, each once, and the uploads that they arrive by (package contents).
CREATE TABLE IF NOT EXISTS content (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL UNIQUE, -- known when the last chunk is
  bytes BIGINT NOT NULL DEFAULT 0,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
CREATE TABLE IF NOT EXISTS content_chunk (
  content_id BIGINT NOT NULL,
  n INT NOT NULL,
  data MEDIUMBLOB NOT NULL,
  PRIMARY KEY (content_id, n)
);
CREATE TABLE IF NOT EXISTS upload (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  owner VARCHAR(64) NOT NULL,
  bytes BIGINT NOT NULL,
  at BIGINT NOT NULL DEFAULT 0,
  metadata JSON NOT NULL,
  digest CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
CREATE TABLE IF NOT EXISTS upload_chunk (
  upload_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at BIGINT NOT NULL,
  data MEDIUMBLOB NOT NULL,
  PRIMARY KEY (upload_id, at),
  FOREIGN KEY (upload_id) REFERENCES upload (id) ON DELETE CASCADE
);
