package logbook

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"idlehiss/core/terms"
)

// Device is another computer or phone that was let in, or a logger.
type Device struct {
	ID     string
	Name   string
	Role   terms.Role
	Person string // first name of who uses it
	Gauges []string
	Since  time.Time
	Seen   time.Time
	Until  *time.Time // out from then on; nil: as long as it is used
	OutAt  *time.Time // signed out; nil while it is in
}

// AddDevice lets a device in, known by the hash of its token.
func (t *Tx) AddDevice(d Device, token []byte) error {
	gauges, err := json.Marshal(append([]string{}, d.Gauges...))
	if err != nil {
		return err
	}
	return t.exec("INSERT INTO device(id, name, token, since, seen, role, person, until, gauges) VALUES (?,?,?,?,?,?,?,?,?)",
		d.ID, d.Name, token, micro(d.Since), micro(d.Seen), d.Role, d.Person, microOrNull(d.Until), string(gauges))
}

// SignOut lets a device in no more; all of them for "".
func (t *Tx) SignOut(id string, at time.Time) error {
	return t.signOut(at, "?2 IN ('', id)", id)
}

// SignOutRole signs everybody of a role out.
func (t *Tx) SignOutRole(role terms.Role, at time.Time) error {
	err := t.signOut(at, "role = ?2", string(role))
	if errors.Is(err, ErrNotFound) {
		return nil
	}
	return err
}

func (t *Tx) signOut(at time.Time, which, id string) error {
	if n, err := t.changed("UPDATE device SET out_at = ?1 WHERE "+which+" AND out_at IS NULL", micro(at), id); err != nil || n == 0 && id != "" {
		return errors.Join(err, fmt.Errorf("there is no device %s that is signed in (%w)", id, ErrNotFound))
	}
	return nil
}

// SeeDevice notes when a device was last there.
func (t *Tx) SeeDevice(id string, at time.Time) error {
	return t.exec("UPDATE device SET seen = max(seen, ?) WHERE id = ?", micro(at), id)
}

// NamePerson notes who uses a device.
func (t *Tx) NamePerson(id, person string) error {
	return t.exec("UPDATE device SET person = ? WHERE id = ?", person, id)
}

// DeviceOf finds a signed-in device by the hash of its token.
func (b *Book) DeviceOf(ctx context.Context, token []byte) (Device, error) {
	ds, err := b.devices(ctx, "WHERE token = ? AND out_at IS NULL", token)
	return only(ds, "device", "with this token", err)
}

// Devices lists those that are signed in, latest first.
func (b *Book) Devices(ctx context.Context) ([]Device, error) {
	return b.devices(ctx, "WHERE out_at IS NULL ORDER BY seen DESC")
}

func (b *Book) devices(ctx context.Context, where string, args ...any) ([]Device, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT since, id, name, role, person, gauges, seen, until, out_at FROM device "+where, args...)
	var seen int64
	var gauges string
	var bad error
	ds, err := collect(rows, err, func(d *Device, since *int64) []any {
		return []any{since, &d.ID, &d.Name, &d.Role, &d.Person, &gauges, &seen, maybe{&d.Until}, maybe{&d.OutAt}}
	}, func(d *Device, since int64) {
		d.Since, d.Seen = moment(since), moment(seen)
		bad = errors.Join(bad, json.Unmarshal([]byte(gauges), &d.Gauges))
	})
	return ds, errors.Join(err, bad)
}

// WrongPins is how often a wrong PIN came from an address; over all of them for the address "".
type WrongPins struct {
	Source      string
	N           int
	First, Last time.Time
	Until       time.Time // no other is looked at before
}

// WrongPins lists them.
func (b *Book) WrongPins(ctx context.Context) ([]WrongPins, error) {
	return wrongPins(ctx, b.db, "")
}

// WrongPins are those of an address, as they are in this write.
func (t *Tx) WrongPins(source string) (WrongPins, error) {
	all, err := wrongPins(t.ctx, t.tx, "WHERE source = ?", source)
	if err != nil || len(all) == 0 {
		return WrongPins{Source: source}, err
	}
	return all[0], nil
}

func wrongPins(ctx context.Context, from queryer, where string, args ...any) ([]WrongPins, error) {
	rows, err := from.QueryContext(ctx, "SELECT source, first, n, last, until FROM wrong_pin "+where, args...)
	var last, until int64
	return collect(rows, err, func(w *WrongPins, first *int64) []any {
		return []any{&w.Source, first, &w.N, &last, &until}
	}, func(w *WrongPins, first int64) { w.First, w.Last, w.Until = moment(first), moment(last), moment(until) })
}

// SetWrongPins keeps them; none are kept for a count of 0.
func (t *Tx) SetWrongPins(w WrongPins) error {
	if w.N <= 0 {
		return t.exec("DELETE FROM wrong_pin WHERE source = ?", w.Source)
	}
	return t.exec("INSERT OR REPLACE INTO wrong_pin(source, n, first, last, until) VALUES (?,?,?,?,?)", w.Source, w.N, micro(w.First), micro(w.Last), micro(w.Until))
}

// ForgetWrongPins forgets those that are older than a moment.
func (t *Tx) ForgetWrongPins(before time.Time) error {
	return t.exec("DELETE FROM wrong_pin WHERE last < ?", micro(before))
}
