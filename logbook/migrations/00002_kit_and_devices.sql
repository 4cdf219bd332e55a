-- +goose Up
-- Kit is more than gauges and pumps, and every piece has its notes: zero checks,
-- service, loans, comparisons. A note is added, never changed.
CREATE TABLE kit_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('gauge', 'pump', 'adapter', 'plug')), body TEXT NOT NULL
);
INSERT INTO kit_new SELECT id, at, by, device, kind, body FROM kit;
DROP TABLE kit;
ALTER TABLE kit_new RENAME TO kit;

CREATE TABLE kit_note (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  kit_id TEXT NOT NULL REFERENCES kit(id),
  kind TEXT NOT NULL CHECK (kind IN ('zero check', 'service', 'lent', 'back', 'compared', 'retired')),
  sentence TEXT NOT NULL, value TEXT NOT NULL
);
CREATE INDEX kit_note_by_kit ON kit_note(kit_id, at);

-- Other devices that were let in with the shop's PIN. The token is kept hashed.
CREATE TABLE device (
  id TEXT PRIMARY KEY, name TEXT NOT NULL, token BLOB NOT NULL UNIQUE,
  since INTEGER NOT NULL, seen INTEGER NOT NULL, out_at INTEGER
);

-- +goose Down
DROP TABLE device; DROP TABLE kit_note;
