-- +goose Up
-- Readings of gauges that speak by themselves, as they come: those of all holds one after the other, so that a commit
-- writes one page and not one for each hold. They are moved to the readings some thousand at a time.
CREATE TABLE arriving (
  n INTEGER PRIMARY KEY,
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT ''
);

-- +goose Down
INSERT INTO reading SELECT hold_id, gauge, seq, at, value, unit, how, by, device, struck FROM arriving;
DROP TABLE arriving;
