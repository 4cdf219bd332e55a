package judge

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/quantity"
)

// The sentences of a report: everything it says is worded here, from its codes and
// figures, in the unit of the gauge. No rule reads them.

// Word puts the reasons into sentences in a unit (the zero Unit: kPa).
func (r *Report) Word(u quantity.Unit) {
	if u.Symbol == "" {
		u = quantity.MustNamed("kPa", quantity.Pressure)
	}
	w := words{r, u}
	r.Why = make([]string, 0, len(r.Reasons))
	for _, x := range r.Reasons {
		r.Why = append(r.Why, w.reason(x))
	}
	for i := range r.Acts {
		r.Acts[i].Says = w.act(r.Acts[i])
	}
	r.Next = ""
	if r.NextStep != nil {
		r.Next = w.reason(*r.NextStep)
	}
}

type words struct {
	r *Report
	u quantity.Unit
}

// rate and fall write figures that are kept in kPa in the person's own unit.
func (w words) rate(kpaPerMin float64) string { return w.u.Rate(kpaPerMin*1e3/60, 2) }
func (w words) pressure(k float64, n int) string {
	return quantity.Significant(w.u.Of(k*1e3), n) + " " + w.u.Symbol
}
func (w words) between(low, high float64) string {
	a, b := w.rate(low), w.rate(high)
	if a == b { // a third digit tells them apart
		a, b = w.u.Rate(low*1e3/60, 3), w.u.Rate(high*1e3/60, 3)
	}
	if x, unit, ok := strings.Cut(a, " "); ok && strings.HasSuffix(b, " "+unit) { // the unit once
		a = x
	}
	return a + " to " + b
}

// act is what an act did to the loss.
func (w words) act(a ActReport) string {
	rates := fmt.Sprintf("%s before, %s after", w.rate(a.Before.Value), w.rate(math.Max(0, a.After.Value)))
	switch {
	case a.Verdict == ActSlower:
		return fmt.Sprintf("Slower: %s (%s).", rates, Likelihood(a.OddsSlower))
	case a.Verdict == ActSame:
		return fmt.Sprintf("No change: %s (%s).", rates, Likelihood(1-a.OddsSlower))
	case a.Verdict == ActFaster:
		return fmt.Sprintf("Faster: %s.", rates)
	case a.MoreS != nil:
		return fmt.Sprintf("Watch about %s more.", quantity.Duration(*a.MoreS))
	}
	return "Cannot tell yet. Watch on; where little pressure is left, undo it, top up, watch a while, and do it again."
}

func (w words) reason(x Reason) string {
	f := x.Figures
	switch x.Code {
	case NoPressure:
		return "There is no pressure to judge. Pump up first."
	case TooFewReadings:
		return fmt.Sprintf("Too early: %.0f of at least %.0f readings.", f[figureReadings], f[figureLeast])
	case LosesLittle:
		return fmt.Sprintf("It holds: it loses less than the %s allowed.%s", w.rate(f[figureLimit]), w.odds())
	case LosesLess:
		return fmt.Sprintf("It loses %s, less than the %s allowed.%s", w.rate(f[figureRate]), w.rate(f[figureLimit]), w.odds())
	case CouldHide:
		says := fmt.Sprintf("A weep below the liquid line of up to %s mL of hot coolant an hour could still hide.", quantity.Significant(f[figureMissed], 2))
		if f[figureFilled] < f[figureMissed] {
			says += fmt.Sprintf(" Filled until %s L of air is left, the same hold would show %s mL an hour.", quantity.Significant(NearlyFullM3*1e3, 1), quantity.Significant(f[figureFilled], 2))
		}
		return says
	case LosesMore:
		return fmt.Sprintf("It loses %s (%s); %s is allowed.%s", w.rate(f[figureRate]), w.between(f[figureLow], f[figureHigh]), w.rate(f[figureLimit]), w.odds())
	case LostMuch:
		return fmt.Sprintf("It lost %s in %s. That is too much for settling.", w.pressure(f[figureFall], 2), quantity.Duration(f[figureHeld]))
	case Undecided:
		return fmt.Sprintf("Not yet: it loses %s, and %s is allowed.", w.between(f[figureLow], f[figureHigh]), w.rate(f[figureLimit]))
	case LiesAtLimit:
		return fmt.Sprintf("At the limit: it loses %s, and %s is allowed. The readings cannot decide either way.", w.between(f[figureLow], f[figureHigh]), w.rate(f[figureLimit]))
	case PressureRises:
		return "The pressure rises: heat or gas is coming in. A rise can hide a leak. Wait until the temperature is steady and hold again."
	case WaitsToBeSure:
		return "A few more readings make that sure."
	case HeldTooShort:
		return fmt.Sprintf("A hold is judged after %s, not before.", quantity.Duration(f[figureHeld]))
	case FellMuch:
		return fmt.Sprintf("It fell by %s, more than rubber and warm air take. Top up and hold again: settling is smaller the second time.", w.pressure(f[figureFall], 2))
	case StillSettles:
		return "It still falls faster than is allowed. That may be settling: hold on until it slows, or top up and hold again."
	case AllowanceUnsure:
		return fmt.Sprintf("The allowance follows from the trapped air, which is known to ± %s %%. Count the strokes again to know it better.", quantity.Significant(100*f[figureShare], 2))
	case TimeLeft:
		return fmt.Sprintf("Hold on for about %s more.", quantity.Duration(f[figureMore]))
	case GaugeCoarse:
		return fmt.Sprintf("This gauge cannot show the limit yet: one step is %s, the allowance so far %s.", w.pressure(f[figureStep], 2), w.pressure(f[figureAllowed], 2))
	case ShapeSeen:
		return "It looks like " + shapeWords[w.r.Shape] + w.sure(f[figureShare]) + "."
	case RigTakenOff:
		return fmt.Sprintf("The rig's own loss, %s on this system, is subtracted.", w.rate(f[figureRig]))
	case RigUnproven:
		return "Rig not proven: the tester, its hose or its adapter may be the leak."
	case PartNotTested:
		return x.Text
	case WarmthNotRead:
		return "Warm, and the temperature is not measured. A cooling loop loses pressure without a leak, so this fall proves nothing. Look where it is wet, and whether the pressure rises."
	case FloorSeen:
		return fmt.Sprintf("It falls to %s and stays there, after a top-up too. A cap or a needle shuts at that pressure; settling would be smaller the second time.", w.pressure(f[figureFloor], 3))
	case TemperatureExplains:
		return fmt.Sprintf("The temperature %s by %s K. That alone changes the pressure by %s and explains the change.", way(f[figureKelvin]), quantity.Fixed(math.Abs(f[figureKelvin]), 1), w.pressure(f[figureFall], 2))
	case TemperatureTakenOut:
		return fmt.Sprintf("The temperature %s by %s K, which changes the pressure by %s. That is subtracted.", way(f[figureKelvin]), quantity.Fixed(math.Abs(f[figureKelvin]), 1), w.pressure(f[figureFall], 2))
	case StalledBelow:
		return fmt.Sprintf("It never reached the target: after %.0f strokes it stalled at %s of %s. Adapter not seated, a large leak, or a forgotten opening.", f[figureStrokes], w.pressure(f[figureHighest], 3), w.pressure(f[figureTarget], 3))
	case ShutShort:
		return fmt.Sprintf("The supply was shut at %s, short of the target of %s. The loss is that at %s; a leak loses more at the target.", w.pressure(f[figureHighest], 3), w.pressure(f[figureTarget], 3), w.pressure(f[figureHighest], 3))
	case StallFlow:
		return fmt.Sprintf("The pump brings in about %s cm³/min there, and as much leaks out.", quantity.Significant(f[figureFlow], 2))
	case EngineRaises:
		return "The engine is running. Combustion gas raises the pressure within seconds from cold, quivers with the firing, brings bubbles and stops with the engine. Heat comes slowly and stays."
	case FilmedTapped:
		return fmt.Sprintf("Read by camera %.0f times, the gauge tapped for %s.", f[figureReadings], quantity.Duration(f[figureTapped]))
	case FilmedUntapped:
		return fmt.Sprintf("Read by camera %.0f times and never tapped. Its needle's friction may hide a fall of up to %s, which is allowed for.", f[figureReadings], w.pressure(f[figureHidden], 2))
	case EyeAgrees:
		return "What was read by eye beside it agrees with the camera."
	case EyeDiffers:
		way := "above"
		if f[figureHigher] < 0 {
			way = "below"
		}
		return fmt.Sprintf("By eye the needle stands %s %s what the camera reads. The fall is right; the level follows the camera's marks: set them again.", w.pressure(math.Abs(f[figureHigher]), 2), way)
	case StepInferred:
		return fmt.Sprintf("The smallest step of the gauge was found in the data: %s.", w.pressure(f[figureStep], 3))
	case NextSteady:
		return "Wait until the temperature is steady, or read it beside the pressure, and hold again."
	case NextDecide:
		return "More time will not move it. Decide by the size of the loss, or compare it with a hold after warming up."
	case NextProveRig:
		return "Prove the rig for longer: it may lose as much itself as is allowed."
	case NextFinerGauge:
		return fmt.Sprintf("Use a finer gauge: one step of this one is %s, and 10 min allow %s.", w.pressure(f[figureStep], 2), w.pressure(f[figureAllowed], 2))
	case NextHoldOn:
		if f[figureMore] <= 0 {
			return "Hold on. How long is not known yet."
		}
		return fmt.Sprintf("Hold on for about %s more.", quantity.Duration(f[figureMore]))
	case NextFill:
		return fmt.Sprintf("Fill the system. It holds %s L of air; with half of that the same leak falls twice as fast.", quantity.Significant(f[figureAir], 2))
	case NextTopUp:
		return "Top up to the test pressure and hold again. Settling is smaller the second time, a leak is as fast as before."
	case NextHoldOrFiner:
		return fmt.Sprintf("Hold on for about %s more. A finer gauge or less air is faster.", quantity.Duration(f[figureMore]))
	case NextReadTemp:
		return "Read the temperature every minute or two: what it does to the pressure is then taken off. Or hold again cold."
	}
	return x.Text
}

func way(kelvin float64) string {
	if kelvin > 0 {
		return "rose"
	}
	return "fell"
}

// odds are those of the call that was made, never of a shape.
func (w words) odds() string {
	switch p := w.r.ProbabilityLeaking; w.r.Call {
	case Leaking:
		return " " + quantity.Capital(Likelihood(p)) + "."
	case Tight:
		return " " + quantity.Capital(Likelihood(1-p)) + "."
	}
	return ""
}

// sure says how much more likely the shape is than the next one.
func (w words) sure(share float64) string {
	if w.r.Call == Tight || w.r.Call == Leaking { // a call has odds of its own
		return ""
	}
	if share <= 0 || w.r.RunnerUpShare <= 0 {
		return ""
	}
	return " (" + Likelihood(share/(share+w.r.RunnerUpShare)) + ", rather than " + shapeWords[w.r.RunnerUp] + ")"
}

// Likelihood writes a probability in the words people use.
func Likelihood(p float64) string {
	switch {
	case p > 0.95:
		return "almost certain"
	case p < 0.55:
		return "about 1 in 2"
	}
	for _, of := range []float64{3, 4, 5, 10} {
		if n := math.Round(p * of); math.Abs(n/of-p) < 0.03 && n < of {
			return fmt.Sprintf("about %.0f in %.0f", n, of)
		}
	}
	return fmt.Sprintf("about %.0f in 10", math.Round(p*10))
}

var shapeWords = map[Shape]string{
	ShapeTight: "a still needle", ShapeSettling: "settling, not a leak", ShapeLeak: "a steady loss",
	ShapeSettlingLeak: "settling and then a steady loss", ShapeRising: "a rise", ShapeUnclear: "nothing clear",
	ShapeStep: "a sudden loss", ShapeFloor: "a fall to a floor", ShapeTemperature: "a change with the temperature",
}

func (s School) allows(q Question) string {
	if s.AllowedPa == 0 {
		return "no fall in " + quantity.Duration(s.HoldS)
	}
	u := q.unit()
	return fmt.Sprintf("%s %s in %s", quantity.Significant(u.Of(s.AllowedPa), 2), u.Symbol, quantity.Duration(s.HoldS))
}

// fellBy writes a fall to a tenth of the unit, or finer where it is smaller than one.
func fellBy(fallPa float64, q Question) string {
	u := q.unit()
	digit := 0.1
	if v := math.Abs(u.Of(fallPa)); v > 0 && v < 1 {
		digit = math.Pow(10, math.Floor(math.Log10(v))-1)
	}
	return u.Show(fallPa, u.SI(math.Max(digit, 0.001)))
}

// unit is the unit in which a person reads.
func (q Question) unit() quantity.Unit {
	if q.Unit.Symbol == "" {
		return quantity.MustNamed("kPa", quantity.Pressure)
	}
	return q.Unit
}

// Says is how long a hold will need, as a sentence.
func (p Times) Says(fills bool) string {
	better := "Use a finer gauge."
	if fills {
		better = "Use a finer gauge, or fill it so that less air is trapped."
	}
	switch {
	case p.TightS == nil && p.LeakingS == nil:
		return "Half an hour with this gauge cannot tell. " + better
	case p.TightS == nil:
		return fmt.Sprintf("A leak of twice the allowance shows in about %s. With this gauge, half an hour cannot show that it is tight. %s", quantity.Duration(*p.LeakingS), better)
	case p.LeakingS == nil:
		return fmt.Sprintf("About %s if it is tight. A leak of twice the allowance does not show on this gauge.", quantity.Duration(*p.TightS))
	}
	return fmt.Sprintf("About %s if it is tight. A leak of twice the allowance shows in about %s.", quantity.Duration(*p.TightS), quantity.Duration(*p.LeakingS))
}

// says is the difference between two holds as a sentence.
func (c Comparison) says() string {
	unit := "kPa/min"
	if c.ByFlow {
		unit = "cm³/min"
	}
	size := func(x float64) string { return quantity.Significant(math.Abs(x), 2) }
	d := c.Difference
	says := ""
	switch {
	case c.SurelyDifferent && d.Value > 0:
		says = fmt.Sprintf("The second hold loses %s %s more than the first (%s to %s).", size(d.Value), unit, size(d.Low), size(d.High))
	case c.SurelyDifferent:
		says = fmt.Sprintf("The second hold loses %s %s less than the first (%s to %s).", size(d.Value), unit, size(d.High), size(d.Low))
	default:
		says = fmt.Sprintf("These holds show no difference: %s to %s %s.", quantity.Significant(d.Low, 2), quantity.Significant(d.High, 2), unit)
	}
	word, p := "faster", c.Faster
	if p < 0.5 {
		word, p = "slower", 1-p
	}
	return says + " " + quantity.Capital(Likelihood(p)) + " that the second is " + word + "."
}

func unlikePressures(firstKPa, secondKPa float64) string {
	return fmt.Sprintf("They were held at different pressures, %s and %s kPa. A leak loses more at the higher one.", quantity.Significant(firstKPa, 3), quantity.Significant(secondKPa, 3))
}

func airNotKnown(one bool) string {
	if one {
		return "The trapped air of only one hold is known. With more air the same leak falls more slowly."
	}
	return "The trapped air of neither hold is known. With more air the same leak falls more slowly."
}

// CouldHideLoss says that a loss of so many mL an hour could hide in a loop that was called tight.
func CouldHideLoss(mlPerHour float64) string {
	return fmt.Sprintf("No leak was shown, but the %s mL an hour that was topped up could still hide below the liquid line. Fill until little air is left and hold longer, hold it hot, or test the cap.", quantity.Significant(mlPerHour, 2))
}

// ExplainsLoss says whether a leak that makes a share of a reported loss is its cause.
func ExplainsLoss(share float64) string {
	pct := quantity.Significant(100*share, 2) + " %"
	switch {
	case share < noCause:
		return "Too small to be the cause: it makes " + pct + " of what was topped up. Look for another leak."
	case share < mostOfLoss:
		return "It makes " + pct + " of what was topped up. Look for another leak beside it."
	case share <= allOfLoss:
		return "It explains the loss: " + pct + " of what was topped up."
	}
	return "It could lose " + pct + " of what was topped up, more than was missed. Figures from air are upper ones."
}

// Changes says how far the readings are from the other call.
func (r *Report) Changes(u quantity.Unit) string {
	if r.RateKPaPerMin == nil {
		return ""
	}
	w := words{r, u}
	rate, limit := r.RateKPaPerMin, w.rate(r.LimitKPaPerMin)
	switch r.Call {
	case Tight:
		return fmt.Sprintf("A steady loss above %s would be a leak. These readings allow at most %s (39 times in 40).", limit, w.rate(rate.High))
	case Leaking:
		return fmt.Sprintf("A steady loss below %s would be tight. These readings allow at least %s (39 times in 40). A larger allowance than that would change the call.", limit, w.rate(rate.Low))
	case NotYet:
		return fmt.Sprintf("The allowance of %s lies within what these readings allow: %s.", limit, w.between(rate.Low, rate.High))
	}
	return ""
}
