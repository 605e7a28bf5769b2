-- +goose Up
-- What a batch decides about its own curves. NULL says: as the document of its method's version says, which is where it stood before.
ALTER TABLE batches ADD COLUMN choices TEXT;
