-- +goose Up
-- Spectra of the laboratory's own libraries. A spectrum is never changed: a new one takes its place, and the old one is put away.
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

CREATE INDEX library_spectra_by_library ON library_spectra(library, away);

-- +goose StatementBegin
CREATE TRIGGER library_spectrum_kept BEFORE UPDATE ON library_spectra
WHEN OLD.id IS NOT NEW.id OR OLD.library IS NOT NEW.library OR OLD.name IS NOT NEW.name OR OLD.kind IS NOT NEW.kind OR OLD.hash IS NOT NEW.hash OR OLD.document IS NOT NEW.document OR OLD.added_by IS NOT NEW.added_by OR OLD.added_at IS NOT NEW.added_at
BEGIN SELECT RAISE(ABORT, 'spectra of libraries never change'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER library_spectrum_no_delete BEFORE DELETE ON library_spectra BEGIN SELECT RAISE(ABORT, 'spectra of libraries are put away, never deleted'); END;
-- +goose StatementEnd
