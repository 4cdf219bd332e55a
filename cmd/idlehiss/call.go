package main

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/goccy/go-yaml"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/library"
)

type callCmd struct {
	ID       string       `arg:"" help:"A circuit's id."`
	Findings string       `arg:"" help:"What was found, step by step, YAML; - for standard input."`
	With     []string     `help:"An option that this machine has; may be repeated." placeholder:"OPTION"`
	Without  []string     `help:"An option that it has not; may be repeated." placeholder:"OPTION"`
	By       []string     `help:"A school by which it is done, where schools differ; may be repeated." placeholder:"MATTER=SCHOOL"`
	Ambient  pressureFlag `default:"101.325kPa" help:"Air pressure around, absolute."`
	JSON     bool         `name:"json" help:"Print one JSON document."`
}

// findings is the file: for each step what was read, or the trace of its hold,
// beside which the file lies.
type findings struct {
	Mark   string             `yaml:"mark"`
	Things []string           `yaml:"things"` // wagons, cylinders, by name
	Steps  map[string]finding `yaml:"steps"`
}

type finding struct {
	Trace  string                       `yaml:"trace"`
	Traces map[string]string            `yaml:"traces"` // by the id of the condition, where it is held under two
	Allow  string                       `yaml:"allow"`  // in place of the step's own allowance
	Ticked []string                     `yaml:"ticked"` // of its list
	Fields map[string]string            `yaml:"fields"`
	Rows   map[string]map[string]string `yaml:"rows"`
}

// calledStep is one step's answer.
type calledStep struct {
	ID      string        `json:"id"`
	Title   string        `json:"title"`
	Kind    circuit.Kind  `json:"kind"`
	Outcome steps.Outcome `json:"outcome"`
	Report  *judge.Report `json:"report"` // of a hold
}

// calledAll is the whole.
type calledAll struct {
	Circuit   string         `json:"circuit"`
	Call      steps.Combined `json:"call"`
	Steps     []calledStep   `json:"steps"`
	NotTested []string       `json:"not_tested"`
	Standing  string         `json:"standing"`
}

func (c *callCmd) Run(o outside) error {
	x, _, err := fitted(c.ID, c.With, c.Without, c.By)
	if err != nil {
		return err
	}
	var found findings
	dir, err := readFindings(o, c.Findings, &found)
	if err != nil {
		return err
	}
	known := map[string]bool{}
	for _, s := range x.Tests() {
		known[s.ID] = true
	}
	for id := range found.Steps {
		if !known[id] {
			return badInput("%s: %s has no step %q", c.Findings, x.Title, id)
		}
	}
	given := steps.Given{AmbientPa: c.Ambient.Low, Things: found.Things, Lot: strings.Join(found.Things, "/")}
	if x.Marked() && found.Mark != "" {
		m, err := quantity.DecodeMark(found.Mark, x.Plausible())
		if err != nil {
			return badInput("%s: mark: %w", c.Findings, err)
		}
		given.Mark = &m.Readings[0]
	}
	doc := calledAll{Circuit: x.ID, Steps: []calledStep{}, NotTested: x.Untested(false), Standing: x.Standing}
	var results []steps.Result
	for _, s := range x.Tests() {
		f, ok := found.Steps[s.ID]
		if !ok {
			continue
		}
		one := calledStep{ID: s.ID, Title: s.Title, Kind: s.Kind}
		if len(s.Conditions) == 2 {
			one.Outcome, err = c.two(&x, s, f, dir, given)
		} else if s.Kind == circuit.Hold {
			one.Report, _, err = c.hold(&x, s, f, dir, given)
			if err == nil {
				one.Outcome = steps.OfHold(one.Report)
			}
		} else {
			one.Outcome, err = c.judge(&x, s, f, given)
		}
		if err != nil {
			return badInput("%s: step %s: %w", c.Findings, s.ID, err)
		}
		doc.Steps = append(doc.Steps, one)
		results = append(results, steps.Result{Step: s, Verdict: one.Outcome.Verdict, Sentence: one.Outcome.Sentence, Failed: one.Outcome.Failed})
	}
	doc.Call = steps.Combine(&x, results, steps.Eyes{})
	if c.JSON {
		return document(o.out, doc)
	}
	doc.print(o.out)
	return nil
}

// readFindings reads a findings file, - for standard input, and tells beside which folder its
// traces lie. An empty one says nothing.
func readFindings(o outside, file string, into any) (dir string, err error) {
	raw, dir := []byte(nil), "."
	if file == "-" {
		raw, err = io.ReadAll(o.in)
	} else {
		raw, err = os.ReadFile(file)
		dir = filepath.Dir(file)
	}
	if err != nil {
		return dir, badInput("%w", err)
	}
	if len(bytes.TrimSpace(raw)) == 0 {
		return dir, nil
	}
	if err := yaml.UnmarshalWithOptions(raw, into, yaml.Strict()); err != nil {
		return dir, badInput("%s: %s", file, yaml.FormatError(err, false, true))
	}
	return dir, nil
}

func (c *callCmd) judge(x *circuit.Circuit, s circuit.Step, f finding, g steps.Given) (steps.Outcome, error) {
	if f.Trace != "" {
		return steps.Outcome{}, fmt.Errorf("it is a %s, which takes no trace", s.Kind)
	}
	g.Ticked = map[string]bool{}
	for _, id := range f.Ticked {
		g.Ticked[id] = true
	}
	e := steps.Entry{Fields: f.Fields}
	for id, cells := range f.Rows {
		e.Rows = append(e.Rows, steps.EntryRow{ID: id, Title: id, Cells: cells})
	}
	return steps.Judge(s, x, g, e)
}

// hold judges the trace of a step by its allowance, at its target; it tells the
// allowance too, Pa/s.
func (c *callCmd) hold(x *circuit.Circuit, s circuit.Step, f finding, dir string, g steps.Given) (*judge.Report, float64, error) {
	if f.Trace == "" {
		return nil, 0, fmt.Errorf("a hold wants its trace")
	}
	file, err := os.Open(filepath.Join(dir, f.Trace))
	if err != nil {
		return nil, 0, err
	}
	defer file.Close()
	tr, err := trace.ReadCSV(file, c.Ambient.Low)
	if err != nil {
		return nil, 0, fmt.Errorf("%s: %w", f.Trace, err)
	}
	face := runsheet.Gauge{Name: "the gauge of the file", Kind: terms.Digital, Rings: []runsheet.Ring{{Unit: "Pa", From: -quantity.StandardAtmosphere, To: 1e7, Division: judge.InferStep(tr)}}}
	schools, err := library.Schools()
	if err != nil {
		return nil, 0, err
	}
	w := runsheet.DefaultWish(s, schools)
	if f.Allow != "" {
		w.Allowance, w.AllowanceText = allowed(f.Allow, schools)
	}
	p, err := runsheet.PlanStep(x, s, g.Mark, w, face, nil, schools, c.Ambient.Low)
	switch {
	case errors.Is(err, runsheet.ErrNoMark):
		return nil, 0, fmt.Errorf("the mark comes first, such as mark: 16 psi")
	case err != nil:
		return nil, 0, err
	}
	at := p.Target.Pa
	allow, _ := p.Wanted.Resolve(s, face, schools.Hold, x.Room(s), at, c.Ambient.Low)
	rep, err := judge.Judge(tr, judge.Question{AmbientPa: c.Ambient.Low, AtPa: &at, LimitPaPerS: allow.PaPerS, Gauge: face.ForJudge(), GasM3: x.Room(s), GasSE: x.Room(s) * roomSE, Coolant: x.Liquid == circuit.Coolant}, schools.Hold, false)
	return &rep, allow.PaPerS, err
}

// roomSE is how well the usual air of a circuit is known, as a share of it.
const roomSE = 0.1

// allowed reads what may be lost: house, the id of a school of hold, or a loss as typed.
func allowed(text string, schools runsheet.Schools) (from, typed string) {
	if text == runsheet.FromHouse || slices.ContainsFunc(schools.Hold, func(h judge.School) bool { return h.ID == text }) {
		return text, ""
	}
	return runsheet.FromTyped, text
}

// two judges the traces of a step under its two conditions and compares them.
func (c *callCmd) two(x *circuit.Circuit, s circuit.Step, f finding, dir string, g steps.Given) (steps.Outcome, error) {
	var got [2]*judge.Report
	may := 0.0
	for id := range f.Traces {
		if _, ok := s.Condition(id); !ok {
			return steps.Outcome{}, fmt.Errorf("it is held under %s or %s, not under %q", s.Conditions[0].ID, s.Conditions[1].ID, id)
		}
	}
	for i, condition := range s.Conditions {
		file, ok := f.Traces[condition.ID]
		if !ok {
			continue
		}
		var err error
		one := f
		one.Trace = file
		if got[i], may, err = c.hold(x, s, one, dir, g); err != nil {
			return steps.Outcome{}, err
		}
	}
	return steps.OfTwo(s, got[0], got[1], may), nil
}

func (d *calledAll) print(w io.Writer) {
	fmt.Fprintln(w, d.Call.Sentence)
	for _, l := range d.Call.Lines {
		fmt.Fprintf(w, "  %s\n", l)
	}
	if len(d.Call.Untested) > 0 {
		fmt.Fprintf(w, "Still untested: %s\n", strings.Join(d.Call.Untested, ", "))
	}
	fmt.Fprintf(w, "%s\n%s\n", strings.Join(d.NotTested, "\n"), d.Standing)
}
