package circuit

import (
	"slices"
	"testing"
)

// A case and its cylinder joined by the piston at the bottom, an intake behind a reed, a part
// that the pressure reaches at the top only.
func crankcase() Circuit {
	target := []Target{{ID: "a", At: 45e3}}
	return Circuit{
		Positions: []Position{{ID: "piston", Title: "Piston", States: []PositionState{{ID: "bottom", Title: "at the bottom"}, {ID: "top", Title: "at the top"}}}},
		Chambers:  []Chamber{{ID: "case", Title: "case", Holds: "gas", Volume: 1e-4}, {ID: "cylinder", Holds: "gas", Volume: 1e-4}, {ID: "duct", Holds: "gas", Volume: 1e-5}, {ID: "bore", Holds: "gas", Open: true}},
		Ports:     []Port{{ID: "stub", Chamber: "case"}, {ID: "plug-hole", Chamber: "cylinder", Title: "plug's hole", Close: "a stopper"}},
		Parts: []Part{
			{ID: "transfers", Between: [2]string{"case", "cylinder"}, OpenAt: []string{"bottom"}},
			{ID: "reed", Between: [2]string{"duct", "case"}, OneWay: true},
			{ID: "boot", Title: "Boot", Between: [2]string{"duct", Outside}, Odds: 5},
			{ID: "intake", Between: [2]string{"duct", Outside}, Opening: true, Close: "a plate"},
			{ID: "seal", Title: "Seal", Between: [2]string{"case", Outside}, Odds: 6},
			{ID: "skirt", Between: [2]string{"case", Outside}, Odds: 1, At: []string{"top"}},
			{ID: "head", Between: [2]string{"cylinder", Outside}, Odds: 2},
			{ID: "rings", Between: [2]string{"cylinder", "bore"}, Joins: true},
		},
		Steps: []Step{
			{ID: "pressure", Kind: Hold, At: []string{"bottom"}, Targets: target},
			{ID: "top", Kind: Hold, At: []string{"top"}, Targets: target},
			{ID: "vacuum", Kind: Hold, At: []string{"bottom"}, Most: -34e3, Targets: []Target{{ID: "a", At: -30e3}}},
		},
		Acts: []Act{
			{ID: "down", Title: "Piston to the top", Does: RunIt, Step: "pressure", Shuts: []string{"transfers"}, Takes: 60, Answers: []Answer{{Seen: Stops, Says: "Above."}, {Seen: Same, Says: "Below."}}},
			{ID: "grease", Title: "Grease at the lip", Does: WetIt, Hands: []string{"seal"}, Takes: 60, Answers: []Answer{{Seen: Stops, Points: []string{"seal"}, Says: "The lip."}}},
		},
	}
}

func suspectsOf(c *Circuit, step string) []string {
	s, _ := c.Test(step)
	var out []string
	for _, p := range c.Pressed(s).Suspects {
		out = append(out, p.ID)
	}
	return out
}

// How a piston stands and which sign is drawn decides what a step tries: a reed holds under
// pressure and opens under vacuum, so that the boot behind it is tried by one of them only.
func TestPositionsAndSignsDecideWhatIsTried(t *testing.T) {
	c := crankcase()
	if f := c.Faults(); len(f) > 0 {
		t.Fatal(f)
	}
	for step, want := range map[string][]string{"pressure": {"seal", "head"}, "top": {"seal", "skirt"}, "vacuum": {"boot", "seal", "head"}} {
		if got := suspectsOf(&c, step); !slices.Equal(got, want) {
			t.Errorf("%s tries %v, want %v", step, got, want)
		}
	}
	s, _ := c.Test("pressure")
	in := c.Pressed(s)
	if len(in.Meant) != 1 || in.Meant[0].ID != "rings" || slices.Contains(in.Chambers, "bore") {
		t.Errorf("a space at ambient is under pressure: %v, meant %v", in.Chambers, in.Meant)
	}
	if n := in.Closures; len(n) != 1 || n[0].Part.ID != "port-plug-hole" || n[0].Part.Close != "a stopper" {
		t.Errorf("the port that is not fed: %+v", n)
	}
	if got := c.StateOf(s); !slices.Equal(got, []string{"Piston: at the bottom"}) {
		t.Errorf("%v", got)
	}
	if c.Vented("duct", s) || !c.Vented("bore", s) || !c.Vented(Outside, s) {
		t.Error("a leak into the shut duct only fills it; into a bore it goes on")
	}
}

// What an act cuts off follows from the graph, and its answers point there.
func TestAnActCutsOffWhatTheGraphSays(t *testing.T) {
	c := crankcase()
	s, _ := c.Test("pressure")
	a := c.Acts[0]
	if got := c.CutOff(a, s); !slices.Equal(got, []string{"head"}) {
		t.Errorf("cut off: %v", got)
	}
	if got := c.Points(a, a.Answers[0], s); !slices.Equal(got, []string{"head"}) {
		t.Errorf("it stops: %v", got)
	}
	if got := c.Points(a, a.Answers[1], s); !slices.Equal(got, []string{"seal", OfTheRig}) {
		t.Errorf("the same: %v", got)
	}
	if got := c.CutOff(Act{Leaves: []string{"head"}}, s); !slices.Equal(got, []string{"seal"}) {
		t.Errorf("all but the head: %v", got)
	}
	vacuum, _ := c.Test("vacuum")
	if got := c.ActsOf(vacuum); len(got) != 1 || got[0].ID != "grease" {
		t.Errorf("acts under vacuum: %+v", got)
	}
	for what, wrong := range map[string]func(*Circuit){
		"a part that is none":       func(c *Circuit) { c.Acts[1].Hands = []string{"lip"} },
		"an answer past the cut":    func(c *Circuit) { c.Acts[0].Answers[0].Points = []string{"seal"} },
		"the same, yet cut off":     func(c *Circuit) { c.Acts[0].Answers[1].Points = []string{"head"} },
		"nothing is cut off":        func(c *Circuit) { c.Acts[0].Shuts = []string{"seal"} },
		"everything is cut off":     func(c *Circuit) { c.Acts[1].Cuts = []string{"seal", "head", "boot", "skirt"} },
		"a state that is none":      func(c *Circuit) { c.Steps[0].At = []string{"middle"} },
		"two states at once":        func(c *Circuit) { c.Steps[0].At = []string{"bottom", "top"} },
		"below itself":              func(c *Circuit) { c.Parts[4].Below = []string{"seal"} },
		"held by no tick":           func(c *Circuit) { c.Parts[4].Stop = "bar" },
		"a change that is none":     func(c *Circuit) { c.Parts[4].Changes = map[Change]float64{"wet": 2} },
		"opens and holds both ways": func(c *Circuit) { c.Parts[1].BothWays = true },
		"said twice of a port":      func(c *Circuit) { c.Ports[1].ClosedBy = "the plug" },
		"an imitator of nothing":    func(c *Circuit) { c.Imitators = []Imitator{{ID: "x", Says: "Looks alike."}} },
	} {
		c := crankcase()
		wrong(&c)
		if len(c.Faults()) == 0 {
			t.Errorf("%s is taken", what)
		}
	}
}
