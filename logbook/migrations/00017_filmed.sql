-- +goose Up
-- A camera before a gauge's face takes readings too.
CREATE TABLE reading_new (
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark', 'camera')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (hold_id, gauge, seq)
) WITHOUT ROWID;
INSERT INTO reading_new SELECT * FROM reading;
DROP TRIGGER reading_changed; DROP TRIGGER reading_gone;
DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
-- +goose StatementBegin
CREATE TRIGGER reading_changed AFTER UPDATE ON reading BEGIN
  DELETE FROM packed WHERE hold_id = old.hold_id AND gauge = old.gauge
    AND first > old.seq - 2048 AND first <= old.seq; -- as many as are in a pack
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER reading_gone AFTER DELETE ON reading BEGIN
  DELETE FROM packed WHERE hold_id = old.hold_id AND gauge = old.gauge
    AND first > old.seq - 2048 AND first <= old.seq; -- as many as are in a pack
END;
-- +goose StatementEnd
ALTER TABLE arriving RENAME TO arriving_old;
CREATE TABLE arriving (
  n INTEGER PRIMARY KEY,
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark', 'camera')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT ''
);
INSERT INTO arriving SELECT * FROM arriving_old;
DROP TABLE arriving_old;

-- +goose Down
-- What a camera saw was read: the book of before has no other word for it.
CREATE TABLE reading_old (
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (hold_id, gauge, seq)
) WITHOUT ROWID;
INSERT INTO reading_old SELECT hold_id, gauge, seq, at, value, unit, CASE how WHEN 'camera' THEN 'read' ELSE how END, by, device, struck FROM reading;
DROP TRIGGER reading_changed; DROP TRIGGER reading_gone;
DROP TABLE reading;
ALTER TABLE reading_old RENAME TO reading;
DELETE FROM packed;
-- +goose StatementBegin
CREATE TRIGGER reading_changed AFTER UPDATE ON reading BEGIN
  DELETE FROM packed WHERE hold_id = old.hold_id AND gauge = old.gauge
    AND first > old.seq - 2048 AND first <= old.seq;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER reading_gone AFTER DELETE ON reading BEGIN
  DELETE FROM packed WHERE hold_id = old.hold_id AND gauge = old.gauge
    AND first > old.seq - 2048 AND first <= old.seq;
END;
-- +goose StatementEnd
INSERT INTO reading SELECT hold_id, gauge, seq, at, value, unit, CASE how WHEN 'camera' THEN 'read' ELSE how END, by, device, struck FROM arriving;
DELETE FROM arriving;
ALTER TABLE arriving RENAME TO arriving_new;
CREATE TABLE arriving (
  n INTEGER PRIMARY KEY,
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT ''
);
DROP TABLE arriving_new;
