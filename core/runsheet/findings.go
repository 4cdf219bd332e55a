package runsheet

import (
	"fmt"
	"math"
	"regexp"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// The rules that need a pressure, an allowance or a plan.
const (
	RuleEye      circuit.Rule = "eye"      // an allowance that passes what soap shows, with no word of the eye
	RuleEnergy   circuit.Rule = "energy"   // a kilojoule and more with no caution for it
	RuleProposal circuit.Rule = "proposal" // a target that is said otherwise than it is pumped
)

// soapShows is the standard flow that a soap film shows (PHYSICS, methods); needleMost is what
// an allowance may pass at all where the eye rules, unless its file says why. m³/s.
const (
	soapShows  = 0.001e-6
	needleMost = 10e-6 / 60
)

// Findings lists what a reader of the trade would correct in what is planned from a file. It
// wants a description without faults.
func Findings(c *circuit.Circuit, schools Schools) []circuit.Finding {
	var out []circuit.Finding
	seen := map[string]bool{}
	say := func(rule circuit.Rule, path, of, format string, a ...any) {
		if key := string(rule) + path + of; !seen[key] {
			seen[key] = true
			out = append(out, circuit.Finding{Rule: rule, Path: path, Of: of, Says: fmt.Sprintf(format, a...)})
		}
	}
	at := func(id string) string {
		if i := slices.IndexFunc(c.Steps, func(s circuit.Step) bool { return s.ID == id }); i >= 0 {
			return fmt.Sprintf("$.steps[%d]", i)
		}
		return "$"
	}
	most := 0.0
	for _, x := range c.Ways() {
		for _, s := range x.Tests() {
			most = max(most, energyOf(&x, s))
			if s.Kind != circuit.Hold || s.Draws() || c.Medium() != circuit.WithAir {
				continue
			}
			for _, text := range allowed(s) {
				flow, ok := passes(text, x.Room(s), schools)
				cm3 := quantity.Significant(flow*60e6, 2)
				switch {
				case !ok || s.Needle != "" || flow <= soapShows:
				case s.Eye == "":
					say(RuleEye, at(s.ID), s.ID, "%s allows %s, which lets %s cm³ of air pass a minute; soap shows 0.06. Say what the eye looks for (eye: bubbles or weeps), or why the needle alone decides (needle)", s.Title, text, cm3)
				case flow > needleMost:
					say(RuleEye, at(s.ID), s.ID, "%s allows %s, which lets %s cm³ of air pass a minute, though the eye rules: allow less, as a flow such as 2 cm3/min, or say why the needle needs so much (needle)", s.Title, text, cm3)
				}
			}
		}
	}
	if most >= askFill && !slices.Contains(c.Guarded(), circuit.Energy) {
		say(RuleEnergy, "$.stages", string(circuit.Energy), "the gas holds %s J at the highest target, and no caution or tick names it (of: [energy]): fill it, shield it, or use less pressure", quantity.Significant(most, 2))
	}
	for _, s := range c.Tests() {
		for _, w := range wrongly(c, s, schools) {
			say(RuleProposal, at(s.ID), s.ID, "%s", w)
		}
	}
	return out
}

// allowed are the allowances of a step, as they are written.
func allowed(s circuit.Step) []string {
	out := []string{}
	for _, l := range s.Allows {
		out = append(out, l.Allow)
	}
	if s.Allow != "" {
		out = append(out, s.Allow)
	}
	return out
}

// passes is the standard flow (m³/s) that an allowance lets pass in so much air; ok is false
// for the house's and for those that follow the gauge.
func passes(text string, roomM3 float64, schools Schools) (float64, bool) {
	if flow, ok := flowText(text); ok {
		return flow, true
	}
	if text == FromHouse {
		return 0, false
	}
	rate := 0.0
	for _, h := range schools.Hold {
		if h.ID == text {
			if h.AllowedPa == 0 {
				return 0, false
			}
			rate = h.AllowedPa / h.HoldS
		}
	}
	if rate == 0 {
		r, _, _, err := quantity.ParseRate(text, quantity.MustNamed("kPa", quantity.Pressure), quantity.StandardAtmosphere)
		if err != nil {
			return 0, false
		}
		rate = r
	}
	return physics.StandardFlow(rate, roomM3, physics.StandardK), true
}

// energyOf is the energy of a hold's gas at its highest target, J.
func energyOf(c *circuit.Circuit, s circuit.Step) float64 {
	most := 0.0
	if s.Kind != circuit.Hold {
		return 0
	}
	for _, t := range s.Targets {
		if t.At > 0 {
			e, _ := physics.StoredEnergy(float64(t.At), c.Room(s), quantity.StandardAtmosphere)
			most = max(most, e)
		}
	}
	return most
}

// tried are the faces on which proposals are looked at, and the marks.
var (
	triedFaces = []Ring{{Unit: "psi", To: 30, Division: 0.5}, {Unit: "psi", To: 200, Division: 5}, {Unit: "bar", To: 2.5, Division: 0.05}, {Unit: "bar", To: 10, Division: 0.2}, {Unit: "kPa", To: 100, Division: 7}, {Unit: "kPa", To: 250, Division: 0.1}, {Unit: "inHg", From: -30, To: 0, Division: 1}}
	triedMarks = []string{"5 kPa", "20 kPa", "50 kPa", "0.9", "1.1", "13-15", "110 kPa", "16", "200 kPa", "250 kPa", "500 kPa", "1 MPa"}
)

// noFigure finds what is written where a computation came to no number.
var noFigure = regexp.MustCompile(`\b(NaN|Inf)\b`)

// wrongly plans a step on common faces with common marks and lists what is said otherwise than
// it is pumped, each kind once.
func wrongly(c *circuit.Circuit, s circuit.Step, schools Schools) []string {
	if !Aims(c, s) {
		return nil
	}
	var out []string
	for _, ring := range triedFaces {
		g := Gauge{Name: "a gauge", Kind: terms.Needle, Rings: []Ring{ring}}
		for _, text := range triedMarks {
			var mark *quantity.Reading
			if c.Marked() {
				m, err := quantity.DecodeMark(text, c.Plausible())
				if err != nil {
					continue
				}
				mark = &m.Readings[0]
			}
			for _, school := range append(StepSchools(s), schools.Target...) {
				w := DefaultWish(s, schools)
				w.School = school.ID
				p, err := PlanStep(c, s, mark, w, g, nil, schools, quantity.StandardAtmosphere)
				if err != nil {
					if noFigure.MatchString(err.Error()) {
						out = append(out, err.Error())
					}
					continue
				}
				if says := Misproposed(p.Target, mark); says != "" {
					out = append(out, fmt.Sprintf("on a ring to %g %s%s: %s", ring.To, ring.Unit, map[bool]string{true: " with the mark " + text}[mark != nil], says))
				}
			}
			if mark == nil {
				break
			}
		}
	}
	return out
}

// Misproposed is what is wrong with a target as it is proposed; empty: nothing. A figure must be
// one, at least the mark must be so, the printed figure must be the one that is pumped, and
// what cut it down must be what is named.
func Misproposed(t Target, mark *quantity.Reading) string {
	if !quantity.Finite(t.Pa) || noFigure.MatchString(t.Says+" "+t.Printed) {
		return fmt.Sprintf("the target is no figure: %s", t.Says)
	}
	if t.Weakest.CeilingPa*t.Pa > 0 && math.Abs(t.Pa) > math.Abs(t.Weakest.CeilingPa)*(1+1e-9) && !t.Over {
		return fmt.Sprintf("%s is beyond the limit of the %s", t.Printed, t.Weakest.Of)
	}
	if t.School == "at-least" && mark != nil && t.Pa < mark.HighPa*(1-1e-9) {
		return fmt.Sprintf("at least the mark is asked for and %s lies below it", t.Printed)
	}
	if v, err := quantity.Parse(t.Printed, quantity.Pressure, quantity.Unit{}, quantity.StandardAtmosphere); err != nil || math.Abs(v.Low-t.Pa) > math.Max(worthSaying, 0.01*math.Abs(t.Pa)) {
		return fmt.Sprintf("%s is said and %s is pumped", t.Printed, kpa(t.Pa))
	}
	cut := math.Abs(t.WantPa) > math.Abs(t.Weakest.CeilingPa)*(1+1e-9)
	if cut != (t.Cause == CutByPart) || t.Cause == AsWanted && math.Abs(t.Pa-t.WantPa) > worthSaying {
		return fmt.Sprintf("%s is not what was wanted (%s), and the reason named is another (%s)", t.Printed, kpa(t.WantPa), t.Cause)
	}
	return ""
}
