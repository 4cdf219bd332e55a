-- +goose Up
-- What is to be looked at again is found by its time, in whatever job it stands. One that is done has the year 1.
CREATE INDEX fact_due ON fact(json_extract(value, '$.due')) WHERE subject = 'remind' AND superseded_by IS NULL;
-- Every sheet asks where its kit is: that takes no longer for all the checks of many years.
CREATE INDEX kit_moved ON kit_note(at) WHERE kind IN ('lent', 'back', 'retired');

-- +goose Down
DROP INDEX kit_moved;
DROP INDEX fact_due;
