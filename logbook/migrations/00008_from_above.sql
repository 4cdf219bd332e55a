-- +goose Up
-- A look at a place to which it ran down.
CREATE TABLE observation_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  part TEXT NOT NULL, method TEXT NOT NULL,
  seen INTEGER NOT NULL, class TEXT NOT NULL CHECK (class IN ('', 'fault', 'meant', 'forgotten opening', 'from above', 'taken back')),
  pressure_pa REAL, note TEXT NOT NULL
);
INSERT INTO observation_new SELECT id, at, by, device, job_id, part, method, seen, class, pressure_pa, note FROM observation ORDER BY rowid;
DROP TABLE observation;
ALTER TABLE observation_new RENAME TO observation;
CREATE INDEX observation_by_job ON observation(job_id, at);

-- +goose Down
DELETE FROM observation WHERE class = 'from above';
