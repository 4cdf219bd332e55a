package circuit

import (
	"fmt"
	"slices"
	"strings"
)

// positions looks at what stands in one of several states, and at who names a state.
func (f *faults) positions() {
	for i, p := range f.c.Positions {
		at := fmt.Sprintf("$.positions[%d]", i)
		f.declare(at+".id", "position", p.ID)
		if len(p.States) < 2 {
			f.say(at+".states", "position %q has fewer than two states: there is nothing to set", p.ID)
		}
		f.wanted(at, p.With, p.Without)
		for k, s := range p.States {
			f.declare(fmt.Sprintf("%s.states[%d].id", at, k), "state", s.ID)
			f.wanted(fmt.Sprintf("%s.states[%d]", at, k), s.With, s.Without)
		}
	}
	known := func(at string, list []string) {
		for k, id := range list {
			if _, _, ok := f.c.positionOf(id); !ok {
				f.say(fmt.Sprintf("%s[%d]", at, k), "%q is no state of a position here; there is %s", id, strings.Join(append(f.stateIDs(), "none more"), ", "))
			}
		}
	}
	for i, p := range f.c.Parts {
		at := fmt.Sprintf("$.parts[%d]", i)
		known(at+".at", p.At)
		known(at+".open_at", p.OpenAt)
	}
	for i, s := range f.c.Steps {
		at := fmt.Sprintf("$.steps[%d].at", i)
		known(at, s.At)
		for _, p := range f.c.Positions {
			n := 0
			for _, x := range p.States {
				if slices.Contains(s.At, x.ID) {
					n++
				}
			}
			if n > 1 {
				f.say(at, "step %q puts the %s in %d states at once", s.ID, strings.ToLower(p.Title), n)
			}
		}
	}
}

func (f *faults) stateIDs() []string {
	var out []string
	for _, p := range f.c.Positions {
		for _, s := range p.States {
			out = append(out, s.ID)
		}
	}
	return out
}

// isPart reports whether an id is a part, or the rig.
func (f *faults) isPart(id string) bool {
	return id == OfTheRig || slices.ContainsFunc(f.c.Parts, func(p Part) bool { return p.ID == id })
}

// details looks at what parts say of valves, covers, places and changes.
func (f *faults) details() {
	musts := map[string]bool{}
	take := func(items []Item) {
		for _, i := range items {
			musts[i.ID] = musts[i.ID] || i.Must
		}
	}
	for _, s := range f.c.Stages {
		take(s.Ticks)
	}
	for _, s := range f.c.Steps {
		take(s.Ticks)
	}
	for i, x := range f.c.Covers {
		f.declare(fmt.Sprintf("$.covers[%d].id", i), "cover", x.ID)
	}
	for i, p := range f.c.Parts {
		at := fmt.Sprintf("$.parts[%d]", i)
		if p.OneWay && p.BothWays {
			f.say(at, "part %q opens one way and holds both ways: it is one or the other", p.ID)
		}
		if p.OpensAt > 0 && !p.OneWay {
			f.say(at+".opens_at", "part %q opens at a pressure but says no direction (one_way)", p.ID)
		}
		if p.LeftOpen != "" && (!p.Opening || p.Close != "") {
			f.say(at+".left_open", "part %q stays open, so it is an opening that nothing shuts", p.ID)
		}
		if p.Stop != "" && !musts[p.Stop] {
			f.say(at+".stop", "part %q is held by the tick %q, which is no tick here that must be made", p.ID, p.Stop)
		}
		for k, id := range p.Below {
			if !f.isPart(id) || id == p.ID {
				f.say(fmt.Sprintf("%s.below[%d]", at, k), "part %q stands below %q, which is no other part here", p.ID, id)
			}
		}
		for change, times := range p.Changes {
			if !slices.Contains(Changes, change) || times < 0 {
				f.say(at+".changes", "part %q changes by %q, %g times; the changes are %v, each 0 or more", p.ID, change, times, Changes)
			}
		}
		if p.Behind != "" && len(f.c.Covers) > 0 && !slices.ContainsFunc(f.c.Covers, func(x Cover) bool { return x.ID == p.Behind }) {
			f.say(at+".behind", "part %q is behind %q, which is not under covers", p.ID, p.Behind)
		}
	}
	for i, p := range f.c.Ports {
		at := fmt.Sprintf("$.ports[%d]", i)
		f.wanted(at, p.With, p.Without)
		if p.Mouth != "" && !slices.ContainsFunc(f.c.Parts, func(x Part) bool { return x.ID == p.Mouth && x.Opening }) {
			f.say(at+".mouth", "the mouth of port %q is %q, which is no opening among the parts", p.ID, p.Mouth)
		}
		given := slices.DeleteFunc([]string{p.Close, p.ClosedBy, p.Mouth, p.LeftOpen}, func(s string) bool { return s == "" })
		if len(given) > 1 {
			f.say(at, "port %q says more than once what becomes of it while the rig is elsewhere: one of close, closed_by, mouth, left_open", p.ID)
		}
	}
}

// acts looks at what may be done under pressure, against the graph.
func (f *faults) acts() {
	for i, a := range f.c.Acts {
		at := fmt.Sprintf("$.acts[%d]", i)
		f.declare(at+".id", "act", a.ID)
		f.wanted(at, a.With, a.Without)
		if a.Step != "" && !slices.ContainsFunc(f.c.Tests(), func(s Step) bool { return s.ID == a.Step }) {
			f.say(at+".step", "act %q is done in step %q, which is no step here", a.ID, a.Step)
		}
		for name, list := range map[string][]string{"hands": a.Hands, "shuts": a.Shuts, "cuts": a.Cuts, "leaves": a.Leaves} {
			for k, id := range list {
				if !f.isPart(id) {
					f.say(fmt.Sprintf("%s.%s[%d]", at, name, k), "act %q names %q, which is no part here", a.ID, id)
				}
			}
		}
		seen := map[Noticed]bool{}
		for k, x := range a.Answers {
			here := fmt.Sprintf("%s.answers[%d]", at, k)
			if seen[x.Seen] {
				f.say(here+".seen", "act %q has the answer %q twice", a.ID, x.Seen)
			}
			seen[x.Seen] = true
			for n, id := range x.Points {
				if !f.isPart(id) {
					f.say(fmt.Sprintf("%s.points[%d]", here, n), "act %q points to %q, which is no part here", a.ID, id)
				}
			}
		}
	}
	for i, m := range f.c.Imitators {
		at := fmt.Sprintf("$.imitators[%d]", i)
		f.declare(at+".id", "imitator", m.ID)
		if m.Sign != "" && !slices.ContainsFunc(f.c.Signs, func(s Sign) bool { return s.ID == m.Sign }) {
			f.say(at+".sign", "imitator %q is taken for the sign %q, which is not under signs", m.ID, m.Sign)
		}
		for k, id := range m.Parts {
			if !f.isPart(id) {
				f.say(fmt.Sprintf("%s.parts[%d]", at, k), "imitator %q names %q, which is no part here", m.ID, id)
			}
		}
		if m.Sign == "" && len(m.Parts) == 0 {
			f.say(at, "imitator %q names neither a sign nor parts: it is shown nowhere", m.ID)
		}
	}
}

// cutOff looks whether what an act cuts off follows from the graph: what it shuts takes parts
// away from the gauge, some are left, and an answer that it stops points to what was taken.
func (f *faults) cutOff() {
	cuts := func(a Act) bool { return len(a.Shuts)+len(a.Cuts)+len(a.Leaves) > 0 }
	reached, said := map[string]bool{}, map[string]bool{}
	say := func(i int, place, format string, v ...any) {
		if path := fmt.Sprintf("$.acts[%d]%s", i, place); !said[path] {
			said[path] = true
			f.say(path, format, v...)
		}
	}
	if !slices.ContainsFunc(f.c.Acts, cuts) {
		return
	}
	for _, c := range f.c.Ways() {
		for _, s := range c.Tests() {
			if !s.Kind.tries() {
				continue
			}
			in := c.Pressed(s)
			there := func(id string) bool {
				return id == OfTheRig || slices.ContainsFunc(in.Suspects, func(p Part) bool { return p.ID == id })
			}
			for i, a := range f.c.Acts {
				if !cuts(a) || a.Step != "" && s.ID != a.Step {
					continue
				}
				cut := slices.DeleteFunc(slices.Clone(c.CutOff(a, s)), func(id string) bool { return !there(id) })
				if len(cut) == 0 {
					continue
				}
				reached[a.ID] = true
				if len(cut) == len(in.Suspects) {
					say(i, "", "act %q cuts off every part that %s tries: nothing is left to compare", a.ID, s.Title)
				}
				for k, x := range a.Answers {
					for _, id := range x.Points {
						isCut := slices.Contains(cut, id)
						if there(id) && (x.Seen == Stops && !isCut || x.Seen == Same && isCut) {
							say(i, fmt.Sprintf(".answers[%d].points", k), "act %q: where the fall %s it points to %q, which it %s", a.ID, map[Noticed]string{Stops: "stops", Same: "stays the same"}[x.Seen], id, map[bool]string{true: "cuts off", false: "does not cut off"}[isCut])
						}
					}
				}
			}
		}
	}
	for i, a := range f.c.Acts {
		if cuts(a) && !reached[a.ID] {
			say(i, "", "act %q cuts nothing off in any step: what it shuts does not lead to a part that is tried", a.ID)
		}
	}
}
