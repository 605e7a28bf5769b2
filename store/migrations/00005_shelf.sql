-- +goose Up
-- Whether a batch was put away: it is kept whole, and only its place on the shelf is another.
ALTER TABLE batches ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
