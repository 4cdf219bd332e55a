package kit

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// ItemView is a piece of kit as the kit screen shows it.
type ItemView struct {
	ID        string        `json:"id"`
	Kind      terms.KitKind `json:"kind"`
	Name      string        `json:"name"`
	Says      []string      `json:"says"`   // what it is, in lines
	Speaks    string        `json:"speaks"` // how its readings come: "" read by eye
	Address   string        `json:"address"`
	Posted    bool          `json:"posted"`
	Simulated bool          `json:"simulated"`
	OnHold    string        `json:"on_hold"` // machine of the hold it is on
	Notes     []NoteView    `json:"notes"`   // latest first
	Loan      *LoanView     `json:"loan"`
	Borrow    *BorrowView   `json:"borrow"` // from others; null: it is the shop's own
	Gone      bool          `json:"gone"`   // given back to them
	Pieces    []string      `json:"pieces"` // of a case, by name
	Retired   bool          `json:"retired"`
	Uses      int           `json:"uses"`   // holds that it was on
	Checks    []CheckView   `json:"checks"` // those that are due again and again
	Leaked    int           `json:"leaked"` // jobs in which its joint leaked
	Suspect   bool          `json:"suspect"`

	every intervals
	done  map[terms.NoteKind]logbook.KitNote // the latest check of each kind
	since time.Time                          // it is in the kit
	jobs  []string                           // in which its joint leaked
}

// NoteView is something found or done with a piece.
type NoteView struct {
	At       time.Time      `json:"at"`
	By       string         `json:"by"`
	Kind     terms.NoteKind `json:"kind"`
	Sentence string         `json:"sentence"`
}

// LoanView is where a piece is while it is not here.
type LoanView struct {
	To      string    `json:"to"`
	Since   time.Time `json:"since"`
	Due     string    `json:"due"` // the day, as people write it
	Overdue bool      `json:"overdue"`

	on time.Time
}

// BorrowView is from whom a piece is.
type BorrowView struct {
	From    string    `json:"from"`
	Since   time.Time `json:"since"`
	Due     string    `json:"due"`
	Overdue bool      `json:"overdue"`
	Deposit string    `json:"deposit"`
	Missing []string  `json:"missing"` // of a case, when it came
	Case    string    `json:"case"`    // the case in which it came, by id; it goes back with it

	on time.Time
}

// ListView is all of the kit.
type ListView struct {
	Items    []ItemView        `json:"items"`
	Maps     []MapChoice       `json:"maps"`       // register maps to choose from
	WrongMap map[string]string `json:"wrong_maps"` // the shop's own files that were refused, and why
	MapsAt   string            `json:"maps_at"`    // folder in which the shop's own lie
}

// MapChoice is a register map to choose.
type MapChoice struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// List shows the kit.
func (r *Room) List(ctx context.Context) (ListView, error) {
	v := ListView{Items: []ItemView{}, Maps: []MapChoice{}, MapsAt: r.mapsAt()}
	maps, wrong, err := r.maps()
	if err != nil {
		return v, err
	}
	v.WrongMap = wrong
	for _, m := range maps {
		v.Maps = append(v.Maps, MapChoice{m.ID, m.Title})
	}
	v.Items, err = r.items(ctx)
	return v, err
}

// items are the pieces themselves, the retired ones too.
func (r *Room) items(ctx context.Context) ([]ItemView, error) {
	out := []ItemView{}
	rows, err := r.desk.Book.Kit(ctx, "")
	if err != nil {
		return out, err
	}
	notes, err := r.desk.Book.KitNotes(ctx, "")
	if err != nil {
		return out, err
	}
	on := r.busy()
	for _, row := range rows {
		it, err := item(row)
		if err != nil {
			return out, err
		}
		it.OnHold = on[row.ID]
		for _, n := range notes {
			if n.KitID == row.ID {
				it.note(n, r.desk.Clock.Now())
			}
		}
		it.check(r.desk.Clock.Now())
		out = append(out, it)
	}
	together(out)
	return out, nil
}

// check works out which of its checks are due.
func (it *ItemView) check(now time.Time) {
	if !it.Retired && !it.Gone {
		it.Checks = it.every.due(it.done, it.since, it.Uses, now)
	}
}

// together lets pieces that came in a case be where the case is.
func together(items []ItemView) {
	cases := map[string]*ItemView{}
	for i := range items {
		cases[items[i].ID] = &items[i]
	}
	for i := range items {
		b := items[i].Borrow
		if b == nil || cases[b.Case] == nil {
			continue
		}
		if of := cases[b.Case]; of.Borrow != nil {
			b.From, b.Due, b.on, b.Overdue = of.Borrow.From, of.Borrow.Due, of.Borrow.on, of.Borrow.Overdue
		} else {
			items[i].Gone, items[i].Borrow = of.Gone, nil
		}
	}
}

func (it *ItemView) note(n logbook.KitNote, now time.Time) {
	it.Notes = append([]NoteView{{At: n.At, By: n.By, Kind: n.Kind, Sentence: n.Sentence}}, it.Notes...)
	switch n.Kind {
	case terms.Lent:
		var l loan
		if json.Unmarshal(n.Value, &l) == nil {
			it.Loan = &LoanView{To: l.To, Since: n.At, Due: dayOf(l.Due), Overdue: past(l.Due, now), on: l.Due}
		}
	case terms.Back:
		it.Loan = nil
	case terms.Retired:
		it.Retired = true
	case terms.Borrowed:
		var b borrowing
		if json.Unmarshal(n.Value, &b) == nil {
			it.Gone, it.Borrow = false, &BorrowView{From: b.From, Since: n.At, Due: dayOf(b.Due), Overdue: b.Case == "" && past(b.Due, now), Deposit: b.Deposit, Missing: append([]string{}, b.Missing...), Case: b.Case, on: b.Due}
		}
	case terms.GivenBack:
		it.Gone, it.Borrow = true, nil
	case terms.Leaked:
		it.jobs = leakedIn(it.jobs, n.Value)
		it.Leaked, it.Suspect = len(it.jobs), len(it.jobs) >= leaksOfASuspect
	case terms.ZeroCheck, terms.Compared, terms.Service:
		it.done[n.Kind] = n
	case terms.CheckDue:
		it.every = nil                         // all of them stand in the latest
		_ = json.Unmarshal(n.Value, &it.every) // of a later version: none is due
	}
}

// item describes one piece.
func item(r logbook.Kit) (ItemView, error) {
	it := ItemView{ID: r.ID, Kind: r.Kind, Says: []string{}, Notes: []NoteView{}, Pieces: []string{}, Checks: []CheckView{}, Uses: r.Uses, since: r.At, done: map[terms.NoteKind]logbook.KitNote{}}
	kPa := quantity.MustNamed("kPa", quantity.Pressure)
	switch r.Kind {
	case terms.GaugeKit:
		var g Gauge
		if err := json.Unmarshal(r.Body, &g); err != nil {
			return it, err
		}
		it.Name, it.Simulated, it.Posted = g.Name, g.Simulated, g.Posted
		for i, ring := range g.Rings {
			step := "division " + written(ring.Division)
			if g.Kind == terms.Digital {
				step = "last digit " + written(ring.Division)
			}
			line := fmt.Sprintf("%s to %s %s, %s", written(ring.From), written(ring.To), ring.Unit, step)
			if i == g.Read && len(g.Rings) > 1 {
				line += ", the ring that is read"
			}
			it.Says = append(it.Says, line)
		}
		if g.Class > 0 {
			it.Says = append(it.Says, fmt.Sprintf("class %s (%s %% of its span)", written(g.Class), written(g.Class)))
		}
		if g.RatingPa > 0 {
			it.Says = append(it.Says, "at most "+kPa.Show(g.RatingPa, 1e3))
		}
		switch {
		case g.StandIn != nil:
			it.Speaks = "simulated"
		case g.Wire != nil:
			it.Speaks, it.Address = fmt.Sprintf("read every %s s: %s", written(float64(g.Wire.Map.Every)), g.Wire.Map.Title), g.Wire.Address
		case g.Posted:
			it.Speaks = "readings are posted to it"
		}
	case terms.PumpKit:
		var p runsheet.Pump
		if err := json.Unmarshal(r.Body, &p); err != nil {
			return it, err
		}
		it.Name = p.Name
		it.Says = append(it.Says, fmt.Sprintf("%s ± %s cm³ a stroke", quantity.Significant(p.StrokeM3*1e6, 3), quantity.Significant(p.StrokeSE*1e6, 1)))
		if p.Draws {
			it.Says = append(it.Says, "for vacuum too")
		}
		if p.From != "" {
			it.Says = append(it.Says, p.From)
		}
	case terms.CaseKit:
		var c Case
		if err := json.Unmarshal(r.Body, &c); err != nil {
			return it, err
		}
		it.Name, it.Pieces = c.Name, c.Pieces
		it.Says = append(it.Says, fmt.Sprintf("%d pieces", len(c.Pieces)))
	default:
		var f Piece
		if err := json.Unmarshal(r.Body, &f); err != nil {
			return it, err
		}
		it.Name = f.Name
		if fits := fitWords(f.Fit); fits != "" {
			it.Says = append(it.Says, fits)
		}
		if f.Note != "" {
			it.Says = append(it.Says, f.Note)
		}
		if f.RatingPa > 0 {
			it.Says = append(it.Says, "at most "+kPa.Show(f.RatingPa, 1e3))
		}
	}
	return it, nil
}

func written(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.6g", v), ".0") }

// fitWords is what a piece goes on, for people.
func fitWords(f runsheet.Fit) string {
	var out []string
	for _, x := range f.Families {
		out = append(out, string(x))
	}
	if f.Make != terms.AnyMake {
		out = append(out, string(f.Make))
	}
	mm := func(m float64) string { return quantity.Significant(m*1e3, 3) }
	switch {
	case f.FromM == 0:
	case f.FromM == f.ToM:
		out = append(out, mm(f.FromM)+" mm")
	default:
		out = append(out, mm(f.FromM)+" to "+mm(f.ToM)+" mm")
	}
	if f.OwnAir {
		out = append(out, "with its own air channel")
	}
	return strings.Join(out, ", ")
}
