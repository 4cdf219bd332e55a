// Package steps works out what each kind of step of a circuit asks for and what
// its findings mean: flow from a tank's fall, a cap's floor, presses that stay,
// times through marks, tables, cracks, charges, bolts in order. A hold with a live
// trace is judged by core/judge; here it is only told beside the others.
package steps

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// Verdict is what a step says.
type Verdict string

// The verdicts.
const (
	Good    Verdict = "good"
	Bad     Verdict = "bad"
	Unknown Verdict = "unknown" // not done, not whole, or not sure
)

// Given is what is known beside the step itself.
type Given struct {
	AmbientPa float64
	Mark      *quantity.Reading // the circuit's, where it has one that is known
	TargetPa  float64           // of this step; 0 where it has none
	StepPa    float64           // the smallest difference the gauge can show
	Unit      string            // of a bare pressure, as its gauge shows it; empty: kPa
	Things    []string          // vehicles, cylinders or whatever the rows are, by name
	Lot       string            // what a sample is drawn by: the same again for the same
	Ticked    map[string]bool   // of its list
	Before    *Service          // the last time it was done on this machine; nil: never
}

// Service is what was found at the same step of the same machine some time ago.
type Service struct {
	Months float64
	Entry  Entry
}

// Row is one line that is asked for.
type Row struct {
	ID    string `json:"id"`
	Title string `json:"title"`

	Defaults map[string]string `json:"defaults"` // what stands in a cell that is left empty, by column
}

// Ask is what a step wants to be told.
type Ask struct {
	Fields  []slate.Field `json:"fields"`  // once
	Columns []slate.Field `json:"columns"` // of each row
	Rows    []Row         `json:"rows"`
	Grows   string        `json:"grows"` // what a further row would be, such as wagon; empty: none can be added
	Clock   *Clock        `json:"clock"` // null where nothing is timed
}

// Clock is the one clock of a step: it is started once, and each time that is asked
// for is the moment of a press less that start, from whichever end it is pressed.
type Clock struct {
	Starts string   `json:"starts"` // what happens at that moment
	Fills  []string `json:"fills"`  // ids of the fields or columns that it fills
	Stamps string   `json:"stamps"` // the choice that means now, while it runs; empty: none
}

// clock is a step's clock, in its file's words where it has some.
func clock(s circuit.Step, usual string, fills ...string) *Clock {
	if s.Starts != "" {
		usual = s.Starts
	}
	return &Clock{Starts: usual, Fills: fills}
}

// Outcome is what it means.
type Outcome struct {
	Verdict  Verdict        `json:"verdict" enum:"good,bad,unknown"`
	Sentence string         `json:"sentence"`
	Figures  []slate.Figure `json:"figures"`
	Notes    []string       `json:"notes"`
	Rows     []RowOutcome   `json:"rows"`
	Failed   []string       `json:"failed"` // what of several is not right, by name: a cylinder, a wagon, a bank
	Bolts    []Bolt         `json:"bolts"`  // tighten: where each sits and when it is turned
}

// RowOutcome is what one line means.
type RowOutcome struct {
	ID      string  `json:"id"`
	Verdict Verdict `json:"verdict" enum:"good,bad,unknown"`
	Says    string  `json:"says"`
}

// CellError says which cell was wrong: a field of the step, or of one of its rows.
type CellError struct {
	Row, Field string
	error
}

func (e CellError) Unwrap() error { return e.error }

// InputOf is the input that it names, "" for the whole: row.field, or field.
func (e CellError) InputOf() string {
	if e.Row == "" {
		return e.Field
	}
	return e.Row + "." + e.Field
}

// kind is how one kind of step is done.
type kind struct {
	ask   func(circuit.Step, *circuit.Circuit, Given) Ask
	judge func(*sheet) (Outcome, error)
}

var kinds = map[circuit.Kind]kind{
	circuit.Checklist:  {nothing, checklist},
	circuit.Feed:       {askFeed, judgeFeed},
	circuit.Floor:      {askFloor, judgeFloor},
	circuit.Presses:    {askPresses, judgePresses},
	circuit.TimedFall:  {askFall, judgeFall},
	circuit.CrossWatch: {askWatch, judgeWatch},
	circuit.Round:      {askRound, judgeRound},
	circuit.Values:     {askValues, judgeValues},
	circuit.Charge:     {askCharge, judgeCharge},
	circuit.Cracks:     {askCracks, judgeCracks},
	circuit.Tighten:    {askTighten, judgeTighten},
}

func nothing(circuit.Step, *circuit.Circuit, Given) Ask { return Ask{} }

// AskOf is what a step wants to be told; ok is false for a hold.
func AskOf(s circuit.Step, c *circuit.Circuit, g Given) (a Ask, ok bool) {
	k, ok := kinds[s.Kind]
	if !ok {
		return Ask{Fields: []slate.Field{}, Columns: []slate.Field{}, Rows: []Row{}}, false
	}
	a = k.ask(s, c, g)
	for _, list := range []*[]slate.Field{&a.Fields, &a.Columns} {
		*list = append([]slate.Field{}, *list...)
		for i := range *list {
			if (*list)[i].Choices == nil {
				(*list)[i].Choices = []string{}
			}
		}
	}
	a.Rows = append([]Row{}, a.Rows...)
	for i := range a.Rows {
		if a.Rows[i].Defaults == nil {
			a.Rows[i].Defaults = map[string]string{}
		}
	}
	return a, true
}

// Judge says what an entry means. It is refused whole (CellError) when something
// in it cannot be read; what is not there yet leaves the verdict open.
func Judge(s circuit.Step, c *circuit.Circuit, g Given, e Entry) (Outcome, error) {
	k, ok := kinds[s.Kind]
	if !ok {
		return Outcome{}, fmt.Errorf("a %s is judged by its trace", s.Kind)
	}
	ask, _ := AskOf(s, c, g)
	sh := &sheet{step: s, circuit: c, given: g, ask: ask}
	var err error
	if sh.in, err = read(s, ask.Fields, e.Fields, g); err != nil {
		return Outcome{}, cellError("", err)
	}
	if err := sh.rows(e.Rows); err != nil {
		return Outcome{}, err
	}
	out, err := k.judge(sh)
	if err != nil {
		return Outcome{}, cellError("", err)
	}
	out.Figures, out.Notes, out.Rows = append([]slate.Figure{}, out.Figures...), append([]string{}, out.Notes...), append([]RowOutcome{}, out.Rows...)
	out.Bolts = append([]Bolt{}, out.Bolts...)
	out.Failed = []string{}
	for i, r := range out.Rows {
		if s.Per != "" && r.Verdict == Bad {
			out.Failed = append(out.Failed, sh.lines[i].Title)
		}
	}
	return out, nil
}

// sheet is a step with what was entered, read.
type sheet struct {
	step    circuit.Step
	circuit *circuit.Circuit
	given   Given
	ask     Ask
	in      slate.Inputs
	lines   []line
}

// line is a row, read.
type line struct {
	Row
	slate.Inputs
}

func read(s circuit.Step, fields []slate.Field, typed map[string]string, g Given) (slate.Inputs, error) {
	loose := slices.Clone(fields)
	for i := range loose {
		loose[i].Optional = true // it may be sent before it is whole
	}
	return slate.Read(strings.ToLower(s.Title), loose, typed, true, g.AmbientPa)
}

// rows puts what was entered beside what was asked, in its order, what was added
// after it.
func (sh *sheet) rows(entered []EntryRow) error {
	seen := map[string]bool{}
	find := func(id string) (EntryRow, bool) {
		for _, r := range entered {
			if r.ID == id {
				return r, true
			}
		}
		return EntryRow{}, false
	}
	add := func(r Row, cells map[string]string) error {
		in, err := read(sh.step, sh.ask.Columns, cells, sh.given)
		if err != nil {
			return cellError(r.ID, err)
		}
		sh.lines = append(sh.lines, line{r, in})
		return nil
	}
	for _, r := range sh.ask.Rows {
		e, _ := find(r.ID)
		seen[r.ID] = true
		if err := add(r, e.Cells); err != nil {
			return err
		}
	}
	for _, e := range entered {
		switch {
		case seen[e.ID]:
			continue
		case sh.ask.Grows == "":
			return CellError{e.ID, "", fmt.Errorf("%s has no row %q", strings.ToLower(sh.step.Title), e.ID)}
		case strings.TrimSpace(e.Title) == "":
			return CellError{e.ID, "", fmt.Errorf("the added %s has no name", sh.ask.Grows)}
		}
		seen[e.ID] = true
		if err := add(Row{ID: e.ID, Title: strings.TrimSpace(e.Title)}, e.Cells); err != nil {
			return err
		}
	}
	return nil
}

func cellError(row string, err error) error {
	if f, ok := err.(slate.FieldError); ok {
		return CellError{row, f.Field, f.Unwrap()}
	}
	if _, ok := err.(CellError); ok {
		return err
	}
	return CellError{row, "", err}
}

// things are the rows of a step that is done for each of something, or for some of
// them by lot.
func things(s circuit.Step, g Given) []Row {
	drawn := func(int) bool { return true }
	if s.Sample > 0 && s.Sample < len(g.Things) {
		lot := make([]uint64, len(g.Things))
		for i, t := range g.Things {
			h := fnv.New64a()
			fmt.Fprintf(h, "%s/%s/%d/%s", g.Lot, s.ID, i, t)
			lot[i] = h.Sum64()
		}
		last := slices.Sorted(slices.Values(lot))[s.Sample-1]
		drawn = func(i int) bool { return lot[i] <= last }
	}
	var out []Row
	for i, t := range g.Things {
		if drawn(i) {
			out = append(out, Row{ID: fmt.Sprintf("%s-%d", s.ID, i+1), Title: t})
		}
	}
	return out
}

// worst is the verdict of several: one bad is bad, one open is open.
func worst(all ...Verdict) Verdict {
	if slices.Contains(all, Bad) {
		return Bad
	}
	if slices.Contains(all, Unknown) || len(all) == 0 {
		return Unknown
	}
	return Good
}

// of counts those of a verdict.
func of(rows []RowOutcome, v Verdict) (n int) {
	for _, r := range rows {
		if r.Verdict == v {
			n++
		}
	}
	return n
}

func verdicts(rows []RowOutcome) (out []Verdict) {
	for _, r := range rows {
		out = append(out, r.Verdict)
	}
	return out
}

// names lists the rows of a verdict.
func (sh *sheet) names(rows []RowOutcome, v Verdict) string {
	var out []string
	for i, r := range rows {
		if r.Verdict == v {
			out = append(out, sh.lines[i].Title)
		}
	}
	return strings.Join(out, ", ")
}

// pressure is a field that is read on the step's own gauge.
func (g Given) pressure(id, label, help string) slate.Field {
	return slate.Field{ID: id, Label: label, Kind: slate.Kind(quantity.Pressure), Unit: cmp.Or(g.Unit, "kPa"), Help: help}
}

func yesNo(id, label string) slate.Field {
	return slate.Field{ID: id, Label: label, Kind: slate.Pick, Choices: []string{"yes", "no"}}
}

// figure tells a pressure in its unit and in psi beside it.
func figure(id, label string, pa float64, symbol string) slate.Figure {
	f := slate.InUnit(id, label, pa, symbol, quantity.Pressure)
	psi := quantity.MustNamed("psi", quantity.Pressure)
	f.Text += " (" + quantity.Significant(psi.Of(pa), 3) + " psi)"
	return f
}

// kpa shows a pressure with three digits.
func kpa(pa float64) string { return quantity.Significant(pa/1e3, 3) + " kPa" }
