-- +goose Up
-- Who is let in as what: the owner, a hand, or a logger that posts readings to named gauges.
ALTER TABLE device ADD COLUMN role TEXT NOT NULL DEFAULT 'hand' CHECK (role IN ('owner', 'hand', 'logger'));
ALTER TABLE device ADD COLUMN person TEXT NOT NULL DEFAULT '';   -- first name of who uses it
ALTER TABLE device ADD COLUMN until INTEGER;                     -- a borrowed one is out from then on
ALTER TABLE device ADD COLUMN gauges TEXT NOT NULL DEFAULT '[]'; -- ids of those a logger posts to

-- Wrong PINs by the address they came from; '' is over all of them. Times are the computer's.
CREATE TABLE wrong_pin (
  source TEXT PRIMARY KEY, n INTEGER NOT NULL, first INTEGER NOT NULL, last INTEGER NOT NULL, until INTEGER NOT NULL
) WITHOUT ROWID;

-- +goose Down
DROP TABLE wrong_pin;
ALTER TABLE device DROP COLUMN role; ALTER TABLE device DROP COLUMN person;
ALTER TABLE device DROP COLUMN until; ALTER TABLE device DROP COLUMN gauges;
