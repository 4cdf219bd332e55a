// Package passages works out which isolation tests a housing allows: air into one bore, others plugged, each lever
// in a stated place. From the graph of a circuit follow what a test pressurises, which seals it tries, and where a
// leak of each would come out; from those the cheapest set and order that tells every seal from every other.
package passages

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Unseen is where a leak comes out that nothing lets out: the needle falls, and no place shows it.
const Unseen = "unseen"

// atItself stands before the id of a seal whose leak shows at the seal: it stands to the air.
const atItself = "at "

// What a test and its set-up take, minutes: shop practice on a bench, with everything at hand.
const (
	HoldMinutes   = 4.0 // pump, settle, soap, listen at each outlet
	needleMinutes = 6.0 // longer, where only the needle would show a leak
	meantMinutes  = 2.0 // longer, where a leak comes out beside an escape that is meant: more than that must be heard or read
	feedMinutes   = 2.0 // the rig out of one bore and into another
	plugMinutes   = 1.5 // a plug or blank put in, or taken out
	leverMinutes  = 0.5 // a lever, spool or selector put elsewhere
	workMinutes   = 1.0 // a valve held open or shut by hand or by a spring
)

// Bounds of what is tried: a file with more keeps to its own steps and to each position on its own.
const (
	mostStates = 64 // ways for all levers to stand
	mostWorked = 4  // valves that a step works by hand
)

// Test is one isolation test.
type Test struct {
	Step    circuit.Step // as a step: its port, positions, and what is worked or left open
	Own     string       // the id of the circuit's own step that it is; empty: none
	Pressed circuit.Pressed
	Out     map[string]string // of each seal it tries: the place where its leak would show
	MeantAt []string          // places, likewise, at which an escape that is meant comes out
	setup   setup
}

// setup is how everything stands.
type setup struct {
	feed   string   // port; empty: no rig is on
	plugs  []string // openings shut by hand, in order
	worked []string // parts worked, each with open or shut
	levers []string // the state of each position, in the circuit's order
}

// Minutes is what the test itself takes, its set-up aside.
func (t Test) Minutes() float64 {
	minutes := HoldMinutes
	for _, at := range t.Out {
		if at == Unseen {
			return HoldMinutes + needleMinutes
		}
		if slices.Contains(t.MeantAt, at) {
			minutes = HoldMinutes + meantMinutes
		}
	}
	return minutes
}

// found is how a circuit stands before and after.
func found(c *circuit.Circuit) setup {
	var s setup
	for _, p := range c.Positions {
		s.levers = append(s.levers, p.States[0].ID)
	}
	return s
}

// minutes is what it takes to come from one set-up to another. It never pays to go by a third.
func (s setup) minutes(to setup) float64 {
	sum := plugMinutes*differ(s.plugs, to.plugs) + workMinutes*differ(s.worked, to.worked)
	for i := range s.levers {
		if s.levers[i] != to.levers[i] {
			sum += leverMinutes
		}
	}
	if s.feed != to.feed {
		sum += feedMinutes / 2
		if s.feed != "" && to.feed != "" {
			sum += feedMinutes / 2
		}
	}
	return sum
}

// differ counts what is in one of two sorted lists only.
func differ(a, b []string) float64 {
	n := 0
	for len(a) > 0 && len(b) > 0 {
		switch strings.Compare(a[0], b[0]) {
		case 0:
			a, b = a[1:], b[1:]
		case -1:
			a, n = a[1:], n+1
		default:
			b, n = b[1:], n+1
		}
	}
	return float64(n + len(a) + len(b))
}

// Tests are the isolation tests of a circuit, each different in its set-up or in what it shows. Those that are a
// step of the circuit's own name it.
func Tests(c *circuit.Circuit) []Test {
	var out []Test
	seen := map[string]bool{}
	for _, port := range c.Ports {
		if ch, ok := c.Chamber(port.Chamber); ok && ch.Open {
			continue // nothing stays in it
		}
		for _, levers := range ways(c) {
			for _, w := range works(c) {
				t := one(c, port, levers, w)
				if len(t.Out) == 0 {
					continue
				}
				if key := t.key(); !seen[key] {
					seen[key] = true
					out = append(out, t)
				}
			}
		}
	}
	return out
}

// ways are the states in which all levers can stand together: every one, or where they are too many each lever
// moved on its own.
func ways(c *circuit.Circuit) [][]string {
	all := [][]string{nil}
	for _, p := range c.Positions {
		var next [][]string
		for _, w := range all {
			for _, s := range p.States {
				next = append(next, append(slices.Clone(w), s.ID))
			}
		}
		if all = next; len(all) > mostStates {
			break
		}
	}
	if len(all) <= mostStates {
		return all
	}
	as := found(c).levers
	out := [][]string{as}
	for i, p := range c.Positions {
		for _, s := range p.States[1:] {
			moved := slices.Clone(as)
			moved[i] = s.ID
			out = append(out, moved)
		}
	}
	return out
}

// work is what is held open or shut by hand.
type work struct{ open, shut []string }

// works are the ways in which the circuit's own steps under pressure work valves, each with and without.
func works(c *circuit.Circuit) []work {
	out := []work{{}}
	add := func(id string, shut bool) {
		if len(out) >= 1<<mostWorked {
			return
		}
		for _, w := range out {
			if slices.Contains(w.open, id) || slices.Contains(w.shut, id) {
				return // worked already, one way or the other
			}
		}
		for _, w := range slices.Clone(out) {
			if shut {
				w.shut = append(slices.Clone(w.shut), id)
			} else {
				w.open = append(slices.Clone(w.open), id)
			}
			out = append(out, w)
		}
	}
	for _, s := range c.Steps {
		if !s.Kind.Pressurises() {
			continue
		}
		for _, id := range s.Open {
			if slices.ContainsFunc(c.Parts, func(p circuit.Part) bool { return p.ID == id && !p.Opening }) {
				add(id, false)
			}
		}
		for _, id := range s.Shut {
			add(id, true)
		}
	}
	return out
}

// one is the test with air into a port. What bounds the pressure is shut; every other way to the air stands open,
// so that what leaks is heard and seen.
func one(c *circuit.Circuit, port circuit.Port, levers []string, w work) Test {
	s := circuit.Step{Kind: circuit.Hold, Port: port.ID, At: levers, Open: slices.Clone(w.open), Shut: slices.Clone(w.shut)}
	t := Test{Pressed: c.Pressed(s), Out: map[string]string{}, setup: setup{feed: port.ID, levers: levers}}
	in := map[string]bool{}
	for _, ch := range t.Pressed.Chambers {
		in[ch] = true
	}
	for _, cl := range t.Pressed.Closures {
		if cl.Part.ID != port.Mouth {
			t.setup.plugs = append(t.setup.plugs, cl.Part.ID)
		}
	}
	slices.Sort(t.setup.plugs)
	for _, p := range c.Parts {
		if p.Opening && !p.Removed && p.LeftOpen == "" && toAir(p) && !in[p.Between[0]] && !in[p.Between[1]] {
			s.Open = append(s.Open, p.ID)
		}
	}
	for _, id := range w.open {
		t.setup.worked = append(t.setup.worked, id+" open")
	}
	for _, id := range w.shut {
		t.setup.worked = append(t.setup.worked, id+" shut")
	}
	slices.Sort(t.setup.worked)
	t.Step = s
	for _, p := range t.Pressed.Suspects {
		if p.Odds > 0 {
			t.Out[p.ID] = comesOut(c, s, p, in)
		}
	}
	for _, p := range t.Pressed.Meant {
		if at := comesOut(c, s, p, in); !slices.Contains(t.MeantAt, at) {
			t.MeantAt = append(t.MeantAt, at)
		}
	}
	t.Own = own(c, t)
	return t
}

func toAir(p circuit.Part) bool {
	return p.Between[0] == circuit.Outside || p.Between[1] == circuit.Outside
}

// comesOut is where the leak of a seal shows: at the seal itself where it stands to the air, else at the nearest chamber
// behind it that has a way to the air. Farther ones stand at the shop's pressure like that one: nothing drives air there.
func comesOut(c *circuit.Circuit, s circuit.Step, p circuit.Part, in map[string]bool) string {
	far := p.Between[0]
	if in[far] {
		far = p.Between[1]
	}
	if far == circuit.Outside {
		return atItself + p.ID
	}
	reached := []string{far}
	for i := 0; i < len(reached); i++ {
		at := reached[i]
		if ch, _ := c.Chamber(at); lets(c, ch, s) {
			return at
		}
		for _, x := range c.Parts {
			to := x.Between[0]
			if to == at {
				to = x.Between[1]
			}
			if x.Between[0] != at && x.Between[1] != at || x.Removed || toAir(x) || !x.Passes(s) || in[to] || slices.Contains(reached, to) {
				continue
			}
			if !x.OneWay || at == x.Between[0] || x.Forced(s) {
				reached = append(reached, to)
			}
		}
	}
	return Unseen
}

// lets reports whether a chamber has a way to the air in a step.
func lets(c *circuit.Circuit, ch circuit.Chamber, s circuit.Step) bool {
	if ch.Open {
		return true
	}
	for _, p := range c.Parts {
		if (p.Between[0] == ch.ID || p.Between[1] == ch.ID) && p.Opening && toAir(p) && (p.LeftOpen != "" || slices.Contains(s.Open, p.ID)) {
			return true
		}
	}
	return slices.ContainsFunc(c.Ports, func(p circuit.Port) bool {
		return p.Chamber == ch.ID && p.ID != s.Port && p.ClosedBy == "" && p.Mouth == "" && (p.Close != "" || p.LeftOpen != "")
	})
}

// own is the circuit's step that pressurises the same by the same port, with the same worked and no lever elsewhere.
func own(c *circuit.Circuit, t Test) string {
	for _, s := range c.Steps {
		if !s.Kind.Pressurises() || s.Port != t.Step.Port {
			continue
		}
		theirs := c.Pressed(s)
		same := func(a, b []string) bool {
			a, b = slices.Clone(a), slices.Clone(b)
			slices.Sort(a)
			slices.Sort(b)
			return slices.Equal(a, b)
		}
		ids := func(all []circuit.Part) (out []string) {
			for _, p := range all {
				out = append(out, p.ID)
			}
			return out
		}
		if same(theirs.Chambers, t.Pressed.Chambers) && same(ids(theirs.Suspects), ids(t.Pressed.Suspects)) &&
			!slices.ContainsFunc(s.At, func(id string) bool { return stateOf(c, id) && !slices.Contains(t.Step.At, id) }) {
			return s.ID
		}
	}
	return ""
}

// stateOf reports whether a state belongs to a lever that is fitted.
func stateOf(c *circuit.Circuit, id string) bool {
	return slices.ContainsFunc(c.Positions, func(p circuit.Position) bool {
		return slices.ContainsFunc(p.States, func(s circuit.PositionState) bool { return s.ID == id })
	})
}

// key is a test's set-up and what it shows: of two alike one is enough.
func (t Test) key() string {
	var shows []string
	for id, at := range t.Out {
		shows = append(shows, id+">"+at)
	}
	slices.Sort(shows)
	return fmt.Sprint(t.setup, shows)
}
