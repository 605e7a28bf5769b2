-- +goose Up
CREATE TABLE blobs (
  hash TEXT PRIMARY KEY,
  size INTEGER NOT NULL,
  data BLOB NOT NULL
) STRICT;

CREATE TABLE traces (
  raw_hash TEXT NOT NULL REFERENCES blobs(hash),
  position INTEGER NOT NULL,
  name TEXT NOT NULL,
  unit TEXT NOT NULL,
  start_s REAL NOT NULL,
  step_s REAL NOT NULL,
  even INTEGER NOT NULL,
  points INTEGER NOT NULL,
  data BLOB NOT NULL,
  PRIMARY KEY (raw_hash, position)
) STRICT;

CREATE TABLE studies (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  created_at TEXT NOT NULL
) STRICT;

CREATE TABLE methods (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL
) STRICT;

CREATE TABLE method_versions (
  id TEXT PRIMARY KEY,
  method_id TEXT NOT NULL REFERENCES methods(id),
  number INTEGER NOT NULL,
  author TEXT NOT NULL,
  reason TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  hash TEXT NOT NULL,
  document TEXT NOT NULL,
  UNIQUE (method_id, number)
) STRICT;

CREATE TABLE batches (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  method_version_id TEXT NOT NULL REFERENCES method_versions(id),
  revision INTEGER NOT NULL,
  created_at TEXT NOT NULL,
  UNIQUE (study_id, name)
) STRICT;

CREATE TABLE injections (
  id TEXT PRIMARY KEY,
  batch_id TEXT NOT NULL REFERENCES batches(id),
  position INTEGER NOT NULL,
  raw_hash TEXT NOT NULL REFERENCES blobs(hash),
  trace INTEGER NOT NULL,
  file_name TEXT NOT NULL,
  header TEXT NOT NULL,
  entry TEXT NOT NULL,
  edits TEXT NOT NULL,
  UNIQUE (batch_id, raw_hash)
) STRICT;

CREATE TABLE results (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  inputs_hash TEXT NOT NULL,
  computed_at TEXT NOT NULL,
  document BLOB NOT NULL,
  PRIMARY KEY (batch_id, inputs_hash)
) STRICT;

CREATE TABLE settled (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  notice TEXT NOT NULL,
  PRIMARY KEY (batch_id, notice)
) STRICT;

CREATE TABLE reports (
  id TEXT PRIMARY KEY,
  batch_id TEXT NOT NULL REFERENCES batches(id),
  layout TEXT NOT NULL,
  injection_id TEXT NOT NULL,
  inputs_hash TEXT NOT NULL,
  pdf_hash TEXT NOT NULL REFERENCES blobs(hash),
  made_at TEXT NOT NULL,
  made_by TEXT NOT NULL
) STRICT;

CREATE TABLE record (
  seq INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  batch_id TEXT NOT NULL,
  action TEXT NOT NULL,
  subject TEXT NOT NULL,
  why TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  prev_hash TEXT NOT NULL,
  hash TEXT NOT NULL
) STRICT;
CREATE INDEX record_batch ON record(batch_id, seq);

-- The record is only ever added to.
-- +goose StatementBegin
CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER version_no_update BEFORE UPDATE ON method_versions BEGIN SELECT RAISE(ABORT, 'a saved method version cannot be changed'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER blob_no_update BEFORE UPDATE ON blobs BEGIN SELECT RAISE(ABORT, 'raw data cannot be changed'); END;
-- +goose StatementEnd
