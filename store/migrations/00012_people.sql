-- +goose Up
-- Who may come in, where people sign in. A person is never removed: the record speaks of them.
CREATE TABLE people (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  roles TEXT NOT NULL,
  password TEXT NOT NULL,
  made_at TEXT NOT NULL,
  closed_at TEXT NOT NULL,
  last_here TEXT NOT NULL,
  failures INTEGER NOT NULL,
  wait_until TEXT NOT NULL,
  generation INTEGER NOT NULL
) STRICT;
CREATE TABLE tokens (
  id TEXT PRIMARY KEY,
  person_id TEXT NOT NULL REFERENCES people(id),
  name TEXT NOT NULL,
  rights TEXT NOT NULL,
  hash TEXT NOT NULL UNIQUE,
  made_at TEXT NOT NULL,
  ends_at TEXT NOT NULL,
  last_used TEXT NOT NULL
) STRICT;
CREATE TABLE sessions (
  token TEXT PRIMARY KEY,
  data BLOB NOT NULL,
  ends_at TEXT NOT NULL
) STRICT;
CREATE TABLE settings (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
