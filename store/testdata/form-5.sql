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
CREATE INDEX record_batch ON record(batch_id, seq);
INSERT INTO goose_db_version VALUES ('1', '0', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO goose_db_version VALUES ('2', '1', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO goose_db_version VALUES ('3', '2', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO goose_db_version VALUES ('4', '3', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO goose_db_version VALUES ('5', '4', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO goose_db_version VALUES ('6', '5', '1', '2026-11-25 23:47:45 +0000 UTC');
INSERT INTO blobs VALUES ('79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '18', x'28b52ffd04009100007261772064617461206f662061206c656166f2ecc9c2');
INSERT INTO studies VALUES ('01a2151b-ada1-7d8e-a2f3-16ef491dba7e', 'Study', '2026-11-25T23:47:45.185883615Z');
INSERT INTO methods VALUES ('01a2151b-ada2-70af-b184-ea3459ef4413', '01a2151b-ada1-7d8e-a2f3-16ef491dba7e', 'Method');
INSERT INTO method_versions VALUES ('01a2151b-ada2-7a54-903b-f8c2c75a4c1d', '01a2151b-ada2-70af-b184-ea3459ef4413', '1', 'A', 'first', '2026-11-25T23:47:45.185883615Z', '6f35cb6497582fe8a2ad78bc91505c0d178b6dc44e1ab23f5083ba85ac36d407', '{"channels":[{"id":"first","signal":{},"peaks":{"width_min":0,"threshold":5,"least_area":0}}],"compounds":[],"curves":{"response":"area","unit":"mg/L","model":"linear","weight":"1/x"},"amounts":{"unit":"mg/g","volume_unit":"mL","sample_unit":"g"},"checks":{"recovery_low_percent":90,"recovery_high_percent":110,"internal_standard_percent":5,"blank_percent":20,"replicate_rsd_percent":5,"deviation_percent":20}}');
INSERT INTO batches VALUES ('01a2151b-ada3-701a-bc71-f9fd18bfea6b', '01a2151b-ada1-7d8e-a2f3-16ef491dba7e', 'Batch', '01a2151b-ada2-7a54-903b-f8c2c75a4c1d', '1', '2026-11-25T23:47:45.185883615Z', NULL, '0');
INSERT INTO injections VALUES ('01a2151b-ada3-7cf9-9c9e-0f6bb31fea90', '01a2151b-ada3-701a-bc71-f9fd18bfea6b', '1', '79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '0', 'leaf.cdf', '{"format":"","sample_name":"","sample_id":"","sample_type":"","vial":"","sample_amount":null,"injection_volume":null,"acquired_at":null,"operator":"","method_name":"","detector":"","comments":""}', '{"id":"01a2151b-ada3-7cf9-9c9e-0f6bb31fea90","name":"Leaf","role":"sample","level":null,"vial":"","dilution":1,"volume":null,"sample":null,"factor":1}', '[]');
INSERT INTO record VALUES ('1', '2026-11-25T23:47:45.187602066Z', 'Yugen', '', 'key', 'signed from here on by 549f95398b97c8e4', '', '', '549f95398b97c8e46c2b292f2d5c7e1de2f2aa719d4ec15cb1cec1183a82ef1a', '', '9018371592984f438541d7c9699dce256dfc2f9fc441e9234bb5668db05a9e31', '2', 'program', '', '');
INSERT INTO record VALUES ('2', '2026-11-25T23:47:45.187602066Z', 'A', '01a2151b-ada3-701a-bc71-f9fd18bfea6b', 'import', 'leaf.cdf', '', '', '', '9018371592984f438541d7c9699dce256dfc2f9fc441e9234bb5668db05a9e31', '41cb2ffaf2edd14874b4d53902e8e341bcaa2d4ace8555cb52d449cd1b624953', '2', 'person', '', '');
INSERT INTO keys VALUES ('549f95398b97c8e46c2b292f2d5c7e1de2f2aa719d4ec15cb1cec1183a82ef1a', '2026-11-25T23:47:45.187602066Z');
CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER version_no_update BEFORE UPDATE ON method_versions BEGIN SELECT RAISE(ABORT, 'a saved method version cannot be changed'); END;
CREATE TRIGGER blob_no_update BEFORE UPDATE ON blobs BEGIN SELECT RAISE(ABORT, 'raw data cannot be changed'); END;
