package logbook

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// Device is another computer or phone that was let in.
type Device struct {
	ID    string
	Name  string
	Since time.Time
	Seen  time.Time
	OutAt *time.Time // signed out; nil while it is in
}

// AddDevice lets a device in, known by the hash of its token.
func (t *Tx) AddDevice(d Device, token []byte) error {
	return t.exec("INSERT INTO device(id, name, token, since, seen) VALUES (?,?,?,?,?)", d.ID, d.Name, token, micro(d.Since), micro(d.Seen))
}

// SignOut lets a device in no more; all of them for "".
func (t *Tx) SignOut(id string, at time.Time) error {
	res, err := t.tx.ExecContext(t.ctx, "UPDATE device SET out_at = ? WHERE ?2 IN ('', id) AND out_at IS NULL", micro(at), id)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 && id != "" {
		return errors.Join(err, fmt.Errorf("there is no device %s that is signed in (%w)", id, ErrNotFound))
	}
	return nil
}

// SeeDevice notes when a device was last there.
func (t *Tx) SeeDevice(id string, at time.Time) error {
	return t.exec("UPDATE device SET seen = max(seen, ?) WHERE id = ?", micro(at), id)
}

// DeviceOf finds a signed-in device by the hash of its token.
func (b *Book) DeviceOf(ctx context.Context, token []byte) (Device, error) {
	ds, err := b.devices(ctx, "WHERE token = ? AND out_at IS NULL", token)
	if err == nil && len(ds) == 0 {
		err = sql.ErrNoRows
	}
	if err != nil {
		return Device{}, missing("device", "with this token", err)
	}
	return ds[0], nil
}

// Devices lists those that are signed in, latest first.
func (b *Book) Devices(ctx context.Context) ([]Device, error) {
	return b.devices(ctx, "WHERE out_at IS NULL ORDER BY seen DESC")
}

func (b *Book) devices(ctx context.Context, where string, args ...any) ([]Device, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT since, id, name, seen, out_at FROM device "+where, args...)
	var seen int64
	var out sql.NullInt64
	return collect(rows, err, func(d *Device, since *int64) []any {
		return []any{since, &d.ID, &d.Name, &seen, &out}
	}, func(d *Device, since int64) { d.Since, d.Seen, d.OutAt = moment(since), moment(seen), momentOrNil(out) })
}
