-- +goose Up
ALTER TABLE upload ADD COLUMN IF NOT EXISTS draft VARCHAR(20) AS (JSON_VALUE(metadata, '$.draft')) PERSISTENT, ADD INDEX IF NOT EXISTS owner (owner, draft);
-- Key, clock, speed and faults of the site.
CREATE TABLE IF NOT EXISTS setting (name VARCHAR(32) PRIMARY KEY, value TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS student (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(32) NOT NULL UNIQUE,
  name VARCHAR(200) NOT NULL,
  email VARCHAR(200) NOT NULL,
  token_digest CHAR(64) CHARACTER SET ascii NOT NULL UNIQUE
);
CREATE TABLE IF NOT EXISTS course (
  course_key VARCHAR(64) PRIMARY KEY,
  body JSON NOT NULL -- as published
);
CREATE TABLE IF NOT EXISTS assignment (
  assignment_key VARCHAR(64) PRIMARY KEY,
  body JSON NOT NULL -- as published
);
CREATE TABLE IF NOT EXISTS draft (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_key VARCHAR(64) NOT NULL,
  idempotency_key VARCHAR(64) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  UNIQUE (student_id, idempotency_key),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
CREATE TABLE IF NOT EXISTS submission (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(32) NULL UNIQUE,
  student_id BIGINT NOT NULL,
  assignment_key VARCHAR(64) NOT NULL,
  attempt INT NOT NULL,
  idempotency_key VARCHAR(64) NOT NULL,
  received_at DATETIME(3) NOT NULL,
  comment TEXT NOT NULL,
  files JSON NOT NULL,
  receipt JSON NULL,
  report_at DATETIME(3) NULL,
  report LONGTEXT NULL, -- made when it is due
  mark DOUBLE NULL,
  comments JSON NOT NULL DEFAULT '[]',
  invited BOOLEAN NOT NULL DEFAULT FALSE,
  marked_at DATETIME(3) NULL,
  UNIQUE (student_id, idempotency_key),
  UNIQUE (student_id, assignment_key, attempt),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
-- Texts that reports compare with, beside what students submitted.
CREATE TABLE IF NOT EXISTS reading (
  name VARCHAR(120) PRIMARY KEY,
  title VARCHAR(200) NOT NULL,
  body MEDIUMTEXT NOT NULL
);
CREATE TABLE IF NOT EXISTS mail (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  recipient VARCHAR(200) NOT NULL,
  subject VARCHAR(200) NOT NULL,
  body MEDIUMTEXT NOT NULL, -- as sent, RFC 5322
  sent_at DATETIME(3) NOT NULL
);
