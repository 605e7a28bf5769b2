-- +goose Up
-- The record is found by person, kind and time.
CREATE INDEX record_who ON record(who, seq);
CREATE INDEX record_action ON record(action, seq);
CREATE INDEX record_at ON record(at);
