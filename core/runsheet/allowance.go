package runsheet

import (
	"fmt"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// HouseLossM3PerS is the house allowance for cooling: 1 mL of coolant an hour at
// working temperature.
const HouseLossM3PerS = 1e-6 / 3600

// Allowance is a loss not to be exceeded and where it comes from.
type Allowance struct {
	From      string  `json:"from"` // house | typed | the id of a hold school
	PaPerS    float64 `json:"pa_per_s"`
	FlowM3PeS float64 `json:"flow_m3_per_s"` // standard; 0 when the air is unknown
	Says      string  `json:"says"`
	HoldS     float64 `json:"hold_s"` // the time over which people would look
}

// House turns the house allowance into a fall for this volume and pressure.
func House(gasM3, testPa, ambientPa float64) Allowance {
	gas := physics.GasOfLiquid(HouseLossM3PerS, testPa+ambientPa, ambientPa, testPa, physics.MuCoolantHot)
	rate := physics.RateOfFlow(gas, gasM3, physics.StandardK)
	return Allowance{From: "house", PaPerS: rate, FlowM3PeS: gas, HoldS: 300,
		Says: fmt.Sprintf("1 mL of coolant an hour, hot: with %s L of air that is %s kPa a minute.", quantity.Significant(gasM3*1e3, 2), quantity.Significant(rate*60/1e3, 2))}
}

// OfSchool is the steady loss a school lets pass on this gauge.
func OfSchool(s judge.School, g Gauge) Allowance {
	rate := s.RatePaPerS(g.ForJudge())
	a := Allowance{From: s.ID, PaPerS: rate, HoldS: s.HoldS}
	a.Says = fmt.Sprintf("%s: %s kPa a minute.", s.Title, quantity.Significant(rate*60/1e3, 2))
	if s.AllowedPa == 0 {
		a.Says = fmt.Sprintf("%s: nothing this gauge could show in that time, %s kPa a minute.", s.Title, quantity.Significant(rate*60/1e3, 2))
	}
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
		return Allowance{}, fmt.Errorf("%q allows nothing; a school does that, by what the gauge can show", text)
	}
	return Allowance{From: "typed", PaPerS: rate, HoldS: over.Low, Says: fmt.Sprintf("As typed, %s: %s kPa a minute.", text, quantity.Significant(rate*60/1e3, 2))}, nil
}

// AllowanceOf resolves how a step says what may be lost: "house", the id of a
// school of hold, or a fall in a time; empty is a still needle. roomM3 is the air
// there is about. asked is what the gauge must be able to see of it, Pa/s: nothing
// where a school allows nothing, since that is by its nature what the gauge shows.
func AllowanceOf(from string, schools []judge.School, g Gauge, roomM3, testPa, ambientPa float64) (a Allowance, asked float64, err error) {
	if from == "house" && testPa > 0 {
		if roomM3 > 0 {
			a = House(roomM3, testPa, ambientPa)
			return a, a.PaPerS, nil
		}
		from = ""
	}
	if from == "" || from == "house" {
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
	if a, err = TypedAllowance(from, g, ambientPa); err != nil {
		return a, 0, fmt.Errorf("%q is neither a school of hold (%s) nor a fall in a time, such as 3 kPa in 1 min", from, strings.Join(have, ", "))
	}
	return a, a.PaPerS, nil
}

// ForProof is what a dead-headed rig may lose: 1 kPa in a minute, or what the
// gauge can show in a minute where that is coarser. That tells a dry ring or a
// passing valve from a sound rig; in a small volume it is a flow of the order of
// the house allowance, so a pass does not yet mean nothing to subtract.
func ForProof(g Gauge) Allowance {
	fall := max(1000, g.ForJudge().StepPa())
	return Allowance{From: "proof", PaPerS: fall / 60, HoldS: 60,
		Says: fmt.Sprintf("Dead-headed, the rig may lose %s kPa a minute.", quantity.Significant(fall/1e3, 2))}
}
