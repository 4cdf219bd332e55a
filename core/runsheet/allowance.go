package runsheet

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// HouseLossM3PerS is the house allowance for cooling: 1 mL of coolant an hour at
// working temperature.
const HouseLossM3PerS = 1e-6 / 3600

// Where an allowance comes from, beside the ids of schools.
const (
	FromHouse = "house"
	FromTyped = "typed" // by a person
	FromSheet = "sheet" // by the circuit's file
	FromProof = "proof" // of a rig
)

// Allowance is a loss not to be exceeded and where it comes from.
type Allowance struct {
	From       string  `json:"from"` // one of the above, or the id of a school
	PaPerS     float64 `json:"pa_per_s"`
	FlowM3PerS float64 `json:"flow_m3_per_s"` // standard; 0 when the air is unknown
	Says       string  `json:"says"`
	HoldS      float64 `json:"hold_s"` // the time over which people would look
}

// Wanted is what was asked for before the trapped air was known.
type Wanted struct {
	From string `json:"from"` // as in Allowance
	Text string `json:"text"` // of a typed one, or of the sheet's own
}

// wanted is what a wish asks for at a step: the step's own schools are looked up.
func (w Wish) wanted(s circuit.Step) Wanted {
	out := Wanted{w.Allowance, w.AllowanceText}
	if out.From == "" {
		out.From = FromHouse
	}
	for _, l := range s.Allows {
		if l.ID == out.From {
			out.Text = l.Allow
		}
	}
	if out.From == FromTyped && out.Text != "" && out.Text == s.Allow {
		out.From = FromSheet // nobody typed it
	}
	return out
}

// Resolve turns what is wanted into a loss with so much trapped air (0: not known yet).
// The house allowance needs the air; without it, and where a text cannot be read, it is
// a still needle. asked is what the gauge must be able to show of it, Pa/s.
func (w Wanted) Resolve(s circuit.Step, g Gauge, schools []judge.School, gasM3, targetPa, ambientPa float64) (a Allowance, asked float64) {
	from := w.From
	if w.Text != "" {
		from = w.Text
	}
	_, u := g.Ring()
	a, asked, err := AllowanceOf(from, schools, g, gasM3, targetPa, ambientPa)
	if err != nil {
		a, asked, _ = AllowanceOf("", schools, g, gasM3, targetPa, ambientPa)
		if _, ok := flowText(from); ok {
			a.Says = laterSays(from, a, u)
		}
	}
	if i := slices.IndexFunc(s.Allows, func(l circuit.Loss) bool { return l.ID == w.From }); i >= 0 {
		typed := a.From == FromTyped
		a.From = w.From
		a.Says = ownSchoolSays(s.Allows[i], a, typed)
		return a, asked
	}
	switch {
	case w.From == FromHouse && a.From != FromHouse:
		a.Says = houseLaterSays(a, u)
	case w.From == FromSheet && a.From == FromTyped:
		a.From = FromSheet
		if a.FlowM3PerS == 0 {
			a.Says = sheetSays(w.Text, a, u)
		}
	}
	return a, asked
}

// House turns the house allowance into a fall for this volume and pressure.
func House(gasM3, testPa, ambientPa float64, u quantity.Unit) Allowance {
	gas := physics.GasOfLiquid(HouseLossM3PerS, testPa+ambientPa, ambientPa, testPa, physics.MuCoolantHot)
	a := Allowance{From: FromHouse, PaPerS: physics.RateOfFlow(gas, gasM3, physics.StandardK), FlowM3PerS: gas, HoldS: 300}
	a.Says = houseSays(gasM3, a, u)
	return a
}

// OfSchool is the steady loss a school lets pass on this gauge.
func OfSchool(s judge.School, g Gauge) Allowance {
	a := Allowance{From: s.ID, PaPerS: s.RatePaPerS(g.ForJudge()), HoldS: s.HoldS}
	_, u := g.Ring()
	a.Says = schoolSays(s, a, u)
	return a
}

// TypedAllowance reads "10 kPa in 2 min".
func TypedAllowance(text string, g Gauge, ambientPa float64) (Allowance, error) {
	_, u := g.Ring()
	rate, _, over, err := quantity.ParseRate(text, u, ambientPa)
	if err != nil {
		return Allowance{}, err
	}
	if rate <= 0 {
		return Allowance{}, fmt.Errorf("%q allows nothing: choose a school of hold, which allows what the gauge can show", text)
	}
	a := Allowance{From: FromTyped, PaPerS: rate, HoldS: over.Low}
	a.Says = typedSays(text, a, u)
	return a, nil
}

// flowText reads an allowance that is written as a flow, such as 2 cm3/min; m³/s, standard.
func flowText(text string) (m3PerS float64, ok bool) {
	v, err := quantity.Parse(text, quantity.Flow, quantity.Unit{}, quantity.StandardAtmosphere)
	return v.Low, err == nil && !v.Bare && v.Low > 0
}

// CheckAllowance refuses a text that is neither a fall in a time nor a flow.
func CheckAllowance(text string, g Gauge, ambientPa float64) error {
	if _, ok := flowText(text); ok {
		return nil
	}
	_, err := TypedAllowance(text, g, ambientPa)
	return err
}

// errNoAir is returned where an allowance is a flow and the trapped air is not known.
var errNoAir = errors.New("a flow is allowed, and the trapped air is not known yet")

// ofFlow is a flow (m³/s, standard) as a fall in so much air.
func ofFlow(text string, m3PerS, roomM3 float64, u quantity.Unit) Allowance {
	a := Allowance{From: FromTyped, PaPerS: physics.RateOfFlow(m3PerS, roomM3, physics.StandardK), FlowM3PerS: m3PerS, HoldS: flowHoldS}
	a.Says = flowSays(text, roomM3, a, u)
	return a
}

// flowHoldS is how long people look where a flow is allowed, s.
const flowHoldS = 300

// AllowanceOf resolves how a step says what may be lost: "house", the id of a
// school of hold, a fall in a time, or a flow; empty is a still needle. roomM3 is the air
// there is about. asked is what the gauge must be able to see of it, Pa/s: nothing
// where a school allows nothing, since that is by its nature what the gauge shows.
func AllowanceOf(from string, schools []judge.School, g Gauge, roomM3, testPa, ambientPa float64) (a Allowance, asked float64, err error) {
	if from == FromHouse && testPa > 0 {
		if roomM3 > 0 {
			_, u := g.Ring()
			a = House(roomM3, testPa, ambientPa, u)
			return a, a.PaPerS, nil
		}
		from = ""
	}
	if from == "" || from == FromHouse {
		from = "five-minutes-still"
	}
	var have []string
	for _, s := range schools {
		if s.ID == from {
			a = OfSchool(s, g)
			if s.AllowedPa > 0 {
				asked = a.PaPerS
			}
			return a, asked, nil
		}
		have = append(have, s.ID)
	}
	if flow, ok := flowText(from); ok {
		if roomM3 <= 0 {
			return a, 0, errNoAir
		}
		_, u := g.Ring()
		a = ofFlow(from, flow, roomM3, u)
		return a, a.PaPerS, nil
	}
	if a, err = TypedAllowance(from, g, ambientPa); err != nil {
		return a, 0, fmt.Errorf("%q is neither a school of hold (%s), a fall in a time, such as 3 kPa in 1 min, nor a flow, such as 2 cm3/min", from, strings.Join(have, ", "))
	}
	return a, a.PaPerS, nil
}

// ForProof is what a dead-headed rig may lose: 1 kPa in a minute, or what the
// gauge can show in a minute where that is coarser. That tells a dry ring or a
// passing valve from a sound rig; in a small volume it is a flow of the order of
// the house allowance, so a pass does not yet mean nothing to subtract.
func ForProof(g Gauge) Allowance {
	fall := max(1000, g.ForJudge().StepPa())
	_, u := g.Ring()
	return Allowance{From: FromProof, PaPerS: fall / 60, HoldS: 60, Says: proofSays(fall/60, u)}
}
