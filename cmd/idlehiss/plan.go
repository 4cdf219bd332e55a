package main

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/library"
)

type planCmd struct {
	ID       string       `arg:"" help:"A circuit's id."`
	Mark     string       `help:"The mark, where the circuit has one, as it stands there, such as 1.1 or 13-15." placeholder:"MARK"`
	School   string       `default:"exactly" help:"School of target by the mark: exactly, middle, at-least, margin, modest."`
	Target   []string     `help:"Target of a step that has several, as STEP=TARGET; may be repeated." placeholder:"STEP=TARGET"`
	With     []string     `help:"An option that this machine has; may be repeated." placeholder:"OPTION"`
	Without  []string     `help:"An option that it has not; may be repeated." placeholder:"OPTION"`
	By       []string     `help:"A school by which it is done, where schools differ; may be repeated." placeholder:"MATTER=SCHOOL"`
	Unit     string       `default:"psi" help:"Unit of the gauge's ring that is read."`
	Top      float64      `default:"30" help:"Where that ring ends, in its unit."`
	Division float64      `default:"0.5" help:"Between two printed marks, in its unit."`
	Hold     string       `help:"School of hold for the allowance, in place of each step's own." placeholder:"SCHOOL"`
	Ambient  pressureFlag `default:"101.325kPa" help:"Air pressure around, absolute."`
	JSON     bool         `name:"json" help:"Print one JSON document."`
}

// planned is the run sheet as a document.
type planned struct {
	Circuit   string           `json:"circuit"`
	Options   map[string]bool  `json:"options"`
	Mark      *plannedMark     `json:"mark"`
	Schools   []plannedSchool  `json:"schools"` // where practitioners differ: what was chosen, and what might be
	Steps     []plannedStep    `json:"steps"`
	Stages    []runsheet.Stage `json:"stages"`
	NotTested []string         `json:"not_tested"`
	Standing  string           `json:"standing"`
}

// plannedSchool is how a matter is done on which schools differ.
type plannedSchool struct {
	Matter string   `json:"matter"`
	Title  string   `json:"title"`
	School string   `json:"school"`
	Says   string   `json:"says"`
	Why    string   `json:"why"`
	Others []string `json:"others"`
}

// plannedMark is the printed figure and how it was read.
type plannedMark struct {
	On    string  `json:"on"`
	Text  string  `json:"text"`
	Unit  string  `json:"unit"`
	KPa   float64 `json:"kpa"`
	Doubt string  `json:"doubt"`
}

// plannedStep is one test: where air goes in, how far, and what must be shut.
type plannedStep struct {
	ID        string           `json:"id"`
	Title     string           `json:"title"`
	Kind      circuit.Kind     `json:"kind"`
	Port      string           `json:"port"`
	Fittings  []terms.Fitting  `json:"fittings"`
	Chambers  []string         `json:"chambers"`
	State     []string         `json:"state"`
	Changes   []string         `json:"changes"` // of the set-up since the hold before it
	Limits    []runsheet.Limit `json:"limits"`
	Target    *plannedTarget   `json:"target"`
	Wants     string           `json:"wants"` // what must be read before there is a target; empty: nothing
	Schools   []string         `json:"schools"`
	Allowance *plannedLoss     `json:"allowance"`
	Closures  []plannedClosure `json:"closures"`
	Meant     []string         `json:"meant"`
	Suspects  []string         `json:"suspects"`
	Energy    string           `json:"energy"`  // what its gas and its largest closure can do; empty: nothing that hurts
	Windows   []string         `json:"windows"` // times and bounds by which it is judged
}

type plannedTarget struct {
	KPa       float64  `json:"kpa"`
	Printed   string   `json:"printed"`
	School    string   `json:"school"`
	Says      string   `json:"says"`
	WeakestOf string   `json:"weakest_of"`
	Gauge     string   `json:"gauge"`
	Fits      bool     `json:"gauge_fits"`
	GaugeSays []string `json:"gauge_says"`
}

type plannedLoss struct {
	KPaMin float64 `json:"kpa_per_min"`
	Says   string  `json:"says"`
}

type plannedClosure struct {
	Part    string `json:"part"`
	With    string `json:"with"`
	Already bool   `json:"already"`
}

func (c *planCmd) Run(o outside) error {
	x, options, err := fitted(c.ID, c.With, c.Without, c.By)
	if err != nil {
		return err
	}
	doc := planned{Circuit: x.ID, Options: options, Schools: []plannedSchool{}, Steps: []plannedStep{}, Stages: runsheet.Stages(&x), NotTested: x.Untested(false), Standing: x.Standing}
	var reading *quantity.Reading
	switch {
	case !x.Marked() && c.Mark != "":
		return badInput("--mark: %s is limited by no mark; its steps say how far", x.Title)
	case c.Mark != "":
		m, err := quantity.DecodeMark(c.Mark, x.Plausible())
		if err != nil {
			return badInput("--mark: %w", err)
		}
		r := m.Readings[0]
		reading = &r
		doc.Mark = &plannedMark{x.Mark.On, m.Text, r.Unit.Symbol, r.HighPa / 1e3, m.Doubt}
	}
	for _, m := range x.Matters {
		doc.Schools = append(doc.Schools, chosenOf(m, c.By))
	}
	for _, s := range x.Tests() {
		p, err := c.step(&x, s, reading)
		if err != nil {
			return err
		}
		p.Changes = append([]string{}, x.ChangesBefore(s)...)
		doc.Steps = append(doc.Steps, p)
	}
	if c.JSON {
		return document(o.out, doc)
	}
	doc.print(o.out, &x)
	return nil
}

// fitted is a circuit of the library on a machine that has these options, done by
// these schools, and all of its options.
func fitted(id string, with, without, by []string) (circuit.Circuit, map[string]bool, error) {
	x, err := library.Circuit(id)
	if err != nil {
		return x, nil, badInput("%w", err)
	}
	options := x.AsRule()
	for on, list := range map[bool][]string{true: with, false: without} {
		for _, o := range list {
			if _, ok := options[o]; !ok {
				have := slices.Sorted(maps.Keys(options))
				return x, nil, badInput("%s has no option %q; it has %s", x.Title, o, strings.Join(append(have, "none more"), ", "))
			}
			options[o] = on
		}
	}
	chosen := map[string]string{}
	for _, b := range by {
		matter, school, _ := strings.Cut(b, "=")
		m, ok := x.Matter(matter)
		if !ok {
			have := []string{}
			for _, m := range x.Matters {
				have = append(have, m.ID)
			}
			return x, nil, badInput("--by: %s has no matter %q on which schools differ; it has %s", x.Title, matter, strings.Join(append(have, "none more"), ", "))
		}
		if m.Chosen(school).ID != school {
			have := []string{}
			for _, s := range m.Schools {
				have = append(have, s.ID)
			}
			return x, nil, badInput("--by: %s is done by %s, not by %q", quantity.Lower(m.Title), strings.Join(have, " or "), school)
		}
		chosen[matter] = school
	}
	return x.Fitted(options).By(chosen), options, nil
}

func chosenOf(m circuit.Matter, by []string) plannedSchool {
	id := ""
	for _, b := range by {
		if matter, school, _ := strings.Cut(b, "="); matter == m.ID {
			id = school
		}
	}
	now := m.Chosen(id)
	out := plannedSchool{Matter: m.ID, Title: m.Title, School: now.ID, Says: now.Title, Why: now.Why, Others: []string{}}
	for _, s := range m.Schools {
		if s.ID != now.ID {
			out.Others = append(out.Others, s.ID)
		}
	}
	return out
}

func (c *planCmd) step(x *circuit.Circuit, s circuit.Step, mark *quantity.Reading) (plannedStep, error) {
	in := x.Pressed(s)
	p := plannedStep{ID: s.ID, Title: s.Title, Kind: s.Kind, Port: in.Port.Title, Fittings: append([]terms.Fitting{}, in.Port.Fittings...), State: x.StateOf(s), Limits: append([]runsheet.Limit{}, runsheet.StepLimits(x, s)...),
		Schools: []string{}, Closures: []plannedClosure{}, Meant: []string{}, Suspects: []string{}, Windows: runsheet.Windows(s)}
	for _, id := range in.Chambers {
		ch, _ := x.Chamber(id)
		p.Chambers = append(p.Chambers, ch.Title)
	}
	for _, cl := range in.Closures {
		if !s.Kind.Pressurises() {
			break
		}
		p.Closures = append(p.Closures, plannedClosure{cl.Part.Title, strings.TrimSpace(cl.Part.Close + cl.Part.ClosedBy), cl.Already})
	}
	for _, m := range in.Meant {
		p.Meant = append(p.Meant, m.Title)
	}
	for _, q := range in.Suspects {
		p.Suspects = append(p.Suspects, q.Title)
	}
	got, g, err := c.plan(x, s, mark, &p)
	if err != nil || got == nil {
		return p, err
	}
	says := got.Target.Says
	switch s.Kind {
	case circuit.Floor: // it must lift
		says = got.Target.PastSays()
	case circuit.Feed:
		says = got.Target.FeedSays()
	}
	p.Target = &plannedTarget{got.Target.Pa / 1e3, got.Target.Printed, got.Target.School, says, got.Target.Weakest.Of, g.Name, got.Fit.Fits, got.Fit.Says}
	if e, ok := runsheet.StoredIn(x, s, got.Target.Pa, c.Ambient.Low); ok {
		p.Energy = e.Says()
	}
	if s.Kind == circuit.Hold {
		p.Allowance = &plannedLoss{got.Allowance.PaPerS * 60 / 1e3, got.Allowance.Says}
	}
	return p, nil
}

// plan plans a step on the gauge that was given, or on one that suits where that cannot
// read so far. Nil where the step aims at nothing, or the mark is wanted first.
func (c *planCmd) plan(x *circuit.Circuit, s circuit.Step, mark *quantity.Reading, p *plannedStep) (*runsheet.Planned, runsheet.Gauge, error) {
	g := runsheet.Gauge{Name: fmt.Sprintf("the gauge given, to %g %s", c.Top, c.Unit), Kind: terms.Needle, Rings: []runsheet.Ring{{Unit: c.Unit, To: c.Top, Division: c.Division}}}
	if err := g.Faults(); err != nil {
		return nil, g, badInput("the gauge: %w", err)
	}
	if !runsheet.Aims(x, s) {
		return nil, g, nil
	}
	schools, err := library.Schools()
	if err != nil {
		return nil, g, err
	}
	w, err := c.wish(s, schools)
	if err != nil {
		return nil, g, err
	}
	got, err := runsheet.PlanStep(x, s, mark, w, g, nil, schools, c.Ambient.Low)
	if about := runsheet.About(s, mark); err != nil && len(s.Targets) > 0 && about != 0 && !errors.Is(err, runsheet.ErrNoMark) {
		g = runsheet.Suitable(about)
		got, err = runsheet.PlanStep(x, s, mark, w, g, nil, schools, c.Ambient.Low)
	}
	for _, t := range got.Schools {
		p.Schools = append(p.Schools, t.ID)
	}
	switch {
	case errors.Is(err, runsheet.ErrNoMark):
		p.Wants = x.Mark.Label
		return nil, g, nil
	case err != nil:
		return nil, g, badInput("%s: %w", s.Title, err)
	}
	// The air is not measured yet: the loss is that of the usual air.
	got.Allowance, _ = got.Wanted.Resolve(s, g, schools.Hold, x.Room(s), got.Target.Pa, c.Ambient.Low)
	return &got, g, nil
}

// wish is what the flags choose for a step.
func (c *planCmd) wish(s circuit.Step, schools runsheet.Schools) (runsheet.Wish, error) {
	w := runsheet.DefaultWish(s, schools)
	if len(s.Targets) == 0 {
		w.School = c.School
	}
	for _, pick := range c.Target {
		if step, id, _ := strings.Cut(pick, "="); step == s.ID {
			w.School = id
		}
	}
	if len(s.Targets) > 0 && !slices.ContainsFunc(s.Targets, func(t circuit.Target) bool { return t.ID == w.School }) {
		var have []string
		for _, t := range s.Targets {
			have = append(have, t.ID)
		}
		return w, badInput("--target: step %q has no target %q; it has %s", s.ID, w.School, strings.Join(have, ", "))
	}
	if c.Hold != "" {
		w.Allowance, w.AllowanceText = allowed(c.Hold, schools)
		if w.Allowance == runsheet.FromTyped {
			if err := runsheet.CheckAllowance(c.Hold, runsheet.Suitable(100e3), c.Ambient.Low); err != nil {
				return w, badInput("--hold: %w", err)
			}
		}
	}
	return w, nil
}

func (d *planned) print(w io.Writer, x *circuit.Circuit) {
	fmt.Fprintln(w, x.Title)
	if m := d.Mark; m != nil {
		fmt.Fprintf(w, "The %s says %s: %s kPa. %s\n", m.On, m.Text, quantity.Significant(m.KPa, 3), m.Doubt)
	}
	for _, m := range d.Schools {
		fmt.Fprintf(w, "%s: %s. %s (%s)\n", m.Title, m.Says, m.Why, strings.Join(m.Others, ", "))
	}
	for i, s := range d.Stages {
		fmt.Fprintf(w, "\n%s\n", strings.TrimRight(fmt.Sprintf("%2d. %s. %s", i+1, s.Title, s.Text), " "))
		for _, k := range s.Cautions {
			fmt.Fprintf(w, "    ! %s\n", k.Text)
		}
		for _, p := range d.Steps {
			if s.Step == p.ID && s.ID != "hold" {
				p.print(w)
			}
		}
		for _, t := range s.Ticks {
			fmt.Fprintf(w, "    [ ] %s\n", t.Text)
		}
	}
	fmt.Fprintf(w, "\n%s\n%s\n", strings.Join(d.NotTested, "\n"), d.Standing)
}

func (p *plannedStep) print(w io.Writer) {
	for _, s := range p.State {
		fmt.Fprintf(w, "    - %s\n", s)
	}
	if len(p.Changes) > 0 {
		fmt.Fprintf(w, "    Change first: %s\n", strings.Join(p.Changes, "; "))
	}
	if p.Energy != "" {
		fmt.Fprintf(w, "    ! %s\n", p.Energy)
	}
	if p.Target != nil {
		says := p.Target.Says
		if p.Kind == circuit.Hold { // what is not held wants no fine gauge
			says += " " + strings.Join(p.Target.GaugeSays, " ")
		}
		fmt.Fprintf(w, "    Air in at: %s. %s\n", p.Port, says)
	}
	for _, x := range p.Windows {
		fmt.Fprintf(w, "    %s\n", x)
	}
	if p.Wants != "" {
		fmt.Fprintf(w, "    Air in at: %s. How far comes from the mark (%s): give it with --mark.\n", p.Port, p.Wants)
	}
	if p.Allowance != nil {
		fmt.Fprintf(w, "    %s\n", p.Allowance.Says)
	}
	if p.Target == nil && p.Wants == "" && p.Kind != circuit.Hold {
		return
	}
	for i, cl := range p.Closures {
		state := "shut: "
		if cl.Already {
			state = "shut already by "
		}
		fmt.Fprintf(w, "    %d of %d  %s, %s%s\n", i+1, len(p.Closures), cl.Part, state, cl.With)
	}
	if len(p.Meant) > 0 {
		fmt.Fprintf(w, "    Meant to pass: %s\n", strings.Join(p.Meant, ", "))
	}
}
