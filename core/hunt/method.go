// Package hunt says where to look for a leak: which methods can see one of its
// size, and what a look is worth.
package hunt

import (
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// Method is a way to find where it goes. What it can see are priors of the trade
// (PHYSICS §11), which a shop may edit.
type Method struct {
	ID          string     `yaml:"id" json:"id"`
	Title       string     `yaml:"title" json:"title"`
	LeastGas    flow       `yaml:"least_gas" json:"least_gas_m3_ps"`       // standard flow of gas it sees half of the time; 0: it sees no gas
	LeastLiquid flow       `yaml:"least_liquid" json:"least_liquid_m3_ps"` // flow of liquid; 0: it sees none
	Takes       quantity.S `yaml:"takes" json:"takes_s"`                   // at a part that is reached
	Waits       quantity.S `yaml:"waits" json:"waits_s"`                   // until it shows, with hands free
	NeverOil    bool       `yaml:"never_oil" json:"never_oil"`             // oil under pressure is injected through skin
	Shows       string     `yaml:"shows" json:"shows"`                     // what is noticed
	Source      string     `yaml:"source" json:"source"`
}

// flow is written with its unit in files; m³/s.
type flow float64

// UnmarshalText reads such as "0.5 cm³/s" or "0.1 mL/h".
func (f *flow) UnmarshalText(b []byte) error {
	v, err := quantity.Parse(string(b), quantity.Flow, quantity.Unit{}, quantity.StandardAtmosphere)
	if err == nil && v.Bare {
		err = fmt.Errorf("%q has no unit; type it, as in 0.5 cm³/s or 0.1 mL/h", b)
	}
	*f = flow(v.Low)
	return err
}

// surest is the chance at most that a look sees what is there: eyes miss things.
const surest = 0.95

// steep is how sharply a look goes from blind to sure about the least it sees.
const steep = 3.0

// Chance is that of seeing a leak that is there: m³/s of gas (standard) or liquid.
func (m Method) Chance(m3PerS float64, liquid bool) float64 {
	least := float64(m.LeastGas)
	if liquid {
		least = float64(m.LeastLiquid)
	}
	if least <= 0 || m3PerS <= 0 {
		return 0
	}
	return surest / (1 + math.Pow(least/m3PerS, steep))
}

// Faults says what is wrong with a method as written.
func (m Method) Faults() error {
	switch {
	case m.ID == "" || m.Title == "" || m.Shows == "":
		return fmt.Errorf("%q: a method has an id, a title and what it shows", m.ID)
	case m.LeastGas < 0 || m.LeastLiquid < 0 || m.LeastGas == 0 && m.LeastLiquid == 0:
		return fmt.Errorf("%s: say what it sees at least, of gas (such as 0.5 cm³/s) or of liquid (such as 0.1 mL/h)", m.ID)
	case m.Takes <= 0 || m.Waits < 0:
		return fmt.Errorf("%s: say how long it takes at a part, such as 1 min", m.ID)
	}
	return nil
}
