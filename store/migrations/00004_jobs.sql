-- +goose Up
-- Work that is under way: what a server that was stopped in it takes up again. A row goes when its job has ended.
CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  batch_id TEXT NOT NULL,
  subject TEXT NOT NULL,
  who TEXT NOT NULL,
  asked TEXT NOT NULL,
  since TEXT NOT NULL
) STRICT;
