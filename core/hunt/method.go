// Package hunt says where to look for a leak: which methods can see one of its
// size, and what a look is worth.
package hunt

import (
	"fmt"
	"math"
	"slices"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// Method is a way to find where it goes. What it can see are priors of the trade
// (PHYSICS §11), which a shop may edit.
type Method struct {
	ID          string      `yaml:"id" json:"id"`
	Title       string      `yaml:"title" json:"title"`
	Does        string      `yaml:"does" json:"does"`                       // in words that go on with a part: "Soap the"
	LeastGas    flow        `yaml:"least_gas" json:"least_gas_m3_ps"`       // standard flow of gas it sees half of the time; 0: it sees no gas
	LeastLiquid flow        `yaml:"least_liquid" json:"least_liquid_m3_ps"` // flow of liquid; 0: it sees none
	Takes       quantity.S  `yaml:"takes" json:"takes_s"`                   // at a part that is reached
	Waits       quantity.S  `yaml:"waits" json:"waits_s"`                   // until it shows, with hands free
	Most        quantity.Pa `yaml:"most" json:"most_pa"`                    // highest pressure at which it is offered; 0: any
	Never       []Place     `yaml:"never" json:"never"`                     // where it is not
	Only        []Place     `yaml:"only" json:"only"`                       // where alone it is, if anything stands here
	Shop        string      `yaml:"shop" json:"shop,omitempty"`             // Quiet or Noisy: only there; empty: in either
	Tool        bool        `yaml:"tool" json:"tool,omitempty"`             // not every shop has it
	ByEar       bool        `yaml:"by_ear" json:"by_ear,omitempty"`         // a loud shop drowns it
	Counts      length      `yaml:"counts" json:"counts_m"`                 // width of the bubbles that tell the flow; 0: it does not
	Shows       string      `yaml:"shows" json:"shows"`                     // what is noticed
	Source      string      `yaml:"source" json:"source"`
}

// The shops by their noise.
const (
	Quiet = "quiet"
	Noisy = "noisy"
)

// Place is what a part and its test are like, as far as a method minds.
type Place string

// The places.
const (
	UnderVacuum Place = "vacuum"       // a film is drawn in
	Inside      Place = "inside"       // in passages, where soap and water stay
	Electrics   Place = "electrics"    // near plugs, sensors, high voltage
	OnMachine   Place = "on-machine"   // cannot be dipped
	OilPressure Place = "oil-pressure" // a jet goes through skin
	NearBelts   Place = "belts"        // belts and fans
	NearFuel    Place = "fuel"         // vapour that burns
	Combustion  Place = "combustion"   // where burnt gas may be met
)

// Places are all of them.
var Places = []Place{UnderVacuum, Inside, Electrics, OnMachine, OilPressure, NearBelts, NearFuel, Combustion}

// Unsuited is why a method is not offered.
type Unsuited struct {
	Place   Place   // that forbids it, or that it needs; empty: the pressure does
	Needs   bool    // it is offered only there
	MostPa  float64 // the highest pressure at which it is
	Matters bool    // false: it is offered
}

// Suits says whether a method is offered at a pressure (Pa gauge) in such a place.
func (m Method) Suits(atPa float64, there ...Place) Unsuited {
	for _, p := range m.Never {
		if slices.Contains(there, p) {
			return Unsuited{Place: p, Matters: true}
		}
	}
	for _, p := range m.Only {
		if !slices.Contains(there, p) {
			return Unsuited{Place: p, Needs: true, Matters: true}
		}
	}
	if m.Most > 0 && atPa > float64(m.Most) {
		return Unsuited{MostPa: float64(m.Most), Matters: true}
	}
	return Unsuited{}
}

// Flow is what bubbles counted by a method tell, n of them in so many seconds; m³/s, standard
// within a hundredth at the surface of a glass.
func (m Method) Flow(n int, seconds float64) float64 {
	if m.Counts == 0 || seconds <= 0 {
		return 0
	}
	return physics.BubbleFlow(float64(m.Counts), float64(n)/seconds)
}

// length is written with its unit in files; m.
type length float64

// UnmarshalText reads such as "3 mm".
func (l *length) UnmarshalText(b []byte) error {
	v, err := quantity.Parse(string(b), quantity.Length, quantity.Unit{}, quantity.StandardAtmosphere)
	if err == nil && v.Bare {
		err = fmt.Errorf("%q has no unit; type it, as in 3 mm", b)
	}
	*l = length(v.Low)
	return err
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
	case m.ID == "" || m.Title == "" || m.Does == "" || m.Shows == "":
		return fmt.Errorf("%q: a method has an id, a title, what is done (does) and what it shows", m.ID)
	case m.LeastGas < 0 || m.LeastLiquid < 0 || m.LeastGas == 0 && m.LeastLiquid == 0:
		return fmt.Errorf("%s: say what it sees at least, of gas (such as 0.5 cm³/s) or of liquid (such as 0.1 mL/h)", m.ID)
	case slices.ContainsFunc(append(slices.Clone(m.Never), m.Only...), func(p Place) bool { return !slices.Contains(Places, p) }):
		return fmt.Errorf("%s: never and only name places, of %v", m.ID, Places)
	case m.Shop != "" && m.Shop != Quiet && m.Shop != Noisy:
		return fmt.Errorf("%s: shop is %s or %s, or is left out", m.ID, Quiet, Noisy)
	case m.Source == "":
		return fmt.Errorf("%s: say where its figures come from (source)", m.ID)
	case m.Takes <= 0 || m.Waits < 0:
		return fmt.Errorf("%s: say how long it takes at a part, such as 1 min", m.ID)
	}
	return nil
}
