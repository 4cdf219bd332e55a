package circuit

import (
	"strings"
	"testing"

	"idlehiss/core/quantity"
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
	if got := len(c.Suspects("water")); got != 3 {
		t.Errorf("%d suspects; the removed cap is none", got)
	}
	if p, ok := c.WeakestPart("water"); !ok || p.ID != "tank" {
		t.Errorf("weakest is %v", p)
	}
	if c.Tested().ID != "water" {
		t.Errorf("tested %v", c.Tested())
	}
}

func TestEveryFaultIsNamed(t *testing.T) {
	for says, break_ := range map[string]func(*Circuit){
		`"nowhere", which is no chamber`: func(c *Circuit) { c.Parts[0].Between[1] = "nowhere" },
		"every id once":                  func(c *Circuit) { c.Parts[0].ID = "tank" },
		"no odds":                        func(c *Circuit) { c.Parts[0].Odds = 0 },
		"same space on both sides":       func(c *Circuit) { c.Parts[0].Between[1] = "water" },
		"nowhere to fit a rig":           func(c *Circuit) { c.Ports = nil },
		"opens into":                     func(c *Circuit) { c.Ports[0].Chamber = "gone" },
		"more air than it has room for":  func(c *Circuit) { c.Chambers[0].TrappedAir = 1 },
		"liquid or gas":                  func(c *Circuit) { c.Chambers[0].Holds = "steam" },
		"run upwards":                    func(c *Circuit) { c.Mark.Accept[0] = 300e3 },
		"what it gives":                  func(c *Circuit) { c.Chambers[0].Gives = []Give{{}} },
	} {
		c := sound()
		break_(&c)
		if got := strings.Join(c.Faults(), "\n"); !strings.Contains(got, says) {
			t.Errorf("want %q, got %q", says, got)
		}
	}
}
