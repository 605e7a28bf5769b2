-- +goose Up
-- Rows of the record say who acted (a person, the program), from where, and whether the clock went back; rows of form 1 were hashed without.
ALTER TABLE record ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE record ADD COLUMN actor TEXT NOT NULL DEFAULT '';
ALTER TABLE record ADD COLUMN place TEXT NOT NULL DEFAULT '';
ALTER TABLE record ADD COLUMN clock TEXT NOT NULL DEFAULT '';

-- The public keys that the record's head and kept results were signed with.
CREATE TABLE keys (
  public TEXT PRIMARY KEY,
  since TEXT NOT NULL
) STRICT;

ALTER TABLE results ADD COLUMN seal TEXT NOT NULL DEFAULT '';

-- Results from before there were seals are computed again.
DELETE FROM results;
