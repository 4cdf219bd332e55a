-- +goose Up
-- Words on which the program acts are checked here: what a fact is about and where it
-- is from, under which condition a hold was done. A hold that has ended keeps what a
-- sheet shows of its readings.
CREATE TABLE fact_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  subject TEXT NOT NULL CHECK (subject IN ('mark', 'target', 'gauge', 'allowance', 'fitted', 'tick', 'remark', 'proof', 'look', 'found',
    'air', 'topped up', 'remind', 'school', 'repair', 'accept', 'sign', 'hunch', 'file')),
  about TEXT NOT NULL,            -- which tick, part or step; empty where there is only one
  stage TEXT NOT NULL CHECK (stage IN ('first-look', 'make-safe', 'limit', 'rig', 'prove', 'pressurise', 'hold', 'call', 'hunt',
    'put-right', 'write-down') OR stage LIKE 'step-%'),
  sentence TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('mark', 'strokes', 'proof', 'fit', 'eyes', 'gauge', 'typed', 'school', 'said', 'slate', 'file')),
  value TEXT NOT NULL,
  superseded_by TEXT REFERENCES fact_new(id)
);
-- Those that are superseded come after those that supersede them.
INSERT INTO fact_new SELECT id, at, by, device, job_id,
  CASE instr(subject, '/') WHEN 0 THEN subject ELSE substr(subject, 1, instr(subject, '/') - 1) END,
  CASE instr(subject, '/') WHEN 0 THEN '' ELSE substr(subject, instr(subject, '/') + 1) END,
  CASE WHEN stage IN ('first-look', 'make-safe', 'limit', 'rig', 'prove', 'pressurise', 'hold', 'call', 'hunt', 'put-right', 'write-down')
    OR stage LIKE 'step-%' THEN stage ELSE 'first-look' END,
  sentence, source, value, NULL FROM fact ORDER BY rowid;
UPDATE fact_new SET superseded_by = (SELECT f.superseded_by FROM fact f WHERE f.id = fact_new.id);
DROP TABLE fact;
ALTER TABLE fact_new RENAME TO fact;
CREATE INDEX fact_by_job ON fact(job_id, at);

ALTER TABLE hold ADD COLUMN under TEXT NOT NULL DEFAULT '';
ALTER TABLE hold ADD COLUMN warmth TEXT NOT NULL DEFAULT '' CHECK (warmth IN ('', 'cold', 'warm', 'hot'));
ALTER TABLE hold ADD COLUMN engine INTEGER NOT NULL DEFAULT 0 CHECK (engine IN (0, 1));
ALTER TABLE hold ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE hold ADD COLUMN digest TEXT NOT NULL DEFAULT '';   -- of the readings, once it has ended
-- A condition was free text. What named one of a step's own two, or a warmth, becomes a
-- value; anything else is a note, and nothing is worked out from it.
UPDATE hold SET under = condition WHERE condition <> '' AND EXISTS (
  SELECT 1 FROM job j, json_each(j.snapshot, '$.circuit.steps') s, json_each(s.value, '$.conditions') c
  WHERE j.id = hold.job_id AND c.value = hold.condition);
UPDATE hold SET
  warmth = CASE
    WHEN ',' || replace(condition, ', ', ',') || ',' LIKE '%,hot,%' THEN 'hot'
    WHEN ',' || replace(condition, ', ', ',') || ',' LIKE '%,warm,%' THEN 'warm'
    WHEN ',' || replace(condition, ', ', ',') || ',' LIKE '%,cold,%' THEN 'cold'
    ELSE '' END,
  engine = ',' || replace(condition, ', ', ',') || ',' LIKE '%,engine running,%',
  note = CASE WHEN condition IN ('hot', 'warm', 'cold', 'engine running') THEN '' ELSE condition END
  WHERE under = '' AND condition <> '';
ALTER TABLE hold DROP COLUMN condition;

-- +goose Down
ALTER TABLE hold ADD COLUMN condition TEXT NOT NULL DEFAULT '';
UPDATE hold SET condition = CASE WHEN under <> '' THEN under WHEN note <> '' THEN note ELSE warmth END;
ALTER TABLE hold DROP COLUMN under; ALTER TABLE hold DROP COLUMN warmth; ALTER TABLE hold DROP COLUMN engine;
ALTER TABLE hold DROP COLUMN note; ALTER TABLE hold DROP COLUMN digest;
