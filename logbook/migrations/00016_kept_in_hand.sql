-- +goose Up
-- Kit that was borrowed from others, counted in and out; when a check of it is due; where a joint of it leaked. What was topped
-- up by whom, a job that is passed on, a question put to somebody else. Whose hands a job is in, and its family: the book is
-- asked by them. A machine may be one of a set.
CREATE TABLE kit_note_was AS SELECT id, at, by, device, kit_id, kind, sentence, value FROM kit_note ORDER BY rowid;
DROP TABLE kit_note;
CREATE TABLE kit_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('gauge', 'pump', 'adapter', 'plug', 'case')), body TEXT NOT NULL
);
INSERT INTO kit_new SELECT id, at, by, device, kind, body FROM kit ORDER BY rowid;
DROP TABLE kit;
ALTER TABLE kit_new RENAME TO kit;
CREATE TABLE kit_note (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  kit_id TEXT NOT NULL REFERENCES kit(id),
  kind TEXT NOT NULL CHECK (kind IN ('zero check', 'service', 'lent', 'back', 'compared', 'retired', 'borrowed', 'given back', 'check due', 'leaked')),
  sentence TEXT NOT NULL, value TEXT NOT NULL,
  uses INTEGER NOT NULL DEFAULT 0       -- holds that the piece had been on by then
);
INSERT INTO kit_note(id, at, by, device, kit_id, kind, sentence, value) SELECT id, at, by, device, kit_id, kind, sentence, value FROM kit_note_was ORDER BY rowid;
DROP TABLE kit_note_was;
CREATE INDEX kit_note_by_kit ON kit_note(kit_id, at);
CREATE INDEX kit_note_by_kind ON kit_note(kit_id, kind, at);
CREATE INDEX kit_moved ON kit_note(at) WHERE kind IN ('lent', 'back', 'retired', 'borrowed', 'given back', 'leaked');
ALTER TABLE kit ADD COLUMN uses INTEGER NOT NULL DEFAULT 0;    -- holds it was on

CREATE TABLE fact_new (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  subject TEXT NOT NULL CHECK (subject IN ('mark', 'target', 'gauge', 'allowance', 'fitted', 'tick', 'remark', 'proof', 'look', 'found',
    'air', 'topped up', 'remind', 'school', 'repair', 'cause', 'parties', 'accept', 'sign', 'hunch', 'escape', 'file', 'ground', 'came out',
    'act', 'photo', 'tried', 'set up', 'added', 'passed', 'question', 'answer')),
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

ALTER TABLE job ADD COLUMN hands TEXT NOT NULL DEFAULT '';     -- whose it is to do
ALTER TABLE job ADD COLUMN family TEXT NOT NULL DEFAULT '';    -- of its circuit
UPDATE job SET hands = by, family = coalesce((SELECT CASE WHEN json_valid(s.body) THEN json_extract(s.body, '$.circuit.family') END
  FROM snapshot s WHERE s.id = job.snapshot_id), '');
CREATE INDEX job_unproved ON job(place) WHERE mend NOT IN ('', 'proved');
CREATE INDEX job_in_hands ON job(hands COLLATE NOCASE, place);
CREATE INDEX job_by_family ON job(family, place);

ALTER TABLE machine ADD COLUMN part_of TEXT NOT NULL DEFAULT '';      -- the machine that it is one of: a train, a fleet
ALTER TABLE machine ADD COLUMN place_in INTEGER NOT NULL DEFAULT 0;   -- among those, from 1
CREATE INDEX machine_by_whole ON machine(part_of, place_in) WHERE part_of <> '';

-- +goose Down
DROP INDEX machine_by_whole;
ALTER TABLE machine DROP COLUMN place_in;
ALTER TABLE machine DROP COLUMN part_of;
DROP INDEX job_by_family; DROP INDEX job_in_hands; DROP INDEX job_unproved;
ALTER TABLE job DROP COLUMN family;
ALTER TABLE job DROP COLUMN hands;
DELETE FROM fact WHERE subject IN ('added', 'passed', 'question', 'answer');
ALTER TABLE kit DROP COLUMN uses;
DROP INDEX kit_moved; DROP INDEX kit_note_by_kind;
ALTER TABLE kit_note DROP COLUMN uses;
DELETE FROM kit_note WHERE kind IN ('borrowed', 'given back', 'check due', 'leaked');
CREATE INDEX kit_moved ON kit_note(at) WHERE kind IN ('lent', 'back', 'retired');
DELETE FROM kit_note WHERE kit_id IN (SELECT id FROM kit WHERE kind = 'case');
DELETE FROM kit WHERE kind = 'case';
