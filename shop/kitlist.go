package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/gauges"
	"idlehiss/logbook"
	"idlehiss/sheets"
)

// Part of the kit that is neither gauge nor pump.
type fitting struct {
	Name     string  `json:"name"`
	Fits     string  `json:"fits"` // what it goes into, in words
	RatingPa float64 `json:"rating_pa"`
}

// KitItem is a piece of kit as the kit screen shows it.
type KitItem struct {
	ID        string     `json:"id"`
	Kind      string     `json:"kind" enum:"gauge,pump,adapter,plug"`
	Name      string     `json:"name"`
	Says      []string   `json:"says"`   // what it is, in lines
	Speaks    string     `json:"speaks"` // how its readings come: "" read by eye
	Address   string     `json:"address"`
	Posted    bool       `json:"posted"`
	Simulated bool       `json:"simulated"`
	OnHold    string     `json:"on_hold"` // machine of the hold it is on
	Notes     []NoteView `json:"notes"`   // latest first
	Loan      *LoanView  `json:"loan"`
	Retired   bool       `json:"retired"`
}

// NoteView is something found or done with a piece.
type NoteView struct {
	At       time.Time `json:"at"`
	By       string    `json:"by"`
	Kind     string    `json:"kind" enum:"zero check,service,lent,back,compared,retired"`
	Sentence string    `json:"sentence"`
}

// LoanView is where a piece is while it is not here.
type LoanView struct {
	To      string    `json:"to"`
	Since   time.Time `json:"since"`
	Due     time.Time `json:"due"`
	Overdue bool      `json:"overdue"`
}

// KitList is all of the kit.
type KitList struct {
	Items    []KitItem         `json:"items"`
	Maps     []Choice          `json:"maps"`       // register maps to choose from
	WrongMap map[string]string `json:"wrong_maps"` // the shop's own files that were refused, and why
	MapsAt   string            `json:"maps_at"`    // folder in which the shop's own lie
}

// mapsFolder holds a shop's own register maps, beside its book.
const mapsFolder = "registers"

func (s *Shop) maps() ([]gauges.RegisterMap, map[string]string, error) {
	return gauges.Maps(os.DirFS(filepath.Join(s.book.Folder(), mapsFolder)))
}

// KitList shows the kit.
func (s *Shop) KitList(ctx context.Context) (KitList, error) {
	v := KitList{Items: []KitItem{}, Maps: []Choice{}, MapsAt: filepath.Join(s.book.Folder(), mapsFolder)}
	maps, wrong, err := s.maps()
	if err != nil {
		return v, err
	}
	v.WrongMap = wrong
	for _, m := range maps {
		v.Maps = append(v.Maps, Choice{m.ID, m.Title})
	}
	v.Items, err = s.kitItems(ctx)
	return v, err
}

// kitItems are the pieces themselves, the retired ones too.
func (s *Shop) kitItems(ctx context.Context) ([]KitItem, error) {
	out := []KitItem{}
	rows, err := s.book.Kit(ctx, "")
	if err != nil {
		return out, err
	}
	notes, err := s.book.KitNotes(ctx)
	if err != nil {
		return out, err
	}
	on := s.onHold()
	for _, r := range rows {
		it, err := kitItem(r)
		if err != nil {
			return out, err
		}
		it.OnHold = on[r.ID]
		for _, n := range notes {
			if n.KitID == r.ID {
				it.note(n, s.clock.Now())
			}
		}
		out = append(out, it)
	}
	return out, nil
}

// onHold tells on which machine's hold a gauge is.
func (s *Shop) onHold() map[string]string {
	s.mu.Lock()
	defer s.mu.Unlock()
	on := map[string]string{}
	for _, l := range s.live {
		on[l.rig.Gauge.ID] = l.machine
		if l.rig.Far != nil {
			on[l.rig.Far.ID] = l.machine
		}
	}
	return on
}

func (it *KitItem) note(n logbook.KitNote, now time.Time) {
	it.Notes = append([]NoteView{{At: n.At, By: n.By, Kind: n.Kind, Sentence: n.Sentence}}, it.Notes...)
	switch n.Kind {
	case "lent":
		var l loan
		if json.Unmarshal(n.Value, &l) == nil {
			it.Loan = &LoanView{To: l.To, Since: n.At, Due: l.Due, Overdue: now.After(l.Due.AddDate(0, 0, 1))}
		}
	case "back":
		it.Loan = nil
	case "retired":
		it.Retired = true
	}
}

func kitItem(r logbook.Kit) (KitItem, error) {
	it := KitItem{ID: r.ID, Kind: r.Kind, Says: []string{}, Notes: []NoteView{}}
	kPa := quantity.MustNamed("kPa", quantity.Pressure)
	switch r.Kind {
	case "gauge":
		var g KitGauge
		if err := json.Unmarshal(r.Body, &g); err != nil {
			return it, err
		}
		it.Name, it.Simulated, it.Posted = g.Name, g.Simulated, g.Posted
		for i, ring := range g.Rings {
			step := "a division " + written(ring.Division)
			if g.Kind == "digital" {
				step = "last digit " + written(ring.Division)
			}
			line := fmt.Sprintf("%s to %s %s, %s", written(ring.From), written(ring.To), ring.Unit, step)
			if i == g.Read && len(g.Rings) > 1 {
				line += ", read"
			}
			it.Says = append(it.Says, line)
		}
		if g.Class > 0 {
			it.Says = append(it.Says, fmt.Sprintf("class %s (%s %% of its span)", written(g.Class), written(g.Class)))
		}
		if g.RatingPa > 0 {
			it.Says = append(it.Says, "not above "+kPa.Show(g.RatingPa, 1e3))
		}
		switch {
		case g.StandIn != nil:
			it.Speaks = "simulated"
		case g.Wire != nil:
			it.Speaks, it.Address = fmt.Sprintf("asked every %s s: %s", written(float64(g.Wire.Map.Every)), g.Wire.Map.Title), g.Wire.Address
		case g.Posted:
			it.Speaks = "its readings are posted"
		}
	case "pump":
		var p Pump
		if err := json.Unmarshal(r.Body, &p); err != nil {
			return it, err
		}
		it.Name = p.Name
		it.Says = append(it.Says, fmt.Sprintf("%s ± %s cm³ a stroke", quantity.Significant(p.StrokeM3*1e6, 3), quantity.Significant(p.StrokeSE*1e6, 1)))
		if p.Draws {
			it.Says = append(it.Says, "draws a vacuum, too")
		}
		if p.From != "" {
			it.Says = append(it.Says, p.From)
		}
	default:
		var f fitting
		if err := json.Unmarshal(r.Body, &f); err != nil {
			return it, err
		}
		it.Name = f.Name
		if f.Fits != "" {
			it.Says = append(it.Says, f.Fits)
		}
		if f.RatingPa > 0 {
			it.Says = append(it.Says, "not above "+kPa.Show(f.RatingPa, 1e3))
		}
	}
	return it, nil
}

func written(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.6g", v), ".0") }

// NewPump is a pump, its stroke told in one of three ways.
type NewPump struct {
	Write
	Name    string `json:"name" maxLength:"60"`
	Stroke  string `json:"stroke,omitempty" maxLength:"40" doc:"such as 20 cm³ ± 0.6 cm³"`
	Drawn   string `json:"drawn,omitempty" maxLength:"40" doc:"liquid drawn off, such as 400 mL"`
	Strokes string `json:"strokes,omitempty" maxLength:"10" doc:"in so many strokes"`
	Bore    string `json:"bore,omitempty" maxLength:"20" doc:"such as 22 mm"`
	Length  string `json:"length,omitempty" maxLength:"20" doc:"of a stroke, such as 80 mm"`
	Draws   bool   `json:"draws,omitempty" doc:"it draws a vacuum, too"`
}

// AddPump takes a pump into the kit.
func (s *Shop) AddPump(ctx context.Context, in NewPump) (KitList, error) {
	p := Pump{ID: in.ID, Name: strings.TrimSpace(in.Name), Draws: in.Draws}
	if p.Name == "" {
		return KitList{}, refuse("name", "a pump needs a name to be picked by, such as 'long hand pump'")
	}
	if in.Stroke != "" {
		v, err := quantity.Parse(in.Stroke, quantity.Volume, quantity.MustNamed("cm³", quantity.Volume), s.ambient)
		if err != nil {
			return KitList{}, refuse("stroke", "%v", err)
		}
		p.StrokeM3, p.StrokeSE, p.From = v.Mid(), v.SE, "as typed"
		if p.StrokeSE == 0 {
			p.StrokeSE = math.Max(v.Digit/2, 0.03*p.StrokeM3)
		}
	} else {
		typed := map[string]string{}
		for name, text := range map[string]string{"drawn": in.Drawn, "strokes": in.Strokes, "bore": in.Bore, "length": in.Length} {
			if text != "" {
				typed[name] = text
			}
		}
		a, err := s.Calculate("stroke", typed)
		if err != nil {
			return KitList{}, err
		}
		f := a.Figures[0]
		p.StrokeM3, p.From = f.Value*1e-6, map[bool]string{true: "from liquid drawn off", false: "from its bore and stroke"}[in.Drawn != ""]
		p.StrokeSE = (*f.High - f.Value) * 1e-6 / 1.96
	}
	if p.StrokeM3 < 1e-8 || p.StrokeM3 > 1e-2 {
		return KitList{}, refuse("stroke", "a stroke of %s cm³ is no hand pump's: 1 to 1000 cm³ is usual", quantity.Significant(p.StrokeM3*1e6, 3))
	}
	return s.addToKit(ctx, in.Write, in, "pump", p)
}

// NewFitting is an adapter or a plug.
type NewFitting struct {
	Write
	Kind   string `json:"kind" enum:"adapter,plug"`
	Name   string `json:"name" maxLength:"60"`
	Fits   string `json:"fits,omitempty" maxLength:"120" doc:"what it goes into"`
	Rating string `json:"rating,omitempty" maxLength:"40" doc:"the pressure it is good for, such as 250 kPa"`
}

// AddFitting takes an adapter or a plug into the kit.
func (s *Shop) AddFitting(ctx context.Context, in NewFitting) (KitList, error) {
	f := fitting{Name: strings.TrimSpace(in.Name), Fits: strings.TrimSpace(in.Fits)}
	if f.Name == "" {
		return KitList{}, refuse("name", "a piece of kit needs a name to be picked by, such as 'blue bayonet adapter'")
	}
	if in.Rating != "" {
		v, err := quantity.Parse(in.Rating, quantity.Pressure, quantity.MustNamed("kPa", quantity.Pressure), s.ambient)
		switch {
		case err != nil:
			return KitList{}, refuse("rating", "%v", err)
		case v.Low <= 0:
			return KitList{}, refuse("rating", "what it is good for lies above ambient, such as 250 kPa")
		}
		f.RatingPa = v.Low
	}
	return s.addToKit(ctx, in.Write, in, in.Kind, f)
}

func (s *Shop) addToKit(ctx context.Context, w Write, in any, kind string, body any) (KitList, error) {
	if _, _, err := put(ctx, s, w, in, func(tx *logbook.Tx, st logbook.Stamp) (Ack, error) {
		return Ack{}, addKit(tx, st, kind, body)
	}); err != nil {
		return KitList{}, err
	}
	s.bus.send("bench", struct{}{})
	return s.KitList(ctx)
}

// NewNote is something found or done with a piece of kit.
type NewNote struct {
	Write
	Kind   string       `json:"kind" enum:"zero check,service,lent,back,compared,retired"`
	Text   string       `json:"text,omitempty" maxLength:"300" doc:"what was done; to whom it was lent"`
	Due    string       `json:"due,omitempty" format:"date" doc:"day on which a loan is due back"`
	Shows  string       `json:"shows,omitempty" maxLength:"40" doc:"what a gauge shows with nothing on it"`
	Beside []BesideText `json:"beside,omitempty" maxItems:"12" doc:"the same pressures on this gauge and on a better one"`
	With   string       `json:"with,omitempty" maxLength:"60" doc:"which better one"`
}

// BesideText is one pressure on two gauges, as typed.
type BesideText struct {
	Read string `json:"read" maxLength:"40"`
	True string `json:"true" maxLength:"40"`
}

// loan is what a note of a loan keeps.
type loan struct {
	To  string    `json:"to"`
	Due time.Time `json:"due"`
}

// Note takes a note down on a piece of kit.
func (s *Shop) Note(ctx context.Context, kitID string, in NewNote) (KitList, error) {
	list, err := s.KitList(ctx)
	if err != nil {
		return list, err
	}
	var it *KitItem
	for i := range list.Items {
		if list.Items[i].ID == kitID {
			it = &list.Items[i]
		}
	}
	if it == nil {
		return list, &Refusal{Says: fmt.Sprintf("there is no %s in the kit", kitID), Kind: Missing}
	}
	if _, _, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (Ack, error) {
		sentence, value, err := s.noteOn(ctx, list, it, in)
		if err != nil {
			return Ack{}, err
		}
		raw, err := json.Marshal(value)
		if err != nil {
			return Ack{}, err
		}
		return Ack{}, tx.AddKitNote(logbook.KitNote{Stamp: st, KitID: kitID, Kind: in.Kind, Sentence: sentence, Value: raw})
	}); err != nil {
		return list, err
	}
	return s.KitList(ctx)
}

// noteOn puts a note into words and keeps what it is worth.
func (s *Shop) noteOn(ctx context.Context, list KitList, it *KitItem, in NewNote) (string, any, error) {
	text := strings.TrimSpace(in.Text)
	switch in.Kind {
	case "zero check", "compared":
		if it.Kind != "gauge" {
			return "", nil, refuse("kind", "only a gauge is checked at nought or compared; %s is a %s", it.Name, it.Kind)
		}
		g, err := s.gauge(ctx, it.ID)
		if err != nil {
			return "", nil, err
		}
		_, u := g.Ring()
		read := func(field, text string) (float64, error) {
			v, err := quantity.Parse(text, quantity.Pressure, u, s.ambient)
			if err != nil {
				return 0, refuse(field, "%v", err)
			}
			return v.Mid(), nil
		}
		if in.Kind == "zero check" {
			pa, err := read("shows", in.Shows)
			return g.AtRest(pa), pa, err
		}
		var pairs []runsheet.Beside
		for i, b := range in.Beside {
			a, err := read(fmt.Sprintf("beside[%d].read", i), b.Read)
			if err != nil {
				return "", nil, err
			}
			t, err := read(fmt.Sprintf("beside[%d].true", i), b.True)
			if err != nil {
				return "", nil, err
			}
			pairs = append(pairs, runsheet.Beside{ReadPa: a, TruePa: t})
		}
		c, err := g.Against(pairs)
		if err != nil {
			return "", nil, refuse("beside", "%v", err)
		}
		if in.With != "" {
			c.Says = fmt.Sprintf("Beside %s: %s", strings.TrimSpace(in.With), strings.ToLower(c.Says[:1])+c.Says[1:])
		}
		return c.Says, c, nil
	case "lent":
		if it.Loan != nil {
			return "", nil, conflict("%s is out already, with %s: take it back first", it.Name, it.Loan.To)
		}
		if it.OnHold != "" {
			return "", nil, conflict("%s is on the hold of %s now", it.Name, it.OnHold)
		}
		if text == "" {
			return "", nil, refuse("text", "say who has it")
		}
		due, err := time.Parse(time.DateOnly, in.Due)
		if err != nil {
			return "", nil, refuse("due", "say on which day it is due back, such as %s", s.clock.Now().AddDate(0, 0, 7).Format(time.DateOnly))
		}
		return fmt.Sprintf("Lent to %s, due back on %s.", text, due.Format("2 January 2006")), loan{text, due}, nil
	case "back":
		if it.Loan == nil {
			return "", nil, conflict("%s is not out on loan", it.Name)
		}
		return strings.TrimSpace("Back from " + it.Loan.To + ". " + text), nil, nil
	case "retired":
		if it.OnHold != "" {
			return "", nil, conflict("%s is on the hold of %s now", it.Name, it.OnHold)
		}
		left := 0
		for _, o := range list.Items {
			if o.Kind == it.Kind && !o.Retired && o.ID != it.ID {
				left++
			}
		}
		if left == 0 && (it.Kind == "gauge" || it.Kind == "pump") {
			return "", nil, conflict("%s is the only %s in use, and no test goes without one: add another first", it.Name, it.Kind)
		}
	}
	if text == "" {
		return "", nil, refuse("text", "say what was done, or why")
	}
	return text, nil, nil
}

// Loans writes what is out on loan as calendar entries.
func (s *Shop) Loans(ctx context.Context, w io.Writer) error {
	list, err := s.KitList(ctx)
	if err != nil {
		return err
	}
	var due []sheets.Due
	for _, it := range list.Items {
		if l := it.Loan; l != nil {
			due = append(due, sheets.Due{ID: "loan-" + it.ID, Summary: fmt.Sprintf("%s is due back from %s", it.Name, l.To), Details: strings.Join(it.Says, "; "), On: l.Due, Changed: l.Since})
		}
	}
	return sheets.Calendar(w, due)
}
