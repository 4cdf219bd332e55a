package logbook

import (
	"context"
	"errors"
	"strings"
)

// Machine stands on the bench or the rails; it lasts for ever.
type Machine struct {
	Stamp
	Name    string `json:"name"`
	Note    string `json:"note"`
	PartOf  string `json:"part_of"`  // the machine that it is one of, by id; empty: none
	PlaceIn int    `json:"place_in"` // among those, from 1
}

// MachineNamed finds a machine by name, or makes it under the given stamp.
func (t *Tx) MachineNamed(s Stamp, name string) (Machine, error) {
	m, err := machineFrom(t.ctx, t.tx, "name", name)
	if !errors.Is(err, ErrNotFound) {
		return m, err
	}
	m = Machine{Stamp: s, Name: name}
	return m, t.AddMachine(m)
}

// MachineCalled reads one by its name.
func (b *Book) MachineCalled(ctx context.Context, name string) (Machine, error) {
	return machineFrom(ctx, b.db, "name", name)
}

// Machines lists names that begin or contain the words, latest used first.
func (b *Book) Machines(ctx context.Context, like string, most int) ([]Machine, error) {
	return machinesFrom(ctx, b.db, `WHERE name LIKE ? ESCAPE '\' ORDER BY used DESC LIMIT ?`, "%"+strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(like)+"%", most)
}

// MachinesIn are those of a set, in their order.
func (b *Book) MachinesIn(ctx context.Context, wholeID string) ([]Machine, error) {
	return machinesFrom(ctx, b.db, "WHERE part_of = ? AND part_of <> '' ORDER BY place_in", wholeID)
}

// PutIn makes a machine one of a set, at a place from 1; of none for "".
func (t *Tx) PutIn(machineID, wholeID string, place int) error {
	return t.exec("UPDATE machine SET part_of = ?, place_in = ? WHERE id = ?", wholeID, place, machineID)
}

func machinesFrom(ctx context.Context, from queryer, where string, args ...any) ([]Machine, error) {
	rows, err := from.QueryContext(ctx, "SELECT id, at, by, device, name, note, part_of, place_in FROM machine "+where, args...)
	return collect(rows, err, func(m *Machine, at *int64) []any {
		return []any{&m.ID, at, &m.By, &m.Device, &m.Name, &m.Note, &m.PartOf, &m.PlaceIn}
	}, func(m *Machine, at int64) { m.At = moment(at) })
}

func machineFrom(ctx context.Context, from queryer, by, is string) (Machine, error) {
	ms, err := machinesFrom(ctx, from, "WHERE "+by+" = ?", is)
	return only(ms, "machine", is, err)
}
