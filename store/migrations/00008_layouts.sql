-- +goose Up
-- The laboratory's pages, by study; saved versions never change.
CREATE TABLE layouts (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  away TEXT NOT NULL DEFAULT '',
  UNIQUE (study_id, name)
) STRICT;

CREATE TABLE layout_versions (
  id TEXT PRIMARY KEY,
  layout_id TEXT NOT NULL REFERENCES layouts(id),
  number INTEGER NOT NULL,
  author TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  hash TEXT NOT NULL,
  document TEXT NOT NULL,
  UNIQUE (layout_id, number)
) STRICT;

-- +goose StatementBegin
CREATE TRIGGER layout_version_no_update BEFORE UPDATE ON layout_versions BEGIN SELECT RAISE(ABORT, 'saved layouts never change'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER layout_version_no_delete BEFORE DELETE ON layout_versions BEGIN SELECT RAISE(ABORT, 'saved layouts never change'); END;
-- +goose StatementEnd

-- The layouts that a batch was looked at with: ids, or names of those that ship.
CREATE TABLE batch_layouts (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  layout TEXT NOT NULL,
  used_at TEXT NOT NULL,
  PRIMARY KEY (batch_id, layout)
) STRICT;

-- Many reports, made together. The layout is kept as it was when they were made.
CREATE TABLE report_sets (
  id TEXT PRIMARY KEY,
  batch_id TEXT NOT NULL REFERENCES batches(id),
  layout TEXT NOT NULL,
  layout_name TEXT NOT NULL,
  layout_version INTEGER NOT NULL,
  document TEXT NOT NULL,
  asked TEXT NOT NULL,
  inputs_hash TEXT NOT NULL,
  state TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL
) STRICT;

CREATE TABLE report_files (
  set_id TEXT NOT NULL REFERENCES report_sets(id),
  position INTEGER NOT NULL,
  injection_id TEXT NOT NULL,
  sample TEXT NOT NULL,
  name TEXT NOT NULL,
  format TEXT NOT NULL,
  state TEXT NOT NULL,
  says TEXT NOT NULL,
  hash TEXT NOT NULL,
  size INTEGER NOT NULL,
  PRIMARY KEY (set_id, position)
) STRICT;

-- What is to be sent, and what became of it.
CREATE TABLE deliveries (
  set_id TEXT NOT NULL REFERENCES report_sets(id),
  position INTEGER NOT NULL,
  target TEXT NOT NULL,
  state TEXT NOT NULL,
  says TEXT NOT NULL,
  tries INTEGER NOT NULL,
  at TEXT NOT NULL,
  PRIMARY KEY (set_id, position, target)
) STRICT;
