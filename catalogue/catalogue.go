// Package catalogue is the circuits that can be tested: those that ship and the shop's
// own files beside its book, read once and again when they change. It owns that reading.
// Jobs and pages ask it; it knows of neither.
package catalogue

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"

	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/desk"
	"idlehiss/library"
)

// Folder holds a shop's own circuits, beside its book.
const Folder = "circuits"

// Room is the circuits of a shop.
type Room struct {
	folder string

	mu    sync.Mutex // guards the two
	stamp string     // of the folder as it was read
	last  reading
}

type reading struct {
	all []circuit.Circuit
	own []library.Own
}

// New opens the catalogue of the shop whose data lie in a folder. It is read before the
// first person asks: that takes longer than typing a machine's name.
func New(data string) (*Room, error) {
	r := &Room{folder: filepath.Join(data, Folder)}
	_, _, err := r.All()
	return r, err
}

// All are the circuits that ship and the shop's own, and what was read of its files. A
// file put there appears without a restart.
func (r *Room) All() ([]circuit.Circuit, []library.Own, error) {
	stamp, err := r.stampOf()
	if err != nil {
		return nil, nil, err
	}
	if was, ok := r.read(stamp); ok {
		return was.all, was.own, nil
	}
	own, err := library.OwnCircuits(os.DirFS(r.folder))
	if err != nil {
		return nil, nil, err
	}
	all, err := library.Merged(own)
	if err != nil {
		return nil, nil, err
	}
	r.keep(stamp, reading{all, own})
	return all, own, nil
}

func (r *Room) read(stamp string) (reading, bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.last, r.stamp == stamp && r.last.all != nil
}

func (r *Room) keep(stamp string, now reading) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.stamp, r.last = stamp, now
}

// stampOf changes whenever a file of the folder does.
func (r *Room) stampOf() (string, error) {
	entries, err := os.ReadDir(r.folder)
	if errors.Is(err, fs.ErrNotExist) {
		return "", nil
	}
	if err != nil { // a file in its place, or a folder that cannot be read, holds no circuits
		return err.Error(), nil
	}
	var out strings.Builder
	for _, e := range entries {
		info, err := e.Info()
		if err != nil {
			continue // it went away between two looks
		}
		fmt.Fprintf(&out, "%s %d %d\n", e.Name(), info.Size(), info.ModTime().UnixNano())
	}
	return out.String(), nil
}

// Named finds a circuit; an empty id is the first.
func (r *Room) Named(id string) (circuit.Circuit, error) {
	all, own, err := r.All()
	if err != nil {
		return circuit.Circuit{}, err
	}
	if id == "" {
		return all[0], nil
	}
	for _, c := range all {
		if c.ID == id {
			return c, nil
		}
	}
	for _, o := range own {
		if len(o.Faults) > 0 && (o.Circuit.ID == id || strings.TrimSuffix(o.File, ".yaml") == id) {
			return circuit.Circuit{}, desk.Refuse("circuit", "%s is refused: %v", o.File, o.Faults)
		}
	}
	return circuit.Circuit{}, desk.Refuse("circuit", "there is no circuit %q in the library", id)
}

// Choice is an id with its words.
type Choice struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// Proposed is the circuit that what was typed speaks for.
type Proposed struct {
	Choice
	Also  []Choice `json:"also" doc:"those that fit as well"`
	Count int      `json:"count" doc:"how many of its things were named; 0: none"`
}

// Meant proposes the circuit that a machine's name and complaint speak for, with the
// figure that was typed beside, if any.
func (r *Room) Meant(in circuit.Typed) (Proposed, error) {
	all, _, err := r.All()
	if err != nil {
		return Proposed{}, err
	}
	p := circuit.Meant(all, in)
	out := Proposed{Choice: Choice{p.Circuit.ID, p.Circuit.Title}, Also: []Choice{}, Count: p.Count}
	for _, c := range p.Also {
		out.Also = append(out.Also, Choice{c.ID, c.Title})
	}
	return out, nil
}

// Rows lists every circuit, as the bench offers them.
func (r *Room) Rows() ([]CircuitRow, error) {
	all, own, err := r.All()
	out := []CircuitRow{}
	for _, c := range all {
		out = append(out, circuitRow(c, own))
	}
	return out, err
}

// List is the library with the shop's own.
func (r *Room) List() (CircuitList, error) {
	out := CircuitList{Wrong: []WrongFile{}, Folder: r.folder}
	_, own, err := r.All()
	if err != nil {
		return out, err
	}
	for _, o := range own {
		if len(o.Faults) > 0 {
			out.Wrong = append(out.Wrong, WrongFile{o.File, o.Faults})
		}
	}
	out.Circuits, err = r.Rows()
	return out, err
}

// Circuit shows one, with every option fitted.
func (r *Room) Circuit(id string) (CircuitView, error) {
	c, err := r.Named(id)
	if err != nil {
		return CircuitView{}, desk.NotThere(err)
	}
	_, own, err := r.All()
	if err != nil {
		return CircuitView{}, err
	}
	v := CircuitView{CircuitRow: circuitRow(c, own), Standing: c.Standing, Source: c.Source, NotTested: c.Untested(false),
		Chambers: []ChamberView{}, Parts: []PartView{}, Tests: []CircuitStep{}, Matters: append([]circuit.Matter{}, c.Matters...), Stages: runsheet.Stages(&c), Acts: Acts(&c), Imitators: []string{}, Findings: []library.FileFinding{}}
	for _, m := range c.Imitators {
		v.Imitators = append(v.Imitators, m.Says)
	}
	for _, o := range own {
		if len(o.Faults) == 0 && o.Circuit.ID == c.ID {
			v.Findings = append(v.Findings, o.Findings...)
		}
	}
	for _, ch := range c.Chambers {
		v.Chambers = append(v.Chambers, ChamberView{ch.ID, ch.Title, ch.Holds, ch.Open, ch.At})
	}
	for _, p := range c.Parts {
		v.Parts = append(v.Parts, PartView{p.ID, p.Title, p.Between, p.Kind, p.Odds, p.Look, runsheet.TwoUnits(float64(p.Limit)), p.Close + p.ClosedBy, p.Meant > 0, Behind(&c, p), p.Within, Tells(&c, p)})
	}
	for _, st := range c.Tests() {
		v.Tests = append(v.Tests, Step(&c, st))
	}
	return v, nil
}
