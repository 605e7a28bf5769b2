-- +goose Up
-- What a study keeps by name beside its methods and layouts: sets of fields, marks and limits of trends, ladders of alkanes. The newest state; what it was
-- before stands in the record.
CREATE TABLE documents (
  study_id TEXT NOT NULL REFERENCES studies(id),
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  author TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  document TEXT NOT NULL,
  PRIMARY KEY (study_id, kind, name)
) STRICT;
