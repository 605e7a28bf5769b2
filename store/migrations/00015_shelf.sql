-- +goose Up
-- The record is found by words, and so are injections by what they, their vials and their files are called.
CREATE VIRTUAL TABLE record_words USING fts5(subject, why, who, content='record', content_rowid='seq', tokenize='trigram');
INSERT INTO record_words(record_words) VALUES ('rebuild');
-- +goose StatementBegin
CREATE TRIGGER record_words_kept AFTER INSERT ON record BEGIN
  INSERT INTO record_words(rowid, subject, why, who) VALUES (new.seq, new.subject, new.why, new.who);
END;
-- +goose StatementEnd

-- Numbered by itself: a copy of the database may number rows anew.
CREATE TABLE found_injections (
  n INTEGER PRIMARY KEY,
  injection_id TEXT NOT NULL UNIQUE,
  batch_id TEXT NOT NULL,
  name TEXT NOT NULL,
  vial TEXT NOT NULL,
  file TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX found_injections_at ON found_injections(at);
CREATE INDEX found_injections_vial ON found_injections(vial COLLATE NOCASE);
CREATE INDEX found_injections_batch ON found_injections(batch_id);
CREATE VIRTUAL TABLE injection_words USING fts5(name, vial, file, content='found_injections', content_rowid='n', tokenize='trigram');
-- +goose StatementBegin
CREATE TRIGGER found_injections_words AFTER INSERT ON found_injections BEGIN
  INSERT INTO injection_words(rowid, name, vial, file) VALUES (new.n, new.name, new.vial, new.file);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_injections_gone AFTER DELETE ON found_injections BEGIN
  INSERT INTO injection_words(injection_words, rowid, name, vial, file) VALUES ('delete', old.n, old.name, old.vial, old.file);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER injections_found AFTER INSERT ON injections BEGIN
  INSERT INTO found_injections(injection_id, batch_id, name, vial, file, at) VALUES (new.id, new.batch_id, coalesce(json_extract(new.entry, '$.name'), ''), coalesce(json_extract(new.entry, '$.vial'), ''), new.file_name, coalesce(json_extract(new.header, '$.acquired_at'), ''));
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER injections_found_again AFTER UPDATE OF entry, file_name ON injections BEGIN
  DELETE FROM found_injections WHERE injection_id = old.id;
  INSERT INTO found_injections(injection_id, batch_id, name, vial, file, at) VALUES (new.id, new.batch_id, coalesce(json_extract(new.entry, '$.name'), ''), coalesce(json_extract(new.entry, '$.vial'), ''), new.file_name, coalesce(json_extract(new.header, '$.acquired_at'), ''));
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER injections_found_no_more AFTER DELETE ON injections BEGIN
  DELETE FROM found_injections WHERE injection_id = old.id;
END;
-- +goose StatementEnd
INSERT INTO found_injections(injection_id, batch_id, name, vial, file, at)
  SELECT id, batch_id, coalesce(json_extract(entry, '$.name'), ''), coalesce(json_extract(entry, '$.vial'), ''), file_name, coalesce(json_extract(header, '$.acquired_at'), '') FROM injections ORDER BY rowid;

-- What batches report of samples, as their results stood when they were computed last, to be found by amounts.
CREATE TABLE reported (
  batch_id TEXT NOT NULL,
  sample TEXT NOT NULL,
  compound TEXT NOT NULL,
  amount REAL,
  unit TEXT NOT NULL,
  flags TEXT NOT NULL
) STRICT;
CREATE INDEX reported_batch ON reported(batch_id);
CREATE INDEX reported_compound ON reported(compound COLLATE NOCASE, amount);
CREATE INDEX reported_flagged ON reported(flags) WHERE flags != '';
CREATE TABLE reported_of (
  batch_id TEXT PRIMARY KEY,
  inputs_hash TEXT NOT NULL
) STRICT;
