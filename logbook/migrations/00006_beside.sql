-- +goose Up
-- A job may be begun out of another, whose complaint it takes on.
ALTER TABLE job ADD COLUMN begun_from TEXT NOT NULL DEFAULT '';
CREATE INDEX job_begun_from ON job(begun_from) WHERE begun_from <> '';

-- +goose Down
DROP INDEX job_begun_from;
ALTER TABLE job DROP COLUMN begun_from;
