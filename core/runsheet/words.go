package runsheet

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// The sentences of this room. A rule elsewhere never reads them.

func houseSays(gasM3 float64, a Allowance, u quantity.Unit) string {
	return fmt.Sprintf("1 mL of hot coolant an hour. With %s L of trapped air that is %s.", quantity.Significant(gasM3*1e3, 2), u.Rate(a.PaPerS, 2))
}

// houseLaterSays is the house allowance while the trapped air is not known.
func houseLaterSays(until Allowance, u quantity.Unit) string {
	return fmt.Sprintf("1 mL of hot coolant an hour. Count the strokes to get the trapped air. Until then: needle still for %s (%s on this gauge).", quantity.Duration(until.HoldS), u.Rate(until.PaPerS, 2))
}

func schoolSays(s judge.School, a Allowance, u quantity.Unit) string {
	if s.AllowedPa == 0 {
		return fmt.Sprintf("%s: no fall that this gauge can show (%s).", s.Title, u.Rate(a.PaPerS, 2))
	}
	return fmt.Sprintf("%s: %s.", s.Title, u.Rate(a.PaPerS, 2))
}

func typedSays(text string, a Allowance, u quantity.Unit) string {
	return fmt.Sprintf("%s, as typed (%s).", text, u.Rate(a.PaPerS, 2))
}

func sheetSays(text string, a Allowance, u quantity.Unit) string {
	return fmt.Sprintf("%s (%s).", text, u.Rate(a.PaPerS, 2))
}

// laterSays is an allowance that needs the trapped air while that is not known.
func laterSays(text string, until Allowance, u quantity.Unit) string {
	return fmt.Sprintf("%s. Count the strokes to get the trapped air. Until then: needle still for %s (%s on this gauge).", text, quantity.Duration(until.HoldS), u.Rate(until.PaPerS, 2))
}

// flowSays is a flow as a fall in so much air.
func flowSays(text string, roomM3 float64, a Allowance, u quantity.Unit) string {
	return fmt.Sprintf("%s. With %s L of air that is %s.", text, quantity.Significant(roomM3*1e3, 2), u.Rate(a.PaPerS, 2))
}

func ownSchoolSays(l circuit.Loss, a Allowance, typed bool) string {
	if typed {
		return quantity.Capital(l.Title) + "."
	}
	return quantity.Capital(l.Title) + ": " + quantity.Lower(a.Says)
}

func proofSays(paPerS float64, u quantity.Unit) string {
	return fmt.Sprintf("The rig on its own may lose %s.", u.Rate(paPerS, 2))
}

// EyeSays is what the eye looks for in a step, whatever the needle says.
func EyeSays(e circuit.Eye) string {
	if e == circuit.Weeps {
		return "Wiped dry and looked at all round: a weep fails it, whatever the needle says"
	}
	return "Soap or water all round: a bubble that comes again fails it, whatever the needle says"
}

// verb is how a pressure is reached: up, or down from ambient.
func verb(pa float64) string {
	if pa < 0 {
		return "Draw down to"
	}
	return "Pump to"
}

// targetSays is a target rounded to a printed mark of the gauge.
func targetSays(printed, title string, pa, wantPa float64) string {
	says := fmt.Sprintf("%s %s: %s", verb(pa), printed, title)
	if by := math.Abs(pa) - math.Abs(wantPa); math.Abs(by) > worthSaying {
		word := "above"
		switch {
		case wantPa < 0 && by < 0:
			word = "less deep"
		case by < 0:
			word = "below"
		}
		says += fmt.Sprintf(", at the nearest printed mark, %s kPa %s", quantity.Significant(math.Abs(by)/1e3, 2), word)
	}
	return says + "."
}

// ruledSays is a target that a part's limit cuts down.
func ruledSays(printed, title string, pa float64, weakest Limit) string {
	of := "the " + weakest.Of
	if weakest.Of == "step" {
		of = "this step"
	}
	return fmt.Sprintf("%s %s, not %s: %s may not go past %s.", verb(pa), printed, title, of, kpa(weakest.CeilingPa))
}

// worthSaying is the rounding of a target that is named, Pa.
const worthSaying = 50

// PastSays is a target of a relief: it must lift.
func (t Target) PastSays() string {
	return fmt.Sprintf("Pump slowly past %s.", t.Printed)
}

// FeedSays is a target of a circuit that is fed all the time.
func (t Target) FeedSays() string {
	return fmt.Sprintf("Feed at %s.", t.Printed)
}

func typedTargetSays(t Target, reason string) string {
	if !t.Over {
		return fmt.Sprintf("%s %s, as typed.", verb(t.Pa), kpa(t.Pa))
	}
	return fmt.Sprintf("%s %s, %s the limit of the %s, %s. Reason given: %s.", verb(t.Pa), kpa(t.Pa), past(t.Pa), t.Weakest.Of, kpa(t.Weakest.Pa), reason)
}

func past(pa float64) string {
	if pa < 0 {
		return "BEYOND"
	}
	return "ABOVE"
}

func overLimit(pa float64, w Limit) error {
	return fmt.Errorf("%s is %s the weakest limit, the %s at %s: choose at most that, or type the reason for going over it (it is printed on the sheet)", kpa(pa), strings.ToLower(past(pa)), w.Of, kpa(w.Pa))
}

func kpa(pa float64) string { return quantity.Significant(pa/1e3, 3) + " kPa" }

// Says is what a comparison of two gauges showed.
func (c Check) says(g Gauge) string {
	_, u := g.Ring()
	off := u.Figure(c.WorstPa, g.DivisionPa()/4) + " " + u.Symbol
	class := quantity.Significant(g.Class, 2)
	says := ""
	switch {
	case g.Class == 0:
		says = fmt.Sprintf("Differs by up to %s. Its class is not known, so nothing tells whether that is too much.", off)
	case c.Within:
		says = fmt.Sprintf("Differs by up to %s, within its class (%s %%).", off, class)
	default:
		says = fmt.Sprintf("Differs by up to %s, more than its class (%s %%) allows. It still shows a loss; pump by another gauge.", off, class)
	}
	if c.GainSE > 0 && math.Abs(c.Gain-1) > 2*c.GainSE && math.Abs(c.Gain-1) > leastGain {
		says += fmt.Sprintf(" Reads %s %% %s.", quantity.Significant(math.Abs(c.Gain-1)*100, 2), map[bool]string{true: "low", false: "high"}[c.Gain > 1])
	}
	return says
}

// leastGain is the error in proportion that is named.
const leastGain = 0.005

// Rest is how a gauge stands with nothing on it.
type Rest int

// The three ways to rest.
const (
	AtZero Rest = iota
	WithinClass
	OffZero
)

// RestSays puts it into words, for a gauge that shows pa (Pa).
func (g Gauge) RestSays(pa float64) string {
	_, u := g.Ring()
	shows := u.Show(pa, g.DivisionPa()/4)
	switch g.Rests(pa) {
	case AtZero:
		return "Rests at zero."
	case WithinClass:
		return fmt.Sprintf("Rests at %s, within its class. A fall reads the same; add this to the target.", shows)
	}
	return fmt.Sprintf("Rests at %s. Tap it. If it stays there, set its needle or use another gauge.", shows)
}

// Says warns of the energy stored in a step's gas.
func (e Stored) Says() string {
	pushed := "A 25 mm plug"
	if e.Part != "" {
		pushed = quantity.Capital(e.Part)
	}
	energy := quantity.Significant(e.Joules, 2) + " J"
	if e.Joules >= askFill {
		energy = quantity.Significant(e.Joules/1e3, 2) + " kJ"
	}
	says := fmt.Sprintf("At this pressure the %s holds %s (a hard hammer blow: 100 J). %s: pushed with %s N (%s kg). Stand clear of it.",
		e.With, energy, pushed, quantity.Significant(e.Newtons, 2), quantity.Significant(e.Newtons/9.81, 2))
	switch {
	case e.AskFill && e.Fill != "":
		says += fmt.Sprintf(" Fill it with %s but for a little air and look for weeps, shield it, or use a lower pressure.", e.Fill)
	case e.AskFill && e.Running:
		says += " Shield it where you can."
	case e.AskFill:
		says += " Shield it, or use a lower pressure."
	}
	return says
}

// Says is the trapped air in a sentence.
func (a TrappedAir) Says() string {
	says := fmt.Sprintf("Trapped air: about %s L (%s to %s).", quantity.Significant(a.M3*1e3, 2), quantity.Significant(a.LowM3*1e3, 2), quantity.Significant(a.HighM3*1e3, 2))
	if a.Bent {
		says += " The strokes do not lie on a line: soft hose, leaking pump valve, or a large leak."
	}
	return says
}

// Says is how a piece suits the neck; widthM is the neck's, m.
func (f Fitted) Says(widthM float64) string {
	mm := func(m float64) string { return quantity.Significant(m*1e3, 2) + " mm" }
	switch f.Misfit {
	case OtherMake:
		return "made for another depth or pitch"
	case TooLarge:
		return mm(f.ByM) + " too large"
	case TooSmall:
		return mm(f.ByM) + " too small"
	case RightSize:
		return "the size for " + mm(widthM)
	case RightFamily:
		return "made for " + string(f.Family)
	}
	return ""
}

func fitSays(a *Advice, g Gauge, targetPa, ratePaPerS, holdS float64) {
	r, u := g.Ring()
	div := u.SI(r.Division)
	say := func(format string, v ...any) { a.Says = append(a.Says, fmt.Sprintf(format, v...)) }
	switch {
	case targetPa > a.TopPa:
		say("This gauge ends at %s and the target is %s. Use one that reads to about %s.", u.Show(a.TopPa, div), u.Show(targetPa, div), u.Show(2*targetPa, u.SI(5)))
	case a.OffMiddle:
		say("The target lies outside the middle half of the scale, where a gauge is most exact. A gauge to about %s is better.", u.Show(2*targetPa, div))
	}
	if a.TooCoarse {
		allowed := ratePaPerS * holdS
		say("One division is %s and the allowance in %s is %s: two readings cannot show that. Use a division of %s %s or finer, hold for %s, or take several readings.",
			u.Show(div, div), quantity.Duration(holdS), quantity.Significant(u.Of(allowed), 2)+" "+u.Symbol, quantity.Significant(u.Of(allowed/2), 1), u.Symbol, quantity.Duration(math.Ceil(2*div/ratePaPerS/60)*60))
	}
	if a.Fits {
		say("The gauge fits: the target is well on its scale, and it can show what is allowed.")
	}
}

func otherSignSays(shut float64, tr *trace.Trace) string {
	if shut < 0 {
		return fmt.Sprintf("The file holds a vacuum (%s), the job asks for pressure.", tr.Unit.Show(shut, tr.DigitPa))
	}
	return fmt.Sprintf("The file holds pressure (%s), the job asks for a vacuum.", tr.Unit.Show(shut, tr.DigitPa))
}

func offTargetSays(shut, target float64, tr *trace.Trace) string {
	return fmt.Sprintf("The file was shut at %s, the target of the job is %s.", tr.Unit.Show(shut, tr.DigitPa), tr.Unit.Show(target, tr.DigitPa))
}

func overLimitSays(highest float64, l Limit, tr *trace.Trace) string {
	return fmt.Sprintf("The file reached %s, above the limit of the %s (%s).", tr.Unit.Show(math.Copysign(highest, l.CeilingPa), tr.DigitPa), l.Of, tr.Unit.Show(l.CeilingPa, tr.DigitPa))
}

// FarSays is what the gauge at the other end shows against the near one.
func FarSays(near, far Standing, digitPa float64, u quantity.Unit) string {
	switch d := far.Pa - near.Pa; {
	case !near.Seen:
		return "The near gauge is not read yet."
	case math.Abs(d) <= digitPa:
		return "Both gauges show the same."
	case d < 0:
		return "The far gauge is " + u.Show(-d, digitPa) + " below the near gauge."
	default:
		return "The far gauge is " + u.Show(d, digitPa) + " above the near gauge."
	}
}

// A target counts as reached within three quarters of a division, or three hundredths of
// itself: the needle creeps on while somebody looks at it, and one stroke more is too much.
const (
	reachedDivisions = 0.75
	reachedShare     = 0.03
	nearlyShare      = 0.85
	nothingPa        = 500 // from ambient: not pumped yet
)

// AtTarget reports whether the needle stands where the supply is to be shut.
func AtTarget(at Standing, targetPa, divisionPa float64) bool {
	out, want := math.Copysign(1, targetPa)*at.Pa, math.Abs(targetPa)
	return at.Seen && out >= want-math.Max(divisionPa*reachedDivisions, reachedShare*want)
}

// PumpingSays is what to do on the way to a target.
func PumpingSays(at Standing, targetPa float64, draws bool, divisionPa float64, u quantity.Unit) string {
	target := u.Show(targetPa, divisionPa)
	verb := "Pump"
	if draws {
		verb = "Draw down"
	}
	sign := math.Copysign(1, targetPa)
	out, want := sign*at.Pa, sign*targetPa
	switch {
	case !at.Seen || out < nothingPa:
		return verb + " to " + target + ", slowly and evenly."
	case AtTarget(at, targetPa, divisionPa):
		return "Target reached. Shut the supply."
	case out > nearlyShare*want:
		return "Nearly there: " + target + "."
	}
	return verb + " on to " + target + "."
}
