package catalogue

import (
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/library"
)

// CircuitRow is a circuit in a list.
type CircuitRow struct {
	ID         string           `json:"id"`
	Version    int              `json:"version"`
	Title      string           `json:"title"`
	Family     string           `json:"family"`
	Summary    string           `json:"summary"`
	File       string           `json:"file"`       // of the shop's own; empty where it ships
	Mark       string           `json:"mark"`       // what carries the figure that limits it; empty: its steps do
	MarkLabel  string           `json:"mark_label"` // of the field in which it is typed
	Steps      []string         `json:"steps"`
	Complaints []string         `json:"complaints"`
	Options    []circuit.Option `json:"options"`
	Things     string           `json:"things"` // what is gone round by name; empty: nothing
}

// WrongFile is one of the shop's own files that was refused.
type WrongFile struct {
	File   string              `json:"file"`
	Faults []library.FileFault `json:"faults"`
}

// CircuitList is the library with the shop's own.
type CircuitList struct {
	Circuits []CircuitRow `json:"circuits"`
	Wrong    []WrongFile  `json:"wrong"`
	Folder   string       `json:"folder"` // in which the shop's own lie
}

func circuitRow(c circuit.Circuit, own []library.Own) CircuitRow {
	r := CircuitRow{ID: c.ID, Version: c.Version, Title: c.Title, Family: c.Family, Summary: c.Summary, Mark: c.Mark.On, MarkLabel: c.Mark.Label, Things: c.Things, Steps: []string{},
		Complaints: append([]string{}, c.Complaints...), Options: append([]circuit.Option{}, c.Options...)}
	for _, st := range c.Tests() {
		r.Steps = append(r.Steps, st.Title)
	}
	if i := slices.IndexFunc(own, func(o library.Own) bool { return len(o.Faults) == 0 && o.Circuit.ID == c.ID }); i >= 0 {
		r.File = own[i].File
	}
	return r
}

// CircuitView is one circuit with what follows from it.
type CircuitView struct {
	CircuitRow
	Standing  string                `json:"standing"`
	Source    string                `json:"source"`
	NotTested []string              `json:"not_tested"`
	Chambers  []ChamberView         `json:"chambers"`
	Parts     []PartView            `json:"parts"`
	Tests     []CircuitStep         `json:"tests"` // of every school and option
	Matters   []circuit.Matter      `json:"matters"`
	Stages    []runsheet.Stage      `json:"stages"`
	Acts      []ActView             `json:"acts"`
	Imitators []string              `json:"imitators"` // what looks like what
	Findings  []library.FileFinding `json:"findings"`  // of a shop's own file: what a reader of the trade would correct
}

// ChamberView is a space on the drawing.
type ChamberView struct {
	ID    string          `json:"id"`
	Title string          `json:"title"`
	Holds circuit.Content `json:"holds"`
	Open  bool            `json:"open"`
	At    [2]float64      `json:"at"`
}

// PartView is what stands between two spaces.
type PartView struct {
	ID      string    `json:"id"`
	Title   string    `json:"title"`
	Between [2]string `json:"between"`
	Kind    string    `json:"kind"`
	Odds    float64   `json:"odds"`
	Look    string    `json:"look"`
	Limit   string    `json:"limit"` // with both units; empty where none is known
	Shut    string    `json:"shut"`  // with what it is closed for a test
	Meant   bool      `json:"meant"`
	Cover   string    `json:"cover"`  // what hides it, and its price; empty: nothing
	Within  string    `json:"within"` // where and for what behind it
	Tells   []string  `json:"tells"`  // which way it opens, what changes its leak, what wets it
}

// CircuitStep is a test of it, as it is planned.
type CircuitStep struct {
	ID         string                  `json:"id"`
	Title      string                  `json:"title"`
	Kind       circuit.Kind            `json:"kind"`
	Text       string                  `json:"text"`
	Conditions []circuit.StepCondition `json:"conditions"` // under which it is held, and compared
	State      []string                `json:"state"`
	Port       string                  `json:"port"`
	Chambers   []string                `json:"chambers"` // ids of those under pressure
	Eye        circuit.Eye             `json:"eye"`      // what fails it when seen
	Needle     string                  `json:"needle"`   // why the needle alone decides
	Ticks      []string                `json:"ticks"`
	Closures   []ClosureView           `json:"closures"`
	Meant      []string                `json:"meant"`
	Targets    []StepTarget            `json:"targets"`
	Allow      string                  `json:"allow"`  // by default
	Losses     []circuit.Loss          `json:"losses"` // by school
	By         []string                `json:"by"`     // titles of the schools and options that have it; none: all
	Source     string                  `json:"source"`
}

// StepTarget is one school of how far.
type StepTarget struct {
	Title string `json:"title"`
	Why   string `json:"why"`
	At    string `json:"at"`
}

// ClosureView is one opening that must be shut.
type ClosureView struct {
	Part    string `json:"part"`
	Title   string `json:"title"`
	With    string `json:"with"`
	Already bool   `json:"already"`
}

// Step describes a test of a circuit.
func Step(c *circuit.Circuit, st circuit.Step) CircuitStep {
	in := c.Pressed(st)
	v := CircuitStep{ID: st.ID, Title: st.Title, Kind: st.Kind, Text: st.Text, Conditions: append([]circuit.StepCondition{}, st.Conditions...), State: c.StateOf(st), Port: in.Port.Title, Chambers: in.Chambers,
		Eye: st.Eye, Needle: st.Needle, Ticks: []string{}, Closures: closures(in), Meant: []string{}, Targets: []StepTarget{}, Allow: st.Allowance(), Losses: append([]circuit.Loss{}, st.Allows...), By: c.Wanted(st), Source: st.Source}
	if v.Source == "" {
		v.Source = c.Source
	}
	if !st.Kind.Pressurises() && st.Kind != circuit.Values {
		v.Chambers, v.Closures = []string{}, []ClosureView{}
	}
	for _, t := range st.Ticks {
		v.Ticks = append(v.Ticks, t.Text)
	}
	for _, m := range in.Meant {
		v.Meant = append(v.Meant, m.Title)
	}
	for _, t := range st.Targets {
		at := runsheet.TwoUnits(float64(t.At))
		if t.OverMark != 0 {
			at = "the mark and " + runsheet.TwoUnits(float64(t.OverMark))
		}
		if t.Asked {
			at += " (example)"
		}
		v.Targets = append(v.Targets, StepTarget{t.Title, t.Why, at})
	}
	return v
}

func closures(in circuit.Pressed) []ClosureView {
	out := []ClosureView{}
	for _, cl := range in.Closures {
		out = append(out, ClosureView{cl.Part.ID, cl.Part.Title, cl.Part.Close + cl.Part.ClosedBy, cl.Already})
	}
	return out
}
