-- +goose Up
ALTER TABLE upload ADD COLUMN draft VARCHAR(20) AS (JSON_VALUE(metadata, '$.draft')) PERSISTENT, ADD INDEX (owner, draft);
-- Key, clock, speed and faults of the site.
CREATE TABLE setting (name VARCHAR(32) PRIMARY KEY, value TEXT NOT NULL);
CREATE TABLE student (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(32) NOT NULL UNIQUE,
  name VARCHAR(200) NOT NULL,
  email VARCHAR(200) NOT NULL,
  token_digest CHAR(64) CHARACTER SET ascii NOT NULL UNIQUE
);
CREATE TABLE course (
  course_key VARCHAR(64) PRIMARY KEY,
  body JSON NOT NULL -- as published
);
CREATE TABLE assignment (
  assignment_key VARCHAR(64) PRIMARY KEY,
  body JSON NOT NULL -- as published
);
CREATE TABLE draft (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  student_id BIGINT NOT NULL,
  assignment_key VARCHAR(64) NOT NULL,
  idempotency_key VARCHAR(64) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  UNIQUE (student_id, idempotency_key),
  FOREIGN KEY (student_id) REFERENCES student (id)
);
CREATE TABLE submission (
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
CREATE TABLE reading (
  name VARCHAR(120) PRIMARY KEY,
  title VARCHAR(200) NOT NULL,
  body MEDIUMTEXT NOT NULL
);
CREATE TABLE mail (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  recipient VARCHAR(200) NOT NULL,
  subject VARCHAR(200) NOT NULL,
  body MEDIUMTEXT NOT NULL, -- as sent, RFC 5322
  sent_at DATETIME(3) NOT NULL
);
