CREATE TABLE goose_db_version (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		version_id INTEGER NOT NULL,
		is_applied INTEGER NOT NULL,
		tstamp TIMESTAMP DEFAULT (datetime('now'))
	);
CREATE TABLE blobs (
  hash TEXT PRIMARY KEY,
  size INTEGER NOT NULL,
  data BLOB NOT NULL
, place TEXT NOT NULL DEFAULT '') STRICT;
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
  created_at TEXT NOT NULL, choices TEXT, away INTEGER NOT NULL DEFAULT 0,
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
  document BLOB NOT NULL, seal TEXT NOT NULL DEFAULT '',
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
, form INTEGER NOT NULL DEFAULT 1, actor TEXT NOT NULL DEFAULT '', place TEXT NOT NULL DEFAULT '', clock TEXT NOT NULL DEFAULT '') STRICT;
CREATE TABLE keys (
  public TEXT PRIMARY KEY,
  since TEXT NOT NULL
) STRICT;
CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  batch_id TEXT NOT NULL,
  subject TEXT NOT NULL,
  who TEXT NOT NULL,
  asked TEXT NOT NULL,
  since TEXT NOT NULL
) STRICT;
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
CREATE TABLE profiles (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  UNIQUE (study_id, name)
) STRICT;
CREATE TABLE own_columns (
  study_id TEXT PRIMARY KEY REFERENCES studies(id),
  document TEXT NOT NULL
) STRICT;
CREATE TABLE views (
  id TEXT PRIMARY KEY,
  study_id TEXT NOT NULL REFERENCES studies(id),
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  UNIQUE (study_id, name)
) STRICT;
CREATE TABLE waiting_lines (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  position INTEGER NOT NULL,
  document TEXT NOT NULL,
  PRIMARY KEY (batch_id, position)
) STRICT;
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
CREATE TABLE batch_layouts (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  layout TEXT NOT NULL,
  used_at TEXT NOT NULL,
  PRIMARY KEY (batch_id, layout)
) STRICT;
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
CREATE TABLE documents (
  study_id TEXT NOT NULL REFERENCES studies(id),
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  author TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  document TEXT NOT NULL,
  PRIMARY KEY (study_id, kind, name)
) STRICT;
CREATE TABLE library_spectra (
  id TEXT PRIMARY KEY,
  library TEXT NOT NULL,
  name TEXT NOT NULL,
  kind TEXT NOT NULL,
  hash TEXT NOT NULL,
  document TEXT NOT NULL,
  added_by TEXT NOT NULL,
  added_at TEXT NOT NULL,
  away TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE TABLE resolved (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  inputs_hash TEXT NOT NULL,
  stretch TEXT NOT NULL,
  document BLOB NOT NULL,
  seal TEXT NOT NULL,
  PRIMARY KEY (batch_id, inputs_hash, stretch)
) STRICT;
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
CREATE VIRTUAL TABLE record_words USING fts5(subject, why, who, content='record', content_rowid='seq', tokenize='trigram');
CREATE TABLE found_injections (
  n INTEGER PRIMARY KEY,
  injection_id TEXT NOT NULL UNIQUE,
  batch_id TEXT NOT NULL,
  name TEXT NOT NULL,
  vial TEXT NOT NULL,
  file TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE VIRTUAL TABLE injection_words USING fts5(name, vial, file, content='found_injections', content_rowid='n', tokenize='trigram');
CREATE TABLE reported (
  batch_id TEXT NOT NULL,
  sample TEXT NOT NULL,
  compound TEXT NOT NULL,
  amount REAL,
  unit TEXT NOT NULL,
  flags TEXT NOT NULL
) STRICT;
CREATE TABLE reported_of (
  batch_id TEXT PRIMARY KEY,
  inputs_hash TEXT NOT NULL
) STRICT;
CREATE INDEX record_batch ON record(batch_id, seq);
CREATE VIEW injection_signals AS
  SELECT i.batch_id, i.id AS injection_id, t.position AS place, t.name, t.unit
    FROM injections i JOIN traces t ON t.raw_hash = i.raw_hash
  UNION ALL
  SELECT f.batch_id, f.injection_id, f.position * 1048576 + t.position, t.name, t.unit
    FROM injection_files f JOIN traces t ON t.raw_hash = f.raw_hash;
CREATE INDEX library_spectra_by_library ON library_spectra(library, away);
CREATE INDEX record_who ON record(who, seq);
CREATE INDEX record_action ON record(action, seq);
CREATE INDEX record_at ON record(at);
CREATE INDEX record_signing ON record(batch_id, seq) WHERE action IN ('review', 'signature', 'unlock');
CREATE INDEX found_injections_at ON found_injections(at);
CREATE INDEX found_injections_vial ON found_injections(vial COLLATE NOCASE);
CREATE INDEX found_injections_batch ON found_injections(batch_id);
CREATE INDEX reported_batch ON reported(batch_id);
CREATE INDEX reported_compound ON reported(compound COLLATE NOCASE, amount);
CREATE INDEX reported_flagged ON reported(flags) WHERE flags != '';
INSERT INTO goose_db_version VALUES ('1', '0', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('2', '1', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('3', '2', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('4', '3', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('5', '4', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('6', '5', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('7', '6', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('8', '7', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('9', '8', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('10', '9', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('11', '10', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('12', '11', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('13', '12', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('14', '13', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('15', '14', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('16', '15', '1', '2026-11-27 02:43:37 +0000 UTC');
INSERT INTO blobs VALUES ('79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '18', x'28b52ffd04009100007261772064617461206f662061206c656166f2ecc9c2', '');
INSERT INTO studies VALUES ('01a21ae3-0dc0-74c9-86eb-c0e660d8c476', 'Study', '2026-11-27T02:43:37.536300489Z');
INSERT INTO methods VALUES ('01a21ae3-0dc0-770a-9968-9adc2ff8e82f', '01a21ae3-0dc0-74c9-86eb-c0e660d8c476', 'Method');
INSERT INTO method_versions VALUES ('01a21ae3-0dc1-760f-a6d1-666cfc9db0bc', '01a21ae3-0dc0-770a-9968-9adc2ff8e82f', '1', 'A', 'first', '2026-11-27T02:43:37.536300489Z', '6f35cb6497582fe8a2ad78bc91505c0d178b6dc44e1ab23f5083ba85ac36d407', '{"channels":[{"id":"first","signal":{},"peaks":{"width_min":0,"threshold":5,"least_area":0}}],"compounds":[],"curves":{"response":"area","unit":"mg/L","model":"linear","weight":"1/x"},"amounts":{"unit":"mg/g","volume_unit":"mL","sample_unit":"g"},"checks":{"recovery_low_percent":90,"recovery_high_percent":110,"internal_standard_percent":5,"blank_percent":20,"replicate_rsd_percent":5,"deviation_percent":20}}');
INSERT INTO batches VALUES ('01a21ae3-0dc1-7c86-87f6-7818ef5dd32a', '01a21ae3-0dc0-74c9-86eb-c0e660d8c476', 'Batch', '01a21ae3-0dc1-760f-a6d1-666cfc9db0bc', '1', '2026-11-27T02:43:37.536300489Z', NULL, '0');
INSERT INTO injections VALUES ('01a21ae3-0dc2-785a-9880-1157b5d3fc77', '01a21ae3-0dc1-7c86-87f6-7818ef5dd32a', '1', '79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '0', 'leaf.cdf', '{"format":"","sample_name":"","sample_id":"","sample_type":"","vial":"","sample_amount":null,"injection_volume":null,"acquired_at":null,"operator":"","method_name":"","detector":"","comments":""}', '{"id":"01a21ae3-0dc2-785a-9880-1157b5d3fc77","name":"Leaf","role":"sample","level":null,"vial":"","dilution":1,"volume":null,"sample":null,"factor":1}', '[]');
INSERT INTO record VALUES ('1', '2026-11-27T02:43:37.538312958Z', 'Yugen', '', 'key', 'signed from here on by 67927810c2364a28', '', '', '67927810c2364a289ef9ecb547a7e4fbabfd9c96376e6b6765f09a083899f714', '', 'a41731c27cb97fa57a84f410cc6a8d8879e5df7b6146c3cd5728d032bf2dc99f', '2', 'program', '', '');
INSERT INTO record VALUES ('2', '2026-11-27T02:43:37.538312958Z', 'A', '01a21ae3-0dc1-7c86-87f6-7818ef5dd32a', 'import', 'leaf.cdf', '', '', '', 'a41731c27cb97fa57a84f410cc6a8d8879e5df7b6146c3cd5728d032bf2dc99f', '6f5d6606d9fca3dfcc47d6d2dede279a8144a5ada8dbc110c5c71f0432cf3bd7', '2', 'person', '', '');
INSERT INTO keys VALUES ('67927810c2364a289ef9ecb547a7e4fbabfd9c96376e6b6765f09a083899f714', '2026-11-27T02:43:37.538312958Z');
INSERT INTO found_injections VALUES ('1', '01a21ae3-0dc2-785a-9880-1157b5d3fc77', '01a21ae3-0dc1-7c86-87f6-7818ef5dd32a', 'Leaf', '', 'leaf.cdf', '');
CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER version_no_update BEFORE UPDATE ON method_versions BEGIN SELECT RAISE(ABORT, 'a saved method version cannot be changed'); END;
CREATE TRIGGER blob_no_update BEFORE UPDATE ON blobs BEGIN SELECT RAISE(ABORT, 'raw data cannot be changed'); END;
CREATE TRIGGER layout_version_no_update BEFORE UPDATE ON layout_versions BEGIN SELECT RAISE(ABORT, 'saved layouts never change'); END;
CREATE TRIGGER layout_version_no_delete BEFORE DELETE ON layout_versions BEGIN SELECT RAISE(ABORT, 'saved layouts never change'); END;
CREATE TRIGGER library_spectrum_kept BEFORE UPDATE ON library_spectra
WHEN OLD.id IS NOT NEW.id OR OLD.library IS NOT NEW.library OR OLD.name IS NOT NEW.name OR OLD.kind IS NOT NEW.kind OR OLD.hash IS NOT NEW.hash OR OLD.document IS NOT NEW.document OR OLD.added_by IS NOT NEW.added_by OR OLD.added_at IS NOT NEW.added_at
BEGIN SELECT RAISE(ABORT, 'spectra of libraries never change'); END;
CREATE TRIGGER library_spectrum_no_delete BEFORE DELETE ON library_spectra BEGIN SELECT RAISE(ABORT, 'spectra of libraries are put away, never deleted'); END;
CREATE TRIGGER record_words_kept AFTER INSERT ON record BEGIN
  INSERT INTO record_words(rowid, subject, why, who) VALUES (new.seq, new.subject, new.why, new.who);
END;
CREATE TRIGGER found_injections_words AFTER INSERT ON found_injections BEGIN
  INSERT INTO injection_words(rowid, name, vial, file) VALUES (new.n, new.name, new.vial, new.file);
END;
CREATE TRIGGER found_injections_gone AFTER DELETE ON found_injections BEGIN
  INSERT INTO injection_words(injection_words, rowid, name, vial, file) VALUES ('delete', old.n, old.name, old.vial, old.file);
END;
CREATE TRIGGER injections_found AFTER INSERT ON injections BEGIN
  INSERT INTO found_injections(injection_id, batch_id, name, vial, file, at) VALUES (new.id, new.batch_id, coalesce(json_extract(new.entry, '$.name'), ''), coalesce(json_extract(new.entry, '$.vial'), ''), new.file_name, coalesce(json_extract(new.header, '$.acquired_at'), ''));
END;
CREATE TRIGGER injections_found_again AFTER UPDATE OF entry, file_name ON injections BEGIN
  DELETE FROM found_injections WHERE injection_id = old.id;
  INSERT INTO found_injections(injection_id, batch_id, name, vial, file, at) VALUES (new.id, new.batch_id, coalesce(json_extract(new.entry, '$.name'), ''), coalesce(json_extract(new.entry, '$.vial'), ''), new.file_name, coalesce(json_extract(new.header, '$.acquired_at'), ''));
END;
CREATE TRIGGER injections_found_no_more AFTER DELETE ON injections BEGIN
  DELETE FROM found_injections WHERE injection_id = old.id;
END;
INSERT INTO record_words(record_words) VALUES ('rebuild');
INSERT INTO injection_words(injection_words) VALUES ('rebuild');
