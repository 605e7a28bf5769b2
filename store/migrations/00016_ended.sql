-- +goose Up
-- Work that has ended, for those who were not there, and what processing once more would change.
CREATE TABLE ended_jobs (
  id TEXT PRIMARY KEY,
  ended TEXT NOT NULL,
  document TEXT NOT NULL
) STRICT;
CREATE INDEX ended_jobs_ended ON ended_jobs(ended);
CREATE TABLE processed_again (
  job_id TEXT PRIMARY KEY,
  batch_id TEXT NOT NULL,
  at TEXT NOT NULL,
  document TEXT NOT NULL
) STRICT;
CREATE INDEX processed_again_at ON processed_again(at);
