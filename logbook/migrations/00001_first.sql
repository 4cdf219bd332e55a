-- +goose Up
-- Times are UTC microseconds on the server's clock. Every entry carries the id its
-- client made, who wrote it and from which device. Nothing here is ever deleted.

CREATE TABLE entry (              -- one row a write: the same id again is answered the same
  id      TEXT PRIMARY KEY,
  digest  BLOB NOT NULL,
  at      INTEGER NOT NULL,
  by      TEXT NOT NULL,
  device  TEXT NOT NULL,
  answer  TEXT NOT NULL
) WITHOUT ROWID;

CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;

CREATE TABLE machine (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  name TEXT NOT NULL COLLATE NOCASE UNIQUE, note TEXT NOT NULL
);

CREATE TABLE kit (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('gauge', 'pump')), body TEXT NOT NULL
);

CREATE TABLE job (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  machine_id TEXT NOT NULL REFERENCES machine(id),
  complaint TEXT NOT NULL,
  snapshot TEXT NOT NULL,         -- circuit and schools as they were when the job began
  snapshot_hash TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('open', 'closed', 'abandoned')),
  ended_at INTEGER,
  -- what the book shows of it, kept current with the calls
  call TEXT NOT NULL DEFAULT '', loss_ml_h REAL, found TEXT NOT NULL DEFAULT '', simulated INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX job_by_time ON job(at);
CREATE INDEX job_by_machine ON job(machine_id, at);
CREATE VIRTUAL TABLE job_words USING fts5(job_id UNINDEXED, words, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');

CREATE TABLE fact (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  subject TEXT NOT NULL, stage TEXT NOT NULL, sentence TEXT NOT NULL, source TEXT NOT NULL, value TEXT NOT NULL,
  superseded_by TEXT REFERENCES fact(id)
);
CREATE INDEX fact_by_job ON fact(job_id, at);

CREATE TABLE observation (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  part TEXT NOT NULL, method TEXT NOT NULL,
  seen INTEGER NOT NULL, class TEXT NOT NULL CHECK (class IN ('', 'fault', 'meant', 'forgotten opening')),
  pressure_pa REAL, note TEXT NOT NULL
);
CREATE INDEX observation_by_job ON observation(job_id, at);

CREATE TABLE hold (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  job_id TEXT NOT NULL REFERENCES job(id),
  purpose TEXT NOT NULL CHECK (purpose IN ('rig proof', 'test', 'repeat', 'retest')),
  condition TEXT NOT NULL, chamber TEXT NOT NULL,
  rig TEXT NOT NULL,              -- gauge, pump, target and allowance as used
  state TEXT NOT NULL CHECK (state IN ('pumping', 'holding', 'ended')),
  isolated_at INTEGER, ended_at INTEGER, laid_by INTEGER NOT NULL DEFAULT 0, simulated INTEGER NOT NULL
);
CREATE INDEX hold_by_job ON hold(job_id, at);
CREATE INDEX hold_running ON hold(state) WHERE state <> 'ended';

CREATE TABLE reading (
  hold_id TEXT NOT NULL REFERENCES hold(id), gauge INTEGER NOT NULL, seq INTEGER NOT NULL,
  at INTEGER NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, how TEXT NOT NULL CHECK (how IN ('read', 'mark')),
  by TEXT NOT NULL, device TEXT NOT NULL, struck TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (hold_id, gauge, seq)
) WITHOUT ROWID;

CREATE TABLE event (
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  hold_id TEXT NOT NULL REFERENCES hold(id), kind TEXT NOT NULL, pressure_pa REAL
);
CREATE INDEX event_by_hold ON event(hold_id, at);

CREATE TABLE gap (
  hold_id TEXT NOT NULL REFERENCES hold(id), from_at INTEGER NOT NULL, to_at INTEGER NOT NULL, why TEXT NOT NULL,
  PRIMARY KEY (hold_id, from_at)
) WITHOUT ROWID;

CREATE TABLE call (               -- immutable: later evidence adds a call
  id TEXT PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, device TEXT NOT NULL,
  hold_id TEXT NOT NULL REFERENCES hold(id),
  judge TEXT NOT NULL, call TEXT NOT NULL, last_seq INTEGER NOT NULL, report TEXT NOT NULL
);
CREATE INDEX call_by_hold ON call(hold_id, at);

-- +goose Down
DROP TABLE call; DROP TABLE gap; DROP TABLE event; DROP TABLE reading; DROP TABLE hold; DROP TABLE observation;
DROP TABLE fact; DROP TABLE job_words; DROP TABLE job; DROP TABLE kit; DROP TABLE machine; DROP TABLE setting; DROP TABLE entry;
