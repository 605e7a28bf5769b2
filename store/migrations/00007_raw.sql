-- +goose Up
-- Raw files and the samples of their traces lie in database files of their own; the row of a file that does says so, and holds no data itself.
ALTER TABLE blobs ADD COLUMN place TEXT NOT NULL DEFAULT '';
