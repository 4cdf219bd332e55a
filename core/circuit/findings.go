package circuit

import (
	"fmt"
	"slices"
	"strings"
)

// Rule is one thing that a reader of the trade would look for in a circuit file.
type Rule string

// The rules that follow from the graph. Those that need a pressure stand in core/runsheet.
const (
	RuleUntried   Rule = "untried"   // a suspect that no step tries
	RuleDirection Rule = "direction" // a valve between two closed spaces that says no direction
	RuleOpens     Rule = "opens"     // a valve tried only in the direction in which it opens
	RuleOpening   Rule = "opening"   // an opening without a closure or a note
	RuleDeadEnd   Rule = "dead-end"  // a leak that only fills a closed space behind
	RulePosition  Rule = "position"  // a step that does not say how a lever stands
	RuleStop      Rule = "stop"      // a piston that the pressure moves, held by nothing
	RuleHazard    Rule = "hazard"    // no caution for what can hurt here
	RuleMust      Rule = "must"      // no tick that must be made for it
	RuleFill      Rule = "fill"      // not said whether it may be filled
	RuleArea      Rule = "area"      // a closure whose thrust is not known
	RuleAsked     Rule = "asked"     // figures that differ from set to set, given as one
	RuleCover     Rule = "cover"     // a cover whose price is not known
	RuleActs      Rule = "acts"      // many suspects and nothing that splits them
)

// Rules are those of this package.
func Rules() []Rule {
	return []Rule{RuleUntried, RuleDirection, RuleOpens, RuleOpening, RuleDeadEnd, RulePosition, RuleStop, RuleHazard, RuleMust, RuleFill, RuleArea, RuleAsked, RuleCover, RuleActs}
}

// Finding is what a rule found: the file is used, and a reader should look at it.
type Finding struct {
	Rule Rule   `json:"rule"`
	Path string `json:"path"` // as in Fault
	Of   string `json:"of"`   // the part, port, step or hazard, by id; empty: the whole
	Says string `json:"says"`
}

// found gathers findings.
type found struct {
	c    *Circuit
	ways []Circuit // with every option or none, by every school
	out  []Finding
}

// Findings lists what a reader of the trade would correct, as far as it follows from the file
// alone. It wants a description without faults.
func (c *Circuit) Findings() []Finding {
	f := &found{c: c, ways: c.Ways()}
	f.tried()
	f.openings()
	f.positions()
	f.hazards()
	f.figures()
	return f.out
}

// Ways is a circuit with every option fitted, with none, and with those fitted as a rule, each
// by every school of every matter.
func (c *Circuit) Ways() []Circuit {
	all, none := map[string]bool{}, map[string]bool{}
	for _, o := range c.Options {
		all[o.ID] = true
	}
	schools := []map[string]string{{}}
	for _, m := range c.Matters {
		for _, s := range m.Schools[min(1, len(m.Schools)):] {
			schools = append(schools, map[string]string{m.ID: s.ID})
		}
	}
	var out []Circuit
	for _, options := range []map[string]bool{c.AsRule(), all, none} {
		for _, chosen := range schools {
			out = append(out, c.Fitted(options).By(chosen))
		}
	}
	return out
}

func (f *found) say(rule Rule, path, of, format string, a ...any) {
	f.out = append(f.out, Finding{rule, path, of, fmt.Sprintf(format, a...)})
}

func (f *found) part(id string) string {
	return fmt.Sprintf("$.parts[%d]", slices.IndexFunc(f.c.Parts, func(p Part) bool { return p.ID == id }))
}

func (f *found) step(id string) string {
	if i := slices.IndexFunc(f.c.Steps, func(s Step) bool { return s.ID == id }); i >= 0 {
		return fmt.Sprintf("$.steps[%d]", i)
	}
	return "$"
}

// tries reports whether a step of this kind says something of the parts on its edge.
func (k Kind) tries() bool { return k.Pressurises() || k == Values }

// tried looks whether each suspect is on the edge of some step, from the side on which it must
// hold, with a way out behind it.
func (f *found) tried() {
	type trial struct{ any, vented, opened bool }
	of := map[string]*trial{}
	for _, p := range f.c.Parts {
		of[p.ID] = &trial{}
	}
	for _, c := range f.ways {
		for _, s := range c.Tests() {
			if !s.Kind.tries() {
				continue
			}
			in := c.Pressed(s)
			for _, p := range c.Parts {
				if p.OneWay && slices.Contains(in.Chambers, p.opensFrom(s)) {
					of[p.ID].opened = true
				}
			}
			for _, p := range in.Suspects {
				t, far := of[p.ID], p.Between[0]
				if slices.Contains(in.Chambers, far) {
					far = p.Between[1]
				}
				t.any = true
				t.vented = t.vented || c.Vented(far, s) || s.Kind == CrossWatch && far == s.Watch
			}
		}
	}
	for _, p := range f.c.Parts {
		if p.Odds <= 0 || p.Removed || p.Opening || p.Meant > 0 {
			continue
		}
		switch t := of[p.ID]; {
		case !t.any && t.opened:
			f.say(RuleOpens, f.part(p.ID), p.ID, "%s opens from %s to %s, and every step puts the pressure on the side from which it opens: feed it from %s", p.Title, p.Between[0], p.Between[1], p.Between[1])
		case !t.any:
			f.say(RuleUntried, f.part(p.ID), p.ID, "no step tries %s: in each of them the pressure stands on both of its sides, or on none", p.Title)
		case !t.vented:
			f.say(RuleDeadEnd, f.part(p.ID), p.ID, "a leak at %s only fills the closed space behind it and then stops: leave an opening of that space open", p.Title)
		}
		if p.OneWay || p.BothWays || p.Joins || p.Lifts > 0 || p.Kind != KindValve && p.Kind != KindNeedle {
			continue
		}
		closed := func(id string) bool { ch, ok := f.c.Chamber(id); return ok && !ch.Open }
		if closed(p.Between[0]) && closed(p.Between[1]) {
			f.say(RuleDirection, f.part(p.ID), p.ID, "%s stands between two spaces that can be under pressure and does not say which way it opens: write one_way (from the first to the second), or both_ways where it must hold from either side", p.Title)
		}
	}
}

// openings looks for ports and openings of a pressed space that nothing shuts.
func (f *found) openings() {
	said := map[string]bool{}
	for _, c := range f.ways {
		for _, s := range c.Tests() {
			if !s.Kind.tries() {
				continue
			}
			in := c.Pressed(s)
			for i, p := range f.c.Ports {
				if p.ID == in.Port.ID || said[p.ID] || !slices.Contains(in.Chambers, p.Chamber) || p.Close != "" || p.ClosedBy != "" || p.Mouth != "" {
					continue
				}
				said[p.ID] = true
				f.say(RuleOpening, fmt.Sprintf("$.ports[%d]", i), p.ID, "in %s the %s is under pressure and nothing shuts it: write with what (close), what shuts it already (closed_by), or which part is its mouth (mouth)", s.Title, p.Title)
			}
			for _, p := range c.Parts {
				left := p.Opening && p.LeftOpen != "" && (slices.Contains(in.Chambers, p.Between[0]) || slices.Contains(in.Chambers, p.Between[1]))
				if left && !said[p.ID] {
					said[p.ID] = true
					f.say(RuleOpening, f.part(p.ID), p.ID, "%s stays open, and is under pressure in %s", p.Title, s.Title)
				}
			}
		}
	}
}

// positions looks for steps that leave open how something stands on which a part depends.
func (f *found) positions() {
	for _, p := range f.c.Positions {
		ids := []string{}
		for _, s := range p.States {
			ids = append(ids, s.ID)
		}
		named := func(list []string) bool {
			return slices.ContainsFunc(list, func(id string) bool { return slices.Contains(ids, id) })
		}
		for i, s := range f.c.Steps {
			if s.Kind.tries() && !named(s.At) {
				f.say(RulePosition, fmt.Sprintf("$.steps[%d]", i), s.ID, "%s does not say how the %s stands, and parts depend on it: name one of %s in at", s.Title, strings.ToLower(p.Title), strings.Join(ids, ", "))
			}
		}
	}
	for i, p := range f.c.Parts {
		if p.Kind == KindPiston && p.Stop == "" {
			f.say(RuleStop, fmt.Sprintf("$.parts[%d]", i), p.ID, "the pressure moves %s and nothing holds it: name the tick by which it is held (stop)", p.Title)
		}
	}
}

// hazards looks for what can hurt and is not named by a caution or a tick.
func (f *found) hazards() {
	guarded := f.c.Guarded()
	for _, h := range f.c.There() {
		if !slices.Contains(guarded, h) {
			f.say(RuleHazard, "$.stages", string(h), "no caution and no tick names the hazard %q, which is here: write of: [%s] at the one that guards against it", h, h)
		}
	}
	for _, h := range []Hazard{Eyes, AtZero, Fan} {
		if slices.Contains(f.c.There(), h) && !f.c.Musts(h) {
			f.say(RuleMust, "$.stages", string(h), "no tick that must be made names %q: the job goes on without it", h)
		}
	}
	if f.c.Fill == "" {
		f.say(RuleFill, "$", "", "it does not say what it may be filled with for a test: fill: water, coolant, or never")
	}
}

// Where the figures of one set are wrong for the next, the manual's own are asked for.
var differ = []string{"hydraulic", "train"}

// large is the pressure from which the thrust on every closure matters, Pa.
const large = 60e3

// many is the number of suspects from which a look at each takes long.
const many = 4

func (f *found) figures() {
	most := 0.0
	for _, s := range f.c.Tests() {
		for _, t := range s.Targets {
			most = max(most, float64(t.At))
		}
		if slices.Contains(differ, f.c.Family) && (s.Kind == Values && !s.Asked || len(s.Targets) > 0 && slices.ContainsFunc(s.Targets, func(t Target) bool { return !t.Asked })) {
			f.say(RuleAsked, f.step(s.ID), s.ID, "the figures of %s differ widely from one machine to the next: mark them as examples (asked), so that the manual's own are asked for", s.Title)
		}
	}
	suspects := 0
	for i, p := range f.c.Parts {
		if p.Opening && p.Close != "" && p.Area == 0 && most >= large {
			f.say(RuleArea, fmt.Sprintf("$.parts[%d]", i), p.ID, "%s is shut against up to %s and its area is not known: write area, for its thrust", p.Title, showPa(Pressure(most)))
		}
		if p.Behind != "" && !slices.ContainsFunc(f.c.Covers, func(x Cover) bool { return x.ID == p.Behind }) {
			f.say(RuleCover, fmt.Sprintf("$.parts[%d]", i), p.ID, "%s is behind %q, and nothing says how long that takes: list it under covers", p.Title, p.Behind)
		}
		if p.Odds > 0 && !p.Removed && !p.Rig {
			suspects++
		}
	}
	if suspects >= many && len(f.c.Acts) == 0 {
		f.say(RuleActs, "$", "", "%d suspects and no act that splits them under pressure", suspects)
	}
}
