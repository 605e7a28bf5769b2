-- +goose Up
-- What was looked at, signed and unlocked in a batch is found without going through all that was done to it.
CREATE INDEX record_signing ON record(batch_id, seq) WHERE action IN ('review', 'signature', 'unlock');
