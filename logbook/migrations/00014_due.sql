-- +goose Up
-- What is to be looked at again is found by its time, in whatever job it stands. One that is done has the year 1.
CREATE INDEX fact_due ON fact(json_extract(value, '$.due')) WHERE subject = 'remind' AND superseded_by IS NULL;

-- +goose Down
DROP INDEX fact_due;
