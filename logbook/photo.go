package logbook

import "context"

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
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, job_id, part, note, jpeg FROM photo WHERE id = ?", id)
	ps, err := collect(rows, err, func(p *Photo, at *int64) []any {
		return []any{&p.ID, at, &p.By, &p.Device, &p.JobID, &p.Part, &p.Note, &p.JPEG}
	}, func(p *Photo, at int64) { p.At = moment(at) })
	return only(ps, "photo", id, err)
}
