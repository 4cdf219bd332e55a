package circuit

import (
	"encoding/json"
	"slices"

	"idlehiss/core/quantity"
)

// Kind is a kind of step: how a test is done and what it is judged by.
type Kind string

// The kinds of step. Each has its own computation in core/steps.
const (
	Hold       Kind = "hold"        // pressurise, shut off, watch it stay; either sign
	Feed       Kind = "feed"        // fed all the time; judged by flow and place
	Floor      Kind = "floor"       // a relief lifts, falls back and holds
	Presses    Kind = "presses"     // each press moves the needle, and there it stays
	TimedFall  Kind = "timed-fall"  // so long from one mark to another, at one end or both
	CrossWatch Kind = "cross-watch" // one line is charged, the other must not move
	Round      Kind = "round"       // a look at each vehicle or place
	Values     Kind = "values"      // measured values against a minimum and a good figure
	Charge     Kind = "charge"      // to a value at today's temperature
	Cracks     Kind = "cracks"      // a list of cracks: leaks, or does not
	Tighten    Kind = "tighten"     // bolts in order, in steps
	Checklist  Kind = "checklist"   // what must be so before anything goes on
)

// Kinds are all of them, in the order they are told.
var Kinds = []Kind{Hold, Feed, Floor, Presses, TimedFall, CrossWatch, Round, Values, Charge, Cracks, Tighten, Checklist}

// Pumped reports whether a step is a hold with a rig and a live trace.
func (k Kind) Pumped() bool { return k == Hold }

// Pressurises reports whether a step puts its circuit under a pressure that closures hold in.
func (k Kind) Pressurises() bool {
	return k == Hold || k == Feed || k == Floor || k == Presses || k == CrossWatch || k == TimedFall || k == Charge
}

// Target is one school's pressure for a step. A vacuum is below nothing.
type Target struct {
	ID       string   `yaml:"id" json:"id"`
	Title    string   `yaml:"title" json:"title"`
	Why      string   `yaml:"why" json:"why"`
	At       Pressure `yaml:"at" json:"at"`
	OverMark Pressure `yaml:"over_mark" json:"over_mark,omitempty"` // above the circuit's mark, in place of At
	Asked    bool     `yaml:"asked" json:"asked,omitempty"`         // an example: the manual's own figure is asked for
}

// Step is one test of a circuit. What a kind does not need stays empty.
type Step struct {
	ID       string   `yaml:"id" json:"id"`
	Title    string   `yaml:"title" json:"title"`
	Kind     Kind     `yaml:"kind" json:"kind"`
	Text     string   `yaml:"text" json:"text"`
	Port     string   `yaml:"port" json:"port,omitempty"`         // where air goes in; empty: the first
	Open     []string `yaml:"open" json:"open,omitempty"`         // parts worked for this step
	Shut     []string `yaml:"shut" json:"shut,omitempty"`         //
	State    []string `yaml:"state" json:"state,omitempty"`       // of each lever and spring, in words
	At       []string `yaml:"at" json:"at,omitempty"`             // positions in which it is done, by the ids of their states
	After    []string `yaml:"after" json:"after,omitempty"`       // steps that must have been good
	Starts   string   `yaml:"starts" json:"starts,omitempty"`     // what starts its clock, where something is timed
	Optional bool     `yaml:"optional" json:"optional,omitempty"` // the combined call does not wait for it
	Once     []string `yaml:"once" json:"once,omitempty"`         // steps after which it is optional no more
	Outranks []string `yaml:"outranks" json:"outranks,omitempty"` // steps whose bad result counts no more once this one is good
	Cautions []Item   `yaml:"cautions" json:"cautions,omitempty"`
	Ticks    []Item   `yaml:"ticks" json:"ticks,omitempty"`
	With     []string `yaml:"with" json:"with,omitempty"`       // options that must be fitted
	Without  []string `yaml:"without" json:"without,omitempty"` // and those that must not
	Source   string   `yaml:"source" json:"source,omitempty"`   // of its figures; empty: the circuit's

	// A pressure is aimed at.
	Targets []Target `yaml:"targets" json:"targets,omitempty"` // none: the circuit's mark tells
	Most    Pressure `yaml:"most" json:"most,omitempty"`       // never beyond; of either sign
	Allow   string   `yaml:"allow" json:"allow,omitempty"`     // house, a school of hold, or "3.5 kPa in 1 min"
	Allows  []Loss   `yaml:"allows" json:"allows,omitempty"`   // by school, in place of Allow; the first is the default

	Eye    Eye    `yaml:"eye" json:"eye,omitempty"`       // what fails it when seen, whatever the needle says
	Dry    bool   `yaml:"dry" json:"dry,omitempty"`       // never filled for this step, though the circuit may be
	Needle string `yaml:"needle" json:"needle,omitempty"` // why the needle alone decides, where no eye can

	Conditions []StepCondition `yaml:"conditions" json:"conditions,omitempty"` // hold: done under each of two, and compared
	Faster     string          `yaml:"faster" json:"faster,omitempty"`         // hold: what it means where the second loses faster

	// Kinds of their own.
	Usual     quantity.M3PerS `yaml:"usual" json:"usual,omitempty"`         // feed: what passes anyway
	Allowed   quantity.M3PerS `yaml:"allowed" json:"allowed,omitempty"`     // feed: and what may leave beside it
	Presses   int             `yaml:"presses" json:"presses,omitempty"`     // presses: how many
	Way       string          `yaml:"way" json:"way,omitempty"`             // presses: down or up
	Least     Pressure        `yaml:"least" json:"least,omitempty"`         // presses: what one must move
	To        Pressure        `yaml:"to" json:"to,omitempty"`               // timed fall: down to this
	Within    [2]quantity.S   `yaml:"within" json:"within,omitempty"`       // timed fall: not sooner, not later
	Lag       quantity.S      `yaml:"lag" json:"lag,omitempty"`             // timed fall: between near and far gauge
	Watch     string          `yaml:"watch" json:"watch,omitempty"`         // cross-watch: the chamber that must not move
	Over      quantity.S      `yaml:"over" json:"over,omitempty"`           // cross-watch: for so long
	Per       string          `yaml:"per" json:"per,omitempty"`             // round, values: what the rows are, such as wagon
	Sample    int             `yaml:"sample" json:"sample,omitempty"`       // round: so many of them, by lot; 0: all
	Looks     []Look          `yaml:"looks" json:"looks,omitempty"`         // round
	Values    []Value         `yaml:"values" json:"values,omitempty"`       // values
	Each      *Value          `yaml:"each" json:"each,omitempty"`           // values: the same of each thing by name
	Asked     bool            `yaml:"asked" json:"asked,omitempty"`         // values: its figures are examples, the manual's are asked for
	Share     [2]float64      `yaml:"share" json:"share,omitempty"`         // values in %: good up to the first, to be replaced above the second
	Unit      string          `yaml:"unit" json:"unit,omitempty"`           // values: what they are read in
	Tolerance Pressure        `yaml:"tolerance" json:"tolerance,omitempty"` // charge, floor: either way
	Percent   float64         `yaml:"percent" json:"percent,omitempty"`     // charge, floor: the tolerance in % of the figure, where that is more
	Recharge  float64         `yaml:"recharge" json:"recharge,omitempty"`   // charge: so many % below it is charged again
	Yearly    [2]float64      `yaml:"yearly" json:"yearly,omitempty"`       // charge: % it loses in a year as a rule, and at most
	Holds     float64         `yaml:"holds" json:"holds,omitempty"`         // floor: it must hold so many % of its mark
	Stuck     Pressure        `yaml:"stuck" json:"stuck,omitempty"`         // floor: so far above its mark it is stuck; pump no further
	Places    []string        `yaml:"places" json:"places,omitempty"`       // cracks: where to look
	Bolts     *Bolts          `yaml:"bolts" json:"bolts,omitempty"`         // tighten
}

// StepCondition is one of the two under which a step is held, to compare them.
type StepCondition struct {
	ID    string `yaml:"id" json:"id"`
	Title string `yaml:"title" json:"title"`
}

// UnmarshalJSON also reads a bare text, as jobs from before conditions had ids keep it.
func (c *StepCondition) UnmarshalJSON(b []byte) error {
	if len(b) > 0 && b[0] == '"' {
		var text string
		err := json.Unmarshal(b, &text)
		*c = StepCondition{ID: text, Title: text}
		return err
	}
	type plain StepCondition
	return json.Unmarshal(b, (*plain)(c))
}

// Condition finds one by its id.
func (s Step) Condition(id string) (StepCondition, bool) {
	i := slices.IndexFunc(s.Conditions, func(c StepCondition) bool { return c.ID == id })
	if i < 0 {
		return StepCondition{}, false
	}
	return s.Conditions[i], true
}

// Draws reports whether a step is done under vacuum.
func (s Step) Draws() bool {
	if s.Most != 0 {
		return s.Most < 0
	}
	return len(s.Targets) > 0 && s.Targets[0].At < 0
}

// Eye is what is seen of a leak that a needle is too coarse for.
type Eye string

// What may be seen.
const (
	Bubbles Eye = "bubbles" // of gas, in soap or a dip
	Weeps   Eye = "weeps"   // of liquid
)

// Values lists them, and none.
func (Eye) Values() []string { return []string{"", string(Bubbles), string(Weeps)} }

// Look is one thing looked at on each round.
type Look struct {
	ID     string     `yaml:"id" json:"id"`
	Title  string     `yaml:"title" json:"title"`
	Within quantity.S `yaml:"within" json:"within,omitempty"` // it must show in this time
}

// Value is one figure measured.
type Value struct {
	ID     string   `yaml:"id" json:"id"`
	Title  string   `yaml:"title" json:"title"`
	Least  Pressure `yaml:"least" json:"least"`             // below it, bad
	Good   Pressure `yaml:"good" json:"good,omitempty"`     // from it on, good; empty: the minimum is enough
	Gate   bool     `yaml:"gate" json:"gate,omitempty"`     // the rest says nothing while this is bad
	Counts float64  `yaml:"counts" json:"counts,omitempty"` // in %: the share of it that is lost
}

// Bolts are tightened from the middle outwards, alternating, in steps.
type Bolts struct {
	Rows    []int         `yaml:"rows" json:"rows"` // bolts in each row, from one long side to the other
	Torques []quantity.Nm `yaml:"torques" json:"torques,omitempty"`
	Renip   bool          `yaml:"renip" json:"renip,omitempty"` // again at every pressure step
}

// Option is something this machine may have or not.
type Option struct {
	ID     string `yaml:"id" json:"id"`
	Title  string `yaml:"title" json:"title"`
	Fitted bool   `yaml:"fitted" json:"fitted"` // as a rule
}

// theHold is what a circuit without steps is tested by.
var theHold = Step{ID: "hold", Title: "Hold", Kind: Hold, Allow: "house"}

// Tests are the steps of a circuit, with at least one.
func (c *Circuit) Tests() []Step {
	if len(c.Steps) == 0 {
		return []Step{theHold}
	}
	return c.Steps
}

// Test finds a step; empty is the first hold, or the first step where none is.
func (c *Circuit) Test(id string) (Step, bool) {
	tests := c.Tests()
	for _, s := range tests {
		if s.ID == id || id == "" && s.Kind.Pumped() {
			return s, true
		}
	}
	return tests[0], id == ""
}

// Fitted is the circuit of a machine that has these options: parts, ports, acts and steps
// of others are not there. What hangs on a school is left for By.
func (c Circuit) Fitted(options map[string]bool) Circuit {
	has := map[string]bool{}
	for _, o := range c.Options {
		has[o.ID] = options[o.ID]
	}
	return c.with(has)
}

// with leaves out the parts and steps that want something of these which is not
// so, or are not wanted with something which is.
func (c Circuit) with(so map[string]bool) Circuit {
	has := func(with, without []string) bool {
		for _, o := range with {
			if is, asked := so[o]; asked && !is {
				return false
			}
		}
		return !slices.ContainsFunc(without, func(o string) bool { return so[o] })
	}
	out := c
	out.Parts, out.Steps, out.Ports, out.Acts, out.Positions = nil, nil, nil, nil, nil
	for _, p := range c.Positions {
		if has(p.With, p.Without) {
			p.States = slices.DeleteFunc(slices.Clone(p.States), func(s PositionState) bool { return !has(s.With, s.Without) })
			out.Positions = append(out.Positions, p)
		}
	}
	for _, p := range c.Ports {
		if has(p.With, p.Without) {
			out.Ports = append(out.Ports, p)
		}
	}
	if len(out.Ports) == 0 {
		out.Ports = c.Ports // a rig goes somewhere
	}
	for _, a := range c.Acts {
		if has(a.With, a.Without) {
			out.Acts = append(out.Acts, a)
		}
	}
	for _, p := range c.Parts {
		if has(p.With, p.Without) {
			out.Parts = append(out.Parts, p)
		}
	}
	for _, s := range c.Steps {
		if has(s.With, s.Without) {
			out.Steps = append(out.Steps, s)
		}
	}
	return out
}

// AsRule are the options that are fitted as a rule.
func (c *Circuit) AsRule() map[string]bool {
	out := map[string]bool{}
	for _, o := range c.Options {
		out[o.ID] = o.Fitted
	}
	return out
}
