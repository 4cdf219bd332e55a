-- +goose Up
-- A camera before a gauge's face takes readings too. The readings of years are left where they are: only what their column admits is
-- written into the schema, as SQLite's own document of ALTER TABLE says for a CHECK; a table made and dropped lets every connection
-- read the schema again.
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, 'how IN (''read'', ''mark'')', 'how IN (''read'', ''mark'', ''camera'')')
  WHERE type = 'table' AND name IN ('reading', 'arriving');
CREATE TABLE again (n INTEGER);
DROP TABLE again;
PRAGMA writable_schema = RESET;

-- +goose Down
-- What a camera saw was read: the book of before has no other word for it.
UPDATE reading SET how = 'read' WHERE how = 'camera';
UPDATE arriving SET how = 'read' WHERE how = 'camera';
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, 'how IN (''read'', ''mark'', ''camera'')', 'how IN (''read'', ''mark'')')
  WHERE type = 'table' AND name IN ('reading', 'arriving');
CREATE TABLE again (n INTEGER);
DROP TABLE again;
PRAGMA writable_schema = RESET;
