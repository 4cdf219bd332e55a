package circuit

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/quantity"
)

// Fault is one thing wrong with a description: where, as a YAML path such as
// $.parts[3].between, and what would be right.
type Fault struct{ Path, Says string }

// faults gathers while a description is gone through.
type faults struct {
	c   *Circuit
	ids map[string]string
	out []Fault
}

// Faults lists everything that is wrong with the description, in plain words.
func (c *Circuit) Faults() []Fault {
	f := &faults{c: c, ids: map[string]string{Outside: "the outside"}}
	f.chambers()
	f.ports()
	f.signs()
	f.options() // parts and steps ask for them
	f.parts()
	f.mark()
	f.steps()
	f.positions()
	f.details()
	f.acts()
	f.further()
	if len(f.out) == 0 {
		f.reached() // of a description whose names are right
		f.cutOff()
	}
	return f.out
}

func (f *faults) say(path, format string, a ...any) {
	f.out = append(f.out, Fault{path, fmt.Sprintf(format, a...)})
}

// declare takes an id in. Steps, matters and repairs have names of their own, and
// so have options, which share them with schools: a circuit may have a part called
// primer and an option of that name.
func (f *faults) declare(path, kind, id string) {
	key, one := id, "a "+kind
	switch kind {
	case "step", "matter", "repair", "next step", "act", "imitator", "state", "cover", "position":
		key = kind + " " + id
	case "option", "school":
		key = "option " + id
	}
	if strings.ContainsAny(kind[:1], "aeio") {
		one = "an " + kind
	}
	switch was, ok := f.ids[key]; {
	case id == "":
		f.say(path, "%s has no id", one)
	case ok:
		f.say(path, "the id %q is used for %s and for %s; every id once", id, was, one)
	default:
		f.ids[key] = one
	}
}

func (f *faults) chambers() {
	for i, ch := range f.c.Chambers {
		at := fmt.Sprintf("$.chambers[%d]", i)
		f.declare(at+".id", "chamber", ch.ID)
		if ch.Holds != HoldsLiquid && ch.Holds != HoldsGas {
			f.say(at+".holds", "chamber %q holds %q; liquid or gas is meant", ch.ID, ch.Holds)
		}
		if ch.TrappedAir > ch.Volume && ch.Volume > 0 {
			f.say(at+".trapped_air", "chamber %q traps more air than it has room for", ch.ID)
		}
		if ch.TrappedAir == 0 && ch.Volume == 0 && !ch.Open {
			f.say(at, "chamber %q has no volume: write about how much gas is in it", ch.ID)
		}
		if ch.Holds == HoldsLiquid && ch.TrappedAir == 0 && !ch.Open {
			f.say(at, "chamber %q is full of liquid: write about how much air is trapped in it, since only that can be squeezed", ch.ID)
		}
		for k, g := range ch.Gives {
			if g.Volume <= 0 || g.At <= 0 {
				f.say(fmt.Sprintf("%s.gives[%d]", at, k), "chamber %q: what it gives needs a volume and the pressure at which it gives it", ch.ID)
			}
		}
	}
}

func (f *faults) ports() {
	for i, p := range f.c.Ports {
		at := fmt.Sprintf("$.ports[%d]", i)
		f.declare(at+".id", "port", p.ID)
		if _, ok := f.c.Chamber(p.Chamber); !ok {
			f.say(at+".chamber", "port %q opens into %q, which is no chamber here; there is %s", p.ID, p.Chamber, strings.Join(f.c.chamberIDs(), ", "))
		}
		for k, x := range p.Fittings {
			if known := x.Values(); !slices.Contains(known, string(x)) {
				f.say(fmt.Sprintf("%s.fittings[%d]", at, k), "port %q: %q is no fitting known here; there is %s", p.ID, x, strings.Join(known, ", "))
			}
		}
	}
	if len(f.c.Ports) == 0 {
		f.say("$", "no port: there is nowhere to fit a rig")
	}
}

// signs have ids of their own kind: a part may share one.
func (f *faults) signs() {
	seen := map[string]bool{}
	for i, x := range f.c.Signs {
		if at := fmt.Sprintf("$.signs[%d]", i); x.ID == "" || x.Title == "" {
			f.say(at, "a sign has an id and a title, such as {id: wet-carpet, title: wet carpet}")
		} else if seen[x.ID] {
			f.say(at+".id", "the sign %q is there twice: every id once", x.ID)
		}
		seen[x.ID] = true
	}
	for i, p := range f.c.Parts {
		for k, id := range p.Signs {
			if !seen[id] {
				f.say(fmt.Sprintf("$.parts[%d].signs[%d]", i, k), "part %q is pointed to by the sign %q, which is not under signs; add it there with its title", p.ID, id)
			}
		}
	}
}

func (f *faults) parts() {
	c := f.c
	chamber := func(id string) bool { _, ok := c.Chamber(id); return ok || id == Outside }
	for i, p := range c.Parts {
		at := fmt.Sprintf("$.parts[%d]", i)
		f.declare(at+".id", "part", p.ID)
		for k, side := range p.Between {
			if !chamber(side) {
				f.say(fmt.Sprintf("%s.between[%d]", at, k), "part %q stands on %q, which is no chamber here (%s, or %q)", p.ID, side, strings.Join(c.chamberIDs(), ", "), Outside)
			}
		}
		if p.Between[0] == p.Between[1] {
			f.say(at+".between", "part %q has the same space on both sides", p.ID)
		}
		outer := p.Between[0] == Outside || p.Between[1] == Outside
		switch {
		case p.Opening && p.Joins:
			f.say(at, "part %q is an opening and joins two chambers: it is one or the other", p.ID)
		case p.Joins && outer:
			f.say(at+".joins", "part %q joins a chamber to the outside: that is an opening, and says with what it is closed", p.ID)
		case p.Opening && p.Close == "" && p.ClosedBy == "" && p.LeftOpen == "":
			f.say(at, "part %q is an opening: write with what it is closed for a test (close), what closes it already (closed_by), or why it stays open (left_open)", p.ID)
		case (p.Close != "" || p.ClosedBy != "") && !p.Opening:
			f.say(at, "part %q says with what it is closed, but is no opening", p.ID)
		}
		if p.Odds <= 0 && !p.Removed && !p.Opening && !p.Joins && !p.OneWay && len(p.OpenAt) == 0 && p.Meant == 0 {
			f.say(at, "part %q has no odds; write how often it is the culprit beside the others, above 0", p.ID)
		}
		if p.Reseats > 0 && p.Lifts == 0 {
			f.say(at+".reseats", "%q reseats but says no pressure at which it lifts", p.ID)
		}
		if p.Lifts > 0 && p.Reseats > p.Lifts {
			f.say(at+".reseats", "%q would reseat at %s, above the %s at which it lifts; a relief shuts below where it opens", p.ID, showPa(p.Reseats), showPa(p.Lifts))
		}
		if p.Meant > 0 && p.MeantAt == 0 {
			f.say(at+".meant", "the escape meant at %q needs the pressure at which it is that much (meant_at)", p.ID)
		}
		f.wanted(at, p.With, p.Without)
	}
}

func showPa(p Pressure) string { return quantity.Significant(float64(p)/1e3, 4) + " kPa" }

func (f *faults) mark() {
	m := f.c.Mark
	if m == (Mark{}) {
		return
	}
	if m.On == "" {
		f.say("$.mark.on", "the mark says a range, but not what it stands on")
	}
	if m.Accept[0] >= m.Accept[1] || m.Certain[0] < m.Accept[0] || m.Certain[1] > m.Accept[1] {
		f.say("$.mark", "the mark's certain range must lie within the accepted one, and both must run upwards")
	}
}

func (f *faults) options() {
	for i, o := range f.c.Options {
		f.declare(fmt.Sprintf("$.options[%d].id", i), "option", o.ID)
	}
	for i, m := range f.c.Matters {
		at := fmt.Sprintf("$.matters[%d]", i)
		f.declare(at+".id", "matter", m.ID)
		if !slices.Contains(MatterKinds, m.Kind) {
			f.say(at+".kind", "matter %q is of kind %q; %s is meant", m.ID, m.Kind, strings.Join(MatterKinds, " or "))
		}
		if len(m.Schools) < 2 {
			f.say(at+".schools", "matter %q has fewer than two schools: there is nothing to choose", m.ID)
		}
		for k, s := range m.Schools {
			f.declare(fmt.Sprintf("%s.schools[%d].id", at, k), "school", s.ID)
		}
	}
	for i, r := range f.c.Repairs {
		at := fmt.Sprintf("$.repairs[%d]", i)
		f.declare(at+".id", "repair", r.ID)
		for k, kind := range r.For {
			if !slices.ContainsFunc(f.c.Parts, func(p Part) bool { return p.Kind == kind }) {
				f.say(fmt.Sprintf("%s.for[%d]", at, k), "repair %q is for a %s, and no part here is one", r.ID, kind)
			}
		}
		if !slices.Contains(Scopes, r.Scope) {
			f.say(at+".scope", "repair %q takes in %q; one of %s is meant", r.ID, r.Scope, strings.Join(Scopes, ", "))
		}
	}
}

// wanted looks whether options or schools that are asked for exist.
func (f *faults) wanted(at string, with, without []string) {
	for name, list := range map[string][]string{"with": with, "without": without} {
		for k, o := range list {
			if _, ok := f.ids["option "+o]; !ok {
				f.say(fmt.Sprintf("%s.%s[%d]", at, name, k), "%q is not declared here: no option and no school has that id", o)
			}
		}
	}
}

func (f *faults) steps() {
	c := f.c
	steps := map[string]bool{}
	for i, s := range c.Steps {
		at := fmt.Sprintf("$.steps[%d]", i)
		f.declare(at+".id", "step", s.ID)
		if !slices.Contains(Kinds, s.Kind) {
			f.say(at+".kind", "step %q is a %q, which is no kind of step", s.ID, s.Kind)
			continue
		}
		for k, before := range s.After {
			if !steps[before] {
				f.say(fmt.Sprintf("%s.after[%d]", at, k), "step %q comes after %q, which is no step before it", s.ID, before)
			}
		}
		for k, before := range s.Once {
			if !slices.ContainsFunc(c.Steps, func(x Step) bool { return x.ID == before }) || !s.Optional {
				f.say(fmt.Sprintf("%s.once[%d]", at, k), "step %q is optional until %q was done: both must be steps here, and it optional", s.ID, before)
			}
		}
		for k, before := range s.Outranks {
			if !steps[before] {
				f.say(fmt.Sprintf("%s.outranks[%d]", at, k), "step %q outranks %q, which is no step before it", s.ID, before)
			}
		}
		steps[s.ID] = true
		if s.Port != "" && !slices.ContainsFunc(c.Ports, func(p Port) bool { return p.ID == s.Port }) {
			f.say(at+".port", "step %q goes in at %q, which is no port here", s.ID, s.Port)
		}
		for name, list := range map[string][]string{"open": s.Open, "shut": s.Shut} {
			for k, id := range list {
				if !slices.ContainsFunc(c.Parts, func(p Part) bool { return p.ID == id }) {
					f.say(fmt.Sprintf("%s.%s[%d]", at, name, k), "step %q works %q, which is no part here", s.ID, id)
				}
			}
		}
		f.wanted(at, s.With, s.Without)
		f.aims(at, s)
		if n := len(s.Conditions); n > 0 && (n != 2 || s.Faster == "" || s.Kind != Hold) {
			f.say(at+".conditions", "step %q is held under two conditions and compared: that needs a hold, two conditions, and what it means where the second loses faster (faster)", s.ID)
		}
		if s.Sample > 0 && s.Kind != Round {
			f.say(at+".sample", "step %q draws a sample, but goes round nothing", s.ID)
		}
		for _, need := range needs[s.Kind] {
			if !need.has(s) {
				f.say(at, "step %q, of kind %s, needs %s", s.ID, s.Kind, need.what)
			}
		}
	}
}

// further looks at what is to be done next.
func (f *faults) further() {
	for i, x := range f.c.Further {
		at := fmt.Sprintf("$.further[%d]", i)
		f.declare(at+".id", "next step", x.ID)
		if given := slices.DeleteFunc([]string{x.Circuit, x.Step, string(x.Held)}, func(s string) bool { return s == "" }); len(given) != 1 {
			f.say(at, "next step %q is the test of another circuit (circuit), a step of this one (step), or a hold (held): give one of the three", x.ID)
		}
		if x.Step != "" && !slices.ContainsFunc(f.c.Steps, func(s Step) bool { return s.ID == x.Step }) {
			f.say(at+".step", "next step %q goes to %q, which is no step here", x.ID, x.Step)
		}
		if x.Circuit == f.c.ID {
			f.say(at+".circuit", "next step %q goes to this circuit itself", x.ID)
		}
	}
}

// aims looks at the pressures a step may propose.
func (f *faults) aims(at string, s Step) {
	pumped := s.Kind == Hold || s.Kind == Feed || s.Kind == Presses || s.Kind == Floor
	if pumped && len(s.Targets) == 0 && !f.c.Marked() {
		f.say(at, "step %q has no target, and no mark of the circuit to take one from", s.ID)
	}
	losses := map[string]bool{}
	for k, l := range s.Allows {
		here := fmt.Sprintf("%s.allows[%d]", at, k)
		if losses[l.ID] {
			f.say(here+".id", "step %q has two schools %q of what may be lost", s.ID, l.ID)
		}
		losses[l.ID] = true
		if l.Allow == "" {
			f.say(here, "school %q of what may be lost needs an allowance, such as 2 kPa in 1 min", l.ID)
		}
	}
	if s.Allow != "" && len(s.Allows) > 0 {
		f.say(at+".allow", "step %q tells what may be lost twice: allow, or allows, not both", s.ID)
	}
	ids := map[string]bool{}
	for k, t := range s.Targets {
		here := fmt.Sprintf("%s.targets[%d]", at, k)
		if ids[t.ID] {
			f.say(here+".id", "step %q has two targets %q", s.ID, t.ID)
		}
		ids[t.ID] = true
		switch {
		case (t.At != 0) == (t.OverMark != 0):
			f.say(here, "target %q needs a pressure (at), or one above the mark (over_mark)", t.ID)
		case t.OverMark != 0 && !f.c.Marked():
			f.say(here+".over_mark", "target %q is told above a mark, and the circuit has none", t.ID)
		case s.Most != 0 && beyond(t.At, s.Most):
			f.say(here+".at", "target %q is %s, beyond the most of this step, %s", t.ID, showPa(t.At), showPa(s.Most))
		}
	}
}

// beyond reports whether a pressure lies further from ambient than another of its sign.
func beyond(p, most Pressure) bool {
	return p > 0 && p > most || p < 0 && p < -max(most, -most)
}

// need is what a kind of step cannot do without.
type need struct {
	what string
	has  func(Step) bool
}

var needs = map[Kind][]need{
	Feed:       {{"the flow that may leave (allowed)", func(s Step) bool { return s.Allowed > 0 }}},
	Presses:    {{"how many presses", func(s Step) bool { return s.Presses > 0 }}, {"the way each moves the needle, up or down", func(s Step) bool { return s.Way == "up" || s.Way == "down" }}},
	Floor:      {{"how far from the mark it may lift (tolerance)", func(s Step) bool { return s.Tolerance > 0 }}},
	TimedFall:  {{"the pressure down to which it is timed (to)", func(s Step) bool { return s.To > 0 }}, {"a window of two times that runs upwards (within)", func(s Step) bool { return s.Within[0] < s.Within[1] }}, {"the lag allowed between near and far", func(s Step) bool { return s.Lag > 0 }}},
	CrossWatch: {{"the chamber that must not move (watch)", func(s Step) bool { return s.Watch != "" }}, {"for how long it is watched (over)", func(s Step) bool { return s.Over > 0 }}},
	Round:      {{"what is looked at (looks)", func(s Step) bool { return len(s.Looks) > 0 }}},
	Values:     {{"the unit its values are read in", func(s Step) bool { return s.Unit != "" }}, {"its values", func(s Step) bool { return len(s.Values) > 0 || s.Each != nil }}},
	Charge:     {{"how far it may be from the figure (tolerance, or percent)", func(s Step) bool { return s.Tolerance > 0 || s.Percent > 0 }}},
	Tighten:    {{"its bolts, row by row", func(s Step) bool { return s.Bolts != nil && len(s.Bolts.Rows) > 0 }}},
	Checklist:  {{"something to tick", func(s Step) bool { return len(s.Ticks) > 0 }}},
}

// reached looks for chambers that no test touches, not even from across parts.
func (f *faults) reached() {
	c := f.c
	touched := map[string]bool{}
	for _, s := range c.Tests() {
		p := c.Pressed(s)
		for _, id := range p.Chambers {
			touched[id] = true
		}
		touched[s.Watch] = true
	}
	for grown := true; grown; {
		grown = false
		for _, p := range c.Parts {
			if a, b := p.Between[0], p.Between[1]; a != Outside && b != Outside && touched[a] != touched[b] {
				touched[a], touched[b], grown = true, true, true
			}
		}
	}
	for i, ch := range c.Chambers {
		if !touched[ch.ID] {
			f.say(fmt.Sprintf("$.chambers[%d].id", i), "no step reaches chamber %q: give it a port that a step uses, a part that joins it, or take it out", ch.ID)
		}
	}
}

func (c *Circuit) chamberIDs() []string {
	var out []string
	for _, ch := range c.Chambers {
		out = append(out, ch.ID)
	}
	return out
}
