// Package kit is what a shop measures, pumps and fits with: gauges, pumps, adapters,
// plugs, with their checks and loans. Its state is the book's; it keeps none in memory.
// Holds and jobs ask it for what there is; it knows of neither. What is in use just now
// it is told by whoever wires it.
package kit

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// Gauge is a gauge of the shop; a simulated one hides a circuit.
type Gauge struct {
	runsheet.Gauge
	StandIn *gauges.Spec `json:"stand_in,omitempty"`
	Wire    *gauges.Wire `json:"wire,omitempty"`   // asked over Modbus TCP
	Posted  bool         `json:"posted,omitempty"` // its readings are posted over HTTP
}

// ByItself reports whether the gauge sends its own readings. A simulated needle is looked at as a real one is.
func (g Gauge) ByItself() bool {
	return g.StandIn != nil && g.Kind != terms.Needle || g.Wire != nil || g.Posted
}

// Piece is an adapter or plug.
type Piece struct {
	ID   string        `json:"-"`
	Kind terms.KitKind `json:"-"`
	Name string        `json:"name"`
	Note string        `json:"fits"` // what it goes on, for people
	runsheet.Fit
	RatingPa float64 `json:"rating_pa"`

	leaked []string // the jobs in which its joint leaked
}

// Joint is its joint as a suspect.
func (p Piece) Joint() circuit.Part { return hunt.Joint(p.ID, p.Name, len(p.leaked)) }

// Room is the kit of a shop.
type Room struct {
	desk *desk.Desk
	busy func() map[string]string
}

// mapsFolder holds a shop's own register maps, beside its book.
const mapsFolder = "registers"

func (r *Room) mapsAt() string { return filepath.Join(r.desk.Book.Folder(), mapsFolder) }

// maps are the register maps that ship and the shop's own, read again each time: a file
// put there appears without a restart.
func (r *Room) maps() ([]gauges.RegisterMap, map[string]string, error) {
	var own fs.FS
	if _, err := os.Stat(r.mapsAt()); !errors.Is(err, fs.ErrNotExist) {
		own = os.DirFS(r.mapsAt())
	}
	return gauges.Maps(own)
}

// Settings that the kit keeps: which gauge and pump were used last.
const (
	lastGauge = "last gauge"
	lastPump  = "last pump"
)

// Used notes in a write which gauge and pump were chosen: they are proposed next time.
func Used(tx *logbook.Tx, gaugeID, pumpID string) error {
	return errors.Join(tx.SetSetting(lastGauge, gaugeID), tx.SetSetting(lastPump, pumpID))
}

// Shelf is the whole kit as it is now, read at once.
type Shelf struct {
	Gauges []Gauge
	Pumps  []runsheet.Pump
	Pieces []Piece

	retired             map[string]bool
	away                map[string]string   // lent to
	gone                map[string]bool     // given back to whom it was borrowed from
	in                  map[string]string   // the borrowed case in which it came
	leaked              map[string][]string // the jobs in which its joint leaked
	lastGauge, lastPump string
}

// Shelf reads the kit: three queries, however large it is.
func (r *Room) Shelf(ctx context.Context) (*Shelf, error) {
	rows, err := r.desk.Book.Kit(ctx, "")
	if err != nil {
		return nil, err
	}
	notes, err := r.desk.Book.KitNotes(ctx, logbook.KitMoves)
	if err != nil {
		return nil, err
	}
	last, err := r.desk.Book.Settings(ctx, lastGauge, lastPump)
	if err != nil {
		return nil, err
	}
	s := &Shelf{retired: map[string]bool{}, away: map[string]string{}, gone: map[string]bool{}, in: map[string]string{}, leaked: map[string][]string{}, lastGauge: last[lastGauge], lastPump: last[lastPump]}
	for _, n := range notes {
		switch n.Kind {
		case terms.Retired:
			s.retired[n.KitID] = true
		case terms.Back:
			delete(s.away, n.KitID)
		case terms.GivenBack:
			s.gone[n.KitID] = true
		case terms.Borrowed:
			var b borrowing
			if delete(s.gone, n.KitID); json.Unmarshal(n.Value, &b) == nil && b.Case != "" {
				s.in[n.KitID] = b.Case
			}
		case terms.Leaked:
			s.leaked[n.KitID] = leakedIn(s.leaked[n.KitID], n.Value)
		case terms.Lent:
			var l loan
			if json.Unmarshal(n.Value, &l) == nil {
				s.away[n.KitID] = l.To
			}
		}
	}
	for _, row := range rows {
		switch row.Kind {
		case terms.GaugeKit:
			var g Gauge
			err = json.Unmarshal(row.Body, &g)
			s.Gauges = append(s.Gauges, g)
		case terms.PumpKit:
			var p runsheet.Pump
			err = json.Unmarshal(row.Body, &p)
			s.Pumps = append(s.Pumps, p)
		case terms.CaseKit: // what is in it is on the shelf by itself
		default:
			p := Piece{ID: row.ID, Kind: row.Kind, leaked: s.leaked[row.ID]}
			err = json.Unmarshal(row.Body, &p)
			s.Pieces = append(s.Pieces, p)
		}
		if err != nil {
			return nil, err
		}
	}
	return s, nil
}

// out tells whether a piece is no longer here for good: retired, or given back, or in a case that was.
func (s *Shelf) out(id string) bool { return s.retired[id] || s.gone[id] || s.gone[s.in[id]] }

// InUse are the gauges that were not retired; jobs of the past were done with those too.
func (s *Shelf) InUse() []Gauge {
	return slices.DeleteFunc(slices.Clone(s.Gauges), func(g Gauge) bool { return s.out(g.ID) })
}

// PumpsInUse are the pumps that were not retired.
func (s *Shelf) PumpsInUse() []runsheet.Pump {
	return slices.DeleteFunc(slices.Clone(s.Pumps), func(p runsheet.Pump) bool { return s.out(p.ID) })
}

// Gauge finds a gauge, retired ones too.
func (s *Shelf) Gauge(id string) (Gauge, error) {
	for _, g := range s.Gauges {
		if g.ID == id {
			return g, nil
		}
	}
	return Gauge{}, desk.Refuse("gauge", "there is no gauge %q in the kit", id)
}

// Pump finds a pump, retired ones too.
func (s *Shelf) Pump(id string) (runsheet.Pump, error) {
	for _, p := range s.Pumps {
		if p.ID == id {
			return p, nil
		}
	}
	return runsheet.Pump{}, desk.Refuse("pump", "there is no pump %q in the kit", id)
}

// Elsewhere is a gauge or pump that is on the hold of another job now.
type Elsewhere struct {
	Name    string `json:"name"`
	Machine string `json:"machine"`
}

// OnOthers are those of a rig that are; busy has the machine for each id.
func OnOthers(busy map[string]string, near Gauge, far *Gauge, pump runsheet.Pump) []Elsewhere {
	out := []Elsewhere{}
	add := func(id, name string) {
		if m := busy[id]; m != "" {
			out = append(out, Elsewhere{name, m})
		}
	}
	add(near.ID, near.Name)
	if far != nil {
		add(far.ID, far.Name)
	}
	add(pump.ID, pump.Name)
	return out
}

// PickGauge is the gauge asked for (with the ring that is read), else the one on which
// a pressure is read best and that is on no other job's hold (busy), where there is one.
func (s *Shelf) PickGauge(id string, ring int, atPa float64, exact bool, busy map[string]string) (Gauge, error) {
	if id != "" {
		g, err := s.Gauge(id)
		if err == nil && ring < len(g.Rings) {
			g.Read = ring
		}
		return g, err
	}
	var all []runsheet.Candidate
	free := slices.DeleteFunc(s.InUse(), func(g Gauge) bool { return busy[g.ID] != "" })
	if len(free) == 0 {
		free = s.InUse()
	}
	for _, g := range free {
		all = append(all, runsheet.Candidate{Gauge: g.Gauge, ByItself: g.ByItself() || g.Simulated})
	}
	face := runsheet.PickGauge(all, s.lastGauge, atPa, exact) // the last one in use cannot be retired
	g, err := s.Gauge(face.ID)
	g.Gauge = face
	return g, err
}

// PickPump is the pump asked for, else the one that suits a room and a pressure.
func (s *Shelf) PickPump(id string, roomM3, atPa, ambientPa float64) (runsheet.Pump, error) {
	if id != "" {
		return s.Pump(id)
	}
	return runsheet.PickPump(s.PumpsInUse(), s.lastPump, roomM3, atPa, ambientPa), nil
}

// Picked are the pieces of these ids, in their order; ids of none are passed over.
func (s *Shelf) Picked(ids []string) []Piece {
	var out []Piece
	for _, id := range ids {
		if i := slices.IndexFunc(s.Pieces, func(p Piece) bool { return p.ID == id }); i >= 0 {
			out = append(out, s.Pieces[i])
		}
	}
	return out
}

// Called is what pieces are called, for the job and for the next time.
func Called(pieces []Piece, text string) string {
	var out []string
	for _, p := range pieces {
		out = append(out, p.Name)
	}
	if text != "" {
		out = append(out, text)
	}
	return strings.Join(out, " + ")
}

// Last are the gauge and the pump that were used last; "" where none was.
func Last(ctx context.Context, book *logbook.Book) (gauge, pump string, err error) {
	all, err := book.Settings(ctx, lastGauge, lastPump)
	return all[lastGauge], all[lastPump], err
}

// Sound refuses a piece that this program could not work with.
func Sound(k logbook.Kit) error {
	switch k.Kind {
	case terms.GaugeKit:
		var g Gauge
		if err := json.Unmarshal(k.Body, &g); err != nil {
			return err
		}
		if g.ID != k.ID {
			return fmt.Errorf("it has another id in itself")
		}
		if g.Wire != nil {
			if err := g.Wire.Faults(); err != nil {
				return err
			}
		}
		return g.Faults()
	case terms.PumpKit:
		var p runsheet.Pump
		if err := json.Unmarshal(k.Body, &p); err != nil {
			return err
		}
		if p.ID != k.ID || p.StrokeM3 <= 0 || p.StrokeSE < 0 {
			return fmt.Errorf("it is no pump")
		}
		return nil
	case terms.AdapterKit, terms.PlugKit:
		var p Piece
		return json.Unmarshal(k.Body, &p)
	case terms.CaseKit:
		var c Case
		return json.Unmarshal(k.Body, &c)
	}
	return fmt.Errorf("there is no kit of the kind %q", k.Kind)
}
