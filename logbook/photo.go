package logbook

import (
	"context"
	"database/sql"
	"errors"
)

// Photo is a picture of a place, kept in the book itself so that a backup stays one file.
type Photo struct {
	Stamp
	JobID string `json:"-"`
	Part  string `json:"part"`
	Note  string `json:"note"`
	JPEG  []byte `json:"-"` // empty in a list
}

// AddPhoto keeps one.
func (t *Tx) AddPhoto(p Photo) error {
	return t.exec("INSERT INTO photo(id, at, by, device, job_id, part, note, jpeg) VALUES (?,?,?,?,?,?,?,?)", p.ID, micro(p.At), p.By, p.Device, p.JobID, p.Part, p.Note, p.JPEG)
}

// Photo reads one, picture and all.
func (b *Book) Photo(ctx context.Context, id string) (Photo, error) {
	p, at := Photo{Stamp: Stamp{ID: id}}, int64(0)
	err := b.db.QueryRowContext(ctx, "SELECT at, by, device, job_id, part, note, jpeg FROM photo WHERE id = ?", id).Scan(&at, &p.By, &p.Device, &p.JobID, &p.Part, &p.Note, &p.JPEG)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	p.At = moment(at)
	return p, err
}
