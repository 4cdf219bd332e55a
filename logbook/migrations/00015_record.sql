-- +goose Up
-- What made a part fail, and whose machine it is. Beside a job stands whether its repair was proved, and its owner.
CREATE TABLE fact_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  subject TEXT NOT NULL CHECK (subject IN ('mark', 'target', 'gauge', 'allowance', 'fitted', 'tick', 'remark', 'proof', 'look', 'found',
    'air', 'topped up', 'remind', 'school', 'repair', 'cause', 'parties', 'accept', 'sign', 'hunch', 'escape', 'file', 'ground', 'came out',
    'act', 'photo', 'tried', 'set up')),
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
UPDATE fact_new SET superseded_by = f.superseded_by FROM fact f WHERE f.id = fact_new.id AND f.superseded_by IS NOT NULL;
DROP TABLE fact;
ALTER TABLE fact_new RENAME TO fact;
CREATE INDEX fact_by_job ON fact(job_id, at);
CREATE INDEX fact_due ON fact(json_extract(value, '$.due')) WHERE subject = 'remind' AND superseded_by IS NULL;

ALTER TABLE job ADD COLUMN owner TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN mend TEXT NOT NULL DEFAULT '' CHECK (mend IN ('', 'unproved', 'unclear', 'unlike', 'leaks', 'proved'));
UPDATE job SET mend = CASE WHEN EXISTS (SELECT 1 FROM hold h JOIN call c ON c.hold_id = h.id WHERE h.job_id = job.id AND h.purpose = 'retest' AND c.call = 'tight')
  THEN 'proved' ELSE 'unproved' END WHERE id IN (SELECT job_id FROM fact WHERE subject = 'repair');

-- +goose Down
DELETE FROM fact WHERE subject IN ('cause', 'parties');
ALTER TABLE job DROP COLUMN mend;
ALTER TABLE job DROP COLUMN owner;
