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
  created_at TEXT NOT NULL, choices TEXT,
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
INSERT INTO goose_db_version VALUES ('1', '0', '1', '2026-11-25 21:01:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('2', '1', '1', '2026-11-25 21:01:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('3', '2', '1', '2026-11-25 21:01:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('4', '3', '1', '2026-11-25 21:01:37 +0000 UTC');
INSERT INTO goose_db_version VALUES ('5', '4', '1', '2026-11-25 21:01:37 +0000 UTC');
INSERT INTO blobs VALUES ('79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '18', x'28b52ffd04009100007261772064617461206f662061206c656166f2ecc9c2');
INSERT INTO studies VALUES ('01a21483-969f-7843-9ce7-5ffa4ae98016', 'Study', '2026-11-25T21:01:37.823538396Z');
INSERT INTO methods VALUES ('01a21483-969f-7b09-b2f6-a4b77e1be200', '01a21483-969f-7843-9ce7-5ffa4ae98016', 'Method');
INSERT INTO method_versions VALUES ('01a21483-96a0-7675-a1af-a8561217a15f', '01a21483-969f-7b09-b2f6-a4b77e1be200', '1', 'A', 'first', '2026-11-25T21:01:37.823538396Z', 'f351e46c8286775f0777271224547f97bd08d1c6e84652472753bdd5c5aba773', '{"peaks":{"width_min":0,"threshold":5,"least_area":0},"compounds":[],"curves":{"response":"area","unit":"mg/L","model":"linear","weight":"1/x"},"amounts":{"unit":"mg/g","volume_unit":"mL","sample_unit":"g"},"checks":{"recovery_low_percent":90,"recovery_high_percent":110,"internal_standard_percent":5,"blank_percent":20,"replicate_rsd_percent":5,"deviation_percent":20}}');
INSERT INTO batches VALUES ('01a21483-96a0-7b76-8adc-c947d5809191', '01a21483-969f-7843-9ce7-5ffa4ae98016', 'Batch', '01a21483-96a0-7675-a1af-a8561217a15f', '1', '2026-11-25T21:01:37.823538396Z', NULL);
INSERT INTO injections VALUES ('01a21483-96a1-7960-a5f1-d5b8b95f2b03', '01a21483-96a0-7b76-8adc-c947d5809191', '1', '79e8079dc6576eeae48536f80a664ebe264067fce5a385ac2fcdd9f1dde3ecd6', '0', 'leaf.cdf', '{"format":"","sample_name":"","sample_id":"","sample_type":"","vial":"","sample_amount":null,"injection_volume":null,"acquired_at":null,"operator":"","method_name":"","detector":"","comments":""}', '{"id":"01a21483-96a1-7960-a5f1-d5b8b95f2b03","name":"Leaf","role":"sample","level":null,"vial":"","dilution":1,"volume":null,"sample":null,"factor":1}', '[]');
INSERT INTO record VALUES ('1', '2026-11-25T21:01:37.82530729Z', 'Yugen', '', 'key', 'signed from here on by 787f738483d2e35a', '', '', '787f738483d2e35aacf1069cbbc77ef706a941b61e9fb6c7eef67da3924822a7', '', 'e462c44b8bbbef52913be32d37615d73d759ef034398c4ef1e15a4d6730e7ce9', '2', 'program', '', '');
INSERT INTO record VALUES ('2', '2026-11-25T21:01:37.82530729Z', 'A', '01a21483-96a0-7b76-8adc-c947d5809191', 'import', 'leaf.cdf', '', '', '', 'e462c44b8bbbef52913be32d37615d73d759ef034398c4ef1e15a4d6730e7ce9', '826adba9f3344a5baf2bf2faf9b372a0ac99f36b094cb06df71c9c144a6c3c2b', '2', 'person', '', '');
INSERT INTO keys VALUES ('787f738483d2e35aacf1069cbbc77ef706a941b61e9fb6c7eef67da3924822a7', '2026-11-25T21:01:37.82530729Z');
CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record cannot be changed'); END;
CREATE TRIGGER version_no_update BEFORE UPDATE ON method_versions BEGIN SELECT RAISE(ABORT, 'a saved method version cannot be changed'); END;
CREATE TRIGGER blob_no_update BEFORE UPDATE ON blobs BEGIN SELECT RAISE(ABORT, 'raw data cannot be changed'); END;
