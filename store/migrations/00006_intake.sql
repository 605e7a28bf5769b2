-- +goose Up
-- The further files of an injection, one a detector, in the order in which they came: position 1 and on.
CREATE TABLE injection_files (
  injection_id TEXT NOT NULL REFERENCES injections(id) ON DELETE CASCADE,
  batch_id TEXT NOT NULL REFERENCES batches(id),
  position INTEGER NOT NULL,
  raw_hash TEXT NOT NULL REFERENCES blobs(hash),
  file_name TEXT NOT NULL,
  header TEXT NOT NULL,
  PRIMARY KEY (injection_id, position),
  UNIQUE (batch_id, raw_hash)
) STRICT;

-- The signals of each injection over all its files. A place is the file's position times 1048576, and the trace's position in it.
CREATE VIEW injection_signals AS
  SELECT i.batch_id, i.id AS injection_id, t.position AS place, t.name, t.unit
    FROM injections i JOIN traces t ON t.raw_hash = i.raw_hash
  UNION ALL
  SELECT f.batch_id, f.injection_id, f.position * 1048576 + t.position, t.name, t.unit
    FROM injection_files f JOIN traces t ON t.raw_hash = f.raw_hash;

-- How delimited text of one shape is read: profiles of a study.
CREATE TABLE profiles (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  UNIQUE (study_id, name)
) STRICT;

-- The columns of the run list that a laboratory has added, by study.
CREATE TABLE own_columns (
  study_id TEXT PRIMARY KEY REFERENCES studies(id),
  document TEXT NOT NULL
) STRICT;

-- Ways of looking at traces that a study has kept.
CREATE TABLE views (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  UNIQUE (study_id, name)
) STRICT;

-- Lines of a run list that came before their files, and wait for them.
CREATE TABLE waiting_lines (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  position INTEGER NOT NULL,
  document TEXT NOT NULL,
  PRIMARY KEY (batch_id, position)
) STRICT;
