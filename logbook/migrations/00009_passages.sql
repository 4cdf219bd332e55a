-- +goose Up
-- What isolation tests showed, and how plugs, levers and valves stand on the bench.
CREATE TABLE fact_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  subject TEXT NOT NULL CHECK (subject IN ('mark', 'target', 'gauge', 'allowance', 'fitted', 'tick', 'remark', 'proof', 'look', 'found',
    'air', 'topped up', 'remind', 'school', 'repair', 'accept', 'sign', 'hunch', 'escape', 'file', 'ground', 'came out', 'act', 'photo',
    'tried', 'set up')),
  about TEXT NOT NULL,            -- which tick, part or step; empty where there is only one
  stage TEXT NOT NULL CHECK (stage IN ('first-look', 'make-safe', 'limit', 'rig', 'prove', 'pressurise', 'hold', 'call', 'hunt',
    'put-right', 'write-down') OR stage LIKE 'step-%'),
  sentence TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('mark', 'strokes', 'proof', 'fit', 'eyes', 'gauge', 'typed', 'school', 'said', 'slate', 'file')),
  value TEXT NOT NULL,
  superseded_by TEXT REFERENCES fact_new(id)
);
-- Those that are superseded come after those that supersede them.
INSERT INTO fact_new SELECT id, at, by, device, job_id, subject, about, stage, sentence, source, value, NULL FROM fact ORDER BY rowid;
UPDATE fact_new SET superseded_by = (SELECT f.superseded_by FROM fact f WHERE f.id = fact_new.id);
DROP TABLE fact;
ALTER TABLE fact_new RENAME TO fact;
CREATE INDEX fact_by_job ON fact(job_id, at);

-- +goose Down
DELETE FROM fact WHERE subject IN ('tried', 'set up');
