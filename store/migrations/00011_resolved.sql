-- +goose Up
-- What resolving a batch computed, stretch by stretch, so that it goes on after a restart. All of it can be computed again.
CREATE TABLE resolved (
  batch_id TEXT NOT NULL REFERENCES batches(id),
  inputs_hash TEXT NOT NULL,
  stretch TEXT NOT NULL,
  document BLOB NOT NULL,
  seal TEXT NOT NULL,
  PRIMARY KEY (batch_id, inputs_hash, stretch)
) STRICT;
