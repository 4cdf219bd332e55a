package circuit

import (
	"slices"
	"strings"
	"testing"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

func sound() Circuit {
	return Circuit{
		ID: "loop", Mark: Mark{On: "cap", Accept: [2]Pressure{20e3, 250e3}, Certain: [2]Pressure{50e3, 200e3}},
		Chambers: []Chamber{{ID: "water", Holds: "liquid", Volume: 7e-3, TrappedAir: 6e-4}, {ID: "bores", Holds: "gas", Open: true}},
		Ports:    []Port{{ID: "filler", Chamber: "water"}},
		Parts: []Part{
			{ID: "hose", Between: [2]string{"water", Outside}, Odds: 3, Limit: quantity.Pa(250e3)},
			{ID: "tank", Between: [2]string{"water", Outside}, Odds: 1, Limit: quantity.Pa(230e3)},
			{ID: "gasket", Between: [2]string{"water", "bores"}, Odds: 1},
			{ID: "cap", Between: [2]string{"water", Outside}, Removed: true, Limit: quantity.Pa(110e3)},
		},
	}
}

func TestSuspectsAndTheWeakestPart(t *testing.T) {
	c := sound()
	if f := c.Faults(); len(f) > 0 {
		t.Fatal(f)
	}
	p := c.Pressed(c.Tests()[0])
	if got := len(p.Suspects); got != 3 {
		t.Errorf("%d suspects; the removed cap is none", got)
	}
	if part, ok := p.Weakest(); !ok || part.ID != "tank" {
		t.Errorf("weakest is %v", part)
	}
	if c.Tested().ID != "water" {
		t.Errorf("tested %v", c.Tested())
	}
}

// A crankcase joined to its cylinder, with openings, an escape that is meant, and
// a valve that a step shuts.
func TestAirGoesWhereItIsOpen(t *testing.T) {
	c := Circuit{
		Chambers: []Chamber{{ID: "case", Holds: "gas", Volume: 1e-4}, {ID: "cylinder", Holds: "gas", Volume: 1e-4}, {ID: "tank", Holds: "gas", Volume: 1e-3}},
		Ports:    []Port{{ID: "impulse", Chamber: "case"}, {ID: "plug", Chamber: "cylinder"}},
		Parts: []Part{
			{ID: "transfer", Between: [2]string{"case", "cylinder"}, Joins: true},
			{ID: "seal", Between: [2]string{"case", Outside}, Odds: 1},
			{ID: "exhaust", Between: [2]string{"cylinder", Outside}, Opening: true, Close: "a plate", Limit: 50e3},
			{ID: "decompressor", Between: [2]string{"cylinder", Outside}, Opening: true, ClosedBy: "its own valve"},
			{ID: "bleed", Between: [2]string{"case", "tank"}, Meant: 1e-6, MeantAt: 40e3},
			{ID: "primer", Between: [2]string{"case", Outside}, Odds: 1, With: []string{"primer"}},
		},
		Options: []Option{{ID: "primer", Title: "primer"}},
		Steps: []Step{
			{ID: "whole", Kind: Hold, Targets: []Target{{ID: "a", At: 40e3}}},
			{ID: "cylinder-alone", Kind: Hold, Port: "plug", Shut: []string{"transfer"}, Targets: []Target{{ID: "a", At: 40e3}}},
			{ID: "exhaust-off", Kind: Feed, Port: "plug", Shut: []string{"transfer"}, Open: []string{"exhaust"}, Targets: []Target{{ID: "a", At: 40e3}}, Allowed: 1e-4},
		},
	}
	if f := c.Faults(); len(f) > 0 {
		t.Fatal(f)
	}
	names := func(parts []Part) (out []string) {
		for _, p := range parts {
			out = append(out, p.ID)
		}
		return out
	}
	whole := c.Pressed(c.Steps[0])
	if !slices.Equal(whole.Chambers, []string{"case", "cylinder"}) || !slices.Equal(names(whole.Suspects), []string{"seal", "primer"}) || !slices.Equal(names(whole.Meant), []string{"bleed"}) {
		t.Errorf("the whole: %v, suspects %v, meant %v", whole.Chambers, names(whole.Suspects), names(whole.Meant))
	}
	if n := whole.Closures; len(n) != 2 || n[0].Already || !n[1].Already {
		t.Errorf("to be closed: %+v", n)
	}
	if w, ok := whole.Weakest(); !ok || w.ID != "exhaust" {
		t.Errorf("the plate at the exhaust is the weakest, not %v", w.ID)
	}
	alone := c.Pressed(c.Steps[1])
	if !slices.Equal(alone.Chambers, []string{"cylinder"}) || !slices.Equal(names(alone.Suspects), []string{"transfer"}) {
		t.Errorf("the cylinder alone: %v, suspects %v", alone.Chambers, names(alone.Suspects))
	}
	off := c.Pressed(c.Steps[2])
	if len(off.Closures) != 1 || len(off.Suspects) != 2 {
		t.Errorf("what a step leaves open is no closure: %+v", off)
	}
	if got := len(c.Fitted(c.AsRule()).Parts); got != 5 {
		t.Errorf("%d parts without a primer, want 5", got)
	}
	if got := c.Room(c.Steps[0]); got != 2e-4 {
		t.Errorf("room %v", got)
	}
}

func TestEveryFaultIsNamed(t *testing.T) {
	for says, break_ := range map[string]func(*Circuit){
		`"nowhere", which is no chamber`:                 func(c *Circuit) { c.Parts[0].Between[1] = "nowhere" },
		"every id once":                                  func(c *Circuit) { c.Parts[0].ID = "tank" },
		"no odds":                                        func(c *Circuit) { c.Parts[0].Odds = 0 },
		"same space on both sides":                       func(c *Circuit) { c.Parts[0].Between[1] = "water" },
		"nowhere to fit a rig":                           func(c *Circuit) { c.Ports = nil },
		"opens into":                                     func(c *Circuit) { c.Ports[0].Chamber = "gone" },
		"more air than it has room for":                  func(c *Circuit) { c.Chambers[0].TrappedAir = 1 },
		"liquid or gas":                                  func(c *Circuit) { c.Chambers[0].Holds = "steam" },
		"run upwards":                                    func(c *Circuit) { c.Mark.Accept[0] = 300e3 },
		"one or the other":                               func(c *Circuit) { c.Parts[2].Opening, c.Parts[2].Joins = true, true },
		"says with what it is":                           func(c *Circuit) { c.Parts[0].Joins = true },
		"with what it is closed for a test":              func(c *Circuit) { c.Parts[0].Opening = true },
		"but is no opening":                              func(c *Circuit) { c.Parts[0].Close = "a plug" },
		"says no pressure at":                            func(c *Circuit) { c.Parts[3].Reseats = 1e5 },
		"would reseat at 120.0 kPa, above the 110.0 kPa": func(c *Circuit) { c.Parts[3].Lifts, c.Parts[3].Reseats = 110e3, 120e3 },
		"meant_at":                                       func(c *Circuit) { c.Parts[0].Meant = 1 },
		"only that can be squeezed":                      func(c *Circuit) { c.Chambers[0].TrappedAir = 0 },
		"no volume":                                      func(c *Circuit) { c.Chambers[0].Volume, c.Chambers[0].TrappedAir = 0, 0 },
		"no fitting known":                               func(c *Circuit) { c.Ports[0].Fittings = []terms.Fitting{"string and tape"} },
		"not what it stands on":                          func(c *Circuit) { c.Mark.On = "" },
		"is not declared":                                func(c *Circuit) { c.Parts[0].With = []string{"horn"} },
		"no kind of step":                                func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: "guess"}} },
		"no step before it":                              func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: Hold, After: []string{"none"}}} },
		"no port here":                                   func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: Hold, Port: "none"}} },
		"no part here":                                   func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: Hold, Open: []string{"none"}}} },
		"no mark of the circuit":                         func(c *Circuit) { c.Mark, c.Steps = Mark{}, []Step{{ID: "one", Kind: Hold}} },
		"needs a pressure (at)":                          func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: Hold, Targets: []Target{{ID: "a"}}}} },
		"beyond the most": func(c *Circuit) {
			c.Steps = []Step{{ID: "one", Kind: Hold, Most: -34e3, Targets: []Target{{ID: "a", At: -50e3}}}}
		},
		"two targets": func(c *Circuit) {
			c.Steps = []Step{{ID: "one", Kind: Hold, Targets: []Target{{ID: "a", At: 1e3}, {ID: "a", At: 2e3}}}}
		},
		"of kind timed-fall, needs the pressure": func(c *Circuit) { c.Steps = []Step{{ID: "one", Kind: TimedFall}} },
		"no step reaches":                        func(c *Circuit) { c.Chambers = append(c.Chambers, Chamber{ID: "sump", Holds: "gas", Volume: 1}) },
		"what it gives":                          func(c *Circuit) { c.Chambers[0].Gives = []Give{{}} },
	} {
		c := sound()
		break_(&c)
		found := false
		for _, f := range c.Faults() {
			found = found || strings.Contains(f.Says, says) && strings.HasPrefix(f.Path, "$")
		}
		if !found {
			t.Errorf("want %q, got %q", says, c.Faults())
		}
	}
}

// The holds of a housing in the order of the fewest changes: a lever is left where it
// is, what must come first does, and the caution stands before whichever is first.
func TestTheFewestChanges(t *testing.T) {
	hold := func(id, port string, after []string, state ...string) Step {
		return Step{ID: id, Title: id, Kind: Hold, Port: port, After: after, State: state, Targets: []Target{{ID: "usual", At: 100e3}}}
	}
	c := Circuit{
		Chambers: []Chamber{{ID: "a", Volume: 1e-4}, {ID: "b", Volume: 1e-4}}, Ports: []Port{{ID: "in", Chamber: "a", Title: "inlet"}, {ID: "ram", Chamber: "b", Title: "ram"}},
		Parts:   []Part{{ID: "check", Title: "Check", Between: [2]string{"a", "b"}}, {ID: "mouth", Title: "Mouth", Between: [2]string{"b", Outside}, Opening: true, Close: "tapped plug"}},
		Matters: []Matter{{ID: "order", Kind: "order", Title: "Order", Schools: []Way{{ID: "fewest", Fewest: true}, {ID: "told"}}}},
		Steps:   []Step{{ID: "set-up", Kind: Checklist}, hold("neutral", "in", nil, "lever neutral"), hold("lift", "in", []string{"neutral"}, "lever at lift"), hold("ram", "ram", nil, "lever neutral"), hold("ram-lift", "ram", nil, "lever at lift")},
	}
	c.Steps[1].Cautions = []Item{{ID: "thrust"}}
	ids := func(c Circuit) (out []string, changes int) {
		for _, s := range c.Steps {
			out, changes = append(out, s.ID), changes+len(c.ChangesBefore(s))
		}
		return out, changes
	}
	told, many := ids(c.By(map[string]string{"order": "told"}))
	few := c.By(nil)
	order, least := ids(few)
	if least >= many || many != 5 || least != 3 || order[0] != "set-up" || told[1] != "neutral" {
		t.Errorf("as told %v, %d changes; fewest %v, %d", told, many, order, least)
	}
	if slices.Index(order, "lift") < slices.Index(order, "neutral") {
		t.Errorf("lift comes before what it comes after: %v", order)
	}
	// A list between two holds keeps its place, and what waits for it stays behind it.
	gated := c
	gated.Steps = slices.Insert(slices.Clone(c.Steps), 3, Step{ID: "look", Kind: Checklist, After: []string{"ram"}})
	gated.Steps[5].After = []string{"look"}
	got, _ := ids(gated.By(nil))
	at := func(id string) int { return slices.Index(got, id) }
	if at("look") != 3 || at("ram") > at("look") || at("ram-lift") < at("look") || at("lift") < at("neutral") || at("set-up") != 0 {
		t.Errorf("with a list between: %v", got)
	}
	if got := few.Steps[1].Cautions; len(got) != 1 || got[0].ID != "thrust" {
		t.Errorf("first is %s, with cautions %v", few.Steps[1].ID, got)
	}
	for _, x := range []struct {
		from, to int
		want     string
	}{
		{1, 3, "air in at the ram; mouth shut: tapped plug"},
		{1, 2, "lever at lift"},
		{3, 4, "lever at lift"},
		{4, 1, "air in at the inlet; lever neutral"},
	} {
		if got := strings.Join(c.Changes(c.Steps[x.from], c.Steps[x.to]), "; "); got != x.want {
			t.Errorf("%s to %s: %q, want %q", c.Steps[x.from].ID, c.Steps[x.to].ID, got, x.want)
		}
	}
	open := c.Steps[1]
	open.Open = []string{"mouth"}
	if got := c.Changes(open, c.Steps[3]); !slices.Contains(got, "mouth shut again: tapped plug") {
		t.Errorf("after an open mouth: %v", got)
	}
}

// The holds of eight passages in every order take no longer than a page may.
func BenchmarkFewestChanges(b *testing.B) {
	c := Circuit{Chambers: []Chamber{{ID: "a"}, {ID: "b"}}, Ports: []Port{{ID: "in", Chamber: "a"}, {ID: "ram", Chamber: "b"}}, Matters: []Matter{{Schools: []Way{{ID: "fewest", Fewest: true}}}}}
	for i := range mostPermuted {
		c.Steps = append(c.Steps, Step{ID: string(rune('a' + i)), Kind: Hold, Port: []string{"in", "ram"}[i%2], State: []string{string(rune('p' + i%3)), string(rune('x' + i%4))}})
	}
	for b.Loop() {
		c.By(nil)
	}
}
