-- +goose Up
-- For a book of many thousand jobs. A snapshot is kept once, however many jobs began with it. A job has a place in the
-- order of time, under which its words are in the index, so that the index itself gives the latest first.
CREATE TABLE snapshot (
  id INTEGER PRIMARY KEY,
  hash TEXT NOT NULL,
  circuit TEXT NOT NULL,          -- its id
  body TEXT NOT NULL              -- circuit and schools as they were when the job began
);
CREATE INDEX snapshot_by_hash ON snapshot(hash);
INSERT INTO snapshot(hash, circuit, body) SELECT hash, coalesce(json_extract(body, '$.circuit.id'), ''), body
  FROM (SELECT DISTINCT snapshot_hash AS hash, snapshot AS body FROM job);

ALTER TABLE job ADD COLUMN snapshot_id INTEGER REFERENCES snapshot(id);
ALTER TABLE job ADD COLUMN place INTEGER;                       -- 1000 · at, and those of the same moment counted on
ALTER TABLE job ADD COLUMN words TEXT NOT NULL DEFAULT '';      -- by which it is found
CREATE TABLE words_were (job_id TEXT PRIMARY KEY, words TEXT NOT NULL) WITHOUT ROWID;
INSERT OR IGNORE INTO words_were SELECT job_id, words FROM job_words;
UPDATE job SET
  snapshot_id = (SELECT s.id FROM snapshot s WHERE s.hash = job.snapshot_hash AND s.body = job.snapshot),
  words = coalesce((SELECT w.words FROM words_were w WHERE w.job_id = job.id), '');
DROP TABLE words_were;
DROP TABLE job_words;
UPDATE job SET place = o.place FROM
  (SELECT id, 1000 * at + row_number() OVER (PARTITION BY at ORDER BY rowid) - 1 AS place FROM job) o WHERE o.id = job.id;
DROP INDEX job_by_time;
DROP INDEX job_by_machine;
ALTER TABLE job DROP COLUMN snapshot;
ALTER TABLE job DROP COLUMN snapshot_hash;
CREATE UNIQUE INDEX job_by_place ON job(place);
CREATE INDEX job_by_machine ON job(machine_id, place);
CREATE INDEX job_open ON job(place) WHERE state = 'open';
DROP INDEX job_begun_from;
CREATE INDEX job_begun_from ON job(begun_from, place) WHERE begun_from <> '';
ALTER TABLE machine ADD COLUMN used INTEGER NOT NULL DEFAULT 0;   -- place of its latest job
UPDATE machine SET used = coalesce((SELECT max(place) FROM job WHERE machine_id = machine.id), 0);
CREATE INDEX machine_by_use ON machine(used);

CREATE VIRTUAL TABLE job_words USING fts5(words, content = 'job', content_rowid = 'place',
  tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2 3 4');
INSERT INTO job_words(job_words) VALUES ('rebuild');
-- +goose StatementBegin
CREATE TRIGGER job_found AFTER INSERT ON job BEGIN
  INSERT INTO job_words(rowid, words) VALUES (new.place, new.words);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER job_found_otherwise AFTER UPDATE OF words, place ON job BEGIN
  INSERT INTO job_words(job_words, rowid, words) VALUES ('delete', old.place, old.words);
  INSERT INTO job_words(rowid, words) VALUES (new.place, new.words);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER job_not_found AFTER DELETE ON job BEGIN
  INSERT INTO job_words(job_words, rowid, words) VALUES ('delete', old.place, old.words);
END;
-- +goose StatementEnd

-- +goose Down
DROP INDEX machine_by_use;
ALTER TABLE machine DROP COLUMN used;
DROP INDEX job_begun_from;
CREATE INDEX job_begun_from ON job(begun_from) WHERE begun_from <> '';
ALTER TABLE job ADD COLUMN snapshot TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN snapshot_hash TEXT NOT NULL DEFAULT '';
UPDATE job SET snapshot = s.body, snapshot_hash = s.hash FROM snapshot s WHERE s.id = job.snapshot_id;
DROP TRIGGER job_found; DROP TRIGGER job_found_otherwise; DROP TRIGGER job_not_found;
DROP TABLE job_words;
CREATE VIRTUAL TABLE job_words USING fts5(job_id UNINDEXED, words, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
INSERT INTO job_words(job_id, words) SELECT id, words FROM job;
DROP INDEX job_open; DROP INDEX job_by_machine; DROP INDEX job_by_place;
ALTER TABLE job DROP COLUMN words; ALTER TABLE job DROP COLUMN place; ALTER TABLE job DROP COLUMN snapshot_id;
CREATE INDEX job_by_time ON job(at);
CREATE INDEX job_by_machine ON job(machine_id, at);
DROP TABLE snapshot;
