-- +goose Up
-- So many readings of a gauge in a row once more, as one row: a long hold is read back in a moment. They are made from the
-- readings, which stay as they are, and are gone as soon as one of those changes.
CREATE TABLE packed (
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, first INTEGER NOT NULL,
  body BLOB NOT NULL
);
CREATE UNIQUE INDEX packed_by_hold ON packed(hold_id, gauge, first);
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

-- +goose Down
DROP TRIGGER reading_changed; DROP TRIGGER reading_gone;
DROP TABLE packed;
