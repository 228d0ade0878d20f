-- +goose Up
-- For whom something has changed of what a roster is read from; watch.go has the triggers that write it.
CREATE TABLE IF NOT EXISTS touched (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
  INDEX (student_id),
  INDEX (at)
);
