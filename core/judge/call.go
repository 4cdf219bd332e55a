package judge

import (
	"fmt"
	"math"
	"sort"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// The provisional rule: nothing is called before both hold.
const (
	sure         = 0.99 // probability on one side of the limit
	settleTimes  = 2.0  // settling times that must have passed
	leastHoldS   = 20.0
	leastSettleS = 60.0 // the same where anything settles
	leastReading = 4
	unseenCreep  = 0.5 // of the settling seen may still come, slowly
)

// A call made while watching is made with a little to spare, so that the next
// reading does not take it back and the whole hold, judged later, says the same.
const (
	firmSure = 0.995
	firmTime = 1.1
	firmRest = 0.9
)

var zSure = -math.Sqrt2 * math.Erfcinv(2*sure)

// The declared band of indifference about the limit.
const (
	bandLow  = 0.8
	bandHigh = 1.25
)

// report judges what has been gathered of one hold.
func (r *running) report(q Question) Report {
	limit := q.limit()
	at := r.startPa
	if q.AtPa != nil {
		at = *q.AtPa
	}
	rep := Report{Version: 1, Judge: Version, Call: NotYet, Shape: ShapeUnclear, RunnerUp: ShapeUnclear, ProbabilityLeaking: 0.5,
		LimitKPaPerMin: kpaPerMin(limit), TestPressureKPa: kpa(at), Steps: []StepReport{}, Schools: []SchoolReport{}, Readings: r.n, HeldS: r.lastT}
	if r.n < 3 || r.lastT <= 0 {
		rep.Why = []string{fmt.Sprintf("Too early: %d of at least 3 readings.", r.n)}
		return rep
	}
	if math.Abs(at) < 500 {
		rep.Why = []string{"There is no pressure to judge: pump up first."}
		return rep
	}
	f := r.fit(r.sign*at, q.AmbientPa, limit)
	dither := r.ditherDoubt()
	mix := f.rates(false, dither*dither+q.RigSE*q.RigSE)
	for i := range mix {
		mix[i].mean -= q.RigPaPerS
		mix[i].sd = math.Hypot(mix[i].sd, mix[i].mean*q.Gauge.ClassPercent/200)
	}
	rate := Interval{mean(mix), quantile(mix, 0.025), quantile(mix, 0.975)}
	rep.RateKPaPerMin = &Interval{kpaPerMin(rate.Value), kpaPerMin(rate.Low), kpaPerMin(rate.High)}
	// A tight call grants every hold some leak; a leaking one grants it none unless
	// the data ask for it, and that slower creep than was seen may feign one.
	granted := 1 - below(mix, limit)
	leaky := f.families[famLeak] + f.families[famSettlingLeak]
	beyond := leaky * (1 - below(mix, limit+f.slowDoubt(r.lastT)))
	rep.ProbabilityLeaking = granted
	if granted > 0.5 {
		rep.ProbabilityLeaking = math.Max(0.5, granted*leaky)
	}
	rep.AtLimit = rate.Low >= bandLow*limit && rate.High <= bandHigh*limit
	f.name(&rep, rate)
	settle := f.settleTime()
	if rep.Shape == ShapeSettling || rep.Shape == ShapeSettlingLeak {
		rep.SettleS = settle
	}
	r.size(&rep, q, rate, at)

	need := leastHoldS
	settles := f.families[famSettling]+f.families[famSettlingLeak] > 0.5
	if settle != nil && settles {
		need = math.Max(need, settleTimes*settle.Value)
	}
	if settles {
		need = math.Max(need, leastSettleS)
	}
	waited := r.lastT >= need-1e-9 && r.n >= leastReading
	late := r.lastT >= firmTime*need
	switch {
	case rep.Shape == ShapeRising:
	case waited && beyond >= sure:
		rep.Call = Leaking
		rep.Firm = late && beyond >= firmSure
	case waited && granted <= 1-sure && f.restsWithin(limit+q.RigPaPerS):
		rep.Call = Tight
		rep.Firm = late && granted <= 1-firmSure && f.restsWithin(firmRest*limit+q.RigPaPerS)
	}
	rep.MoreS = r.more(f, mix, limit, need, &rep)
	rep.Fork = r.fork(f, q, limit, r.cadence())
	r.explain(&rep, q, rate, limit, need)
	return rep
}

// restsWithin tells whether the whole fall has surely come below the allowance.
// While it is still greater, "that is only settling" leans on the creep having
// exactly a shape of the library, and a leak can hide in what remains.
func (f *fitted) restsWithin(limit float64) bool {
	return below(f.falling(), limit) >= sure
}

// slowDoubt is the loss (Pa/s) that creep slower than the one seen could feign:
// half as large an amplitude, at the time constant that shows most at t. It
// vanishes where nothing settles and once the slowest rubber is done.
func (f *fitted) slowDoubt(t float64) float64 {
	seen := 0.0
	for i := 1; i <= f.settling.settle; i++ {
		if f.settling.cols[i] < colExpD {
			seen += math.Abs(f.settling.mean[i])
		}
	}
	tau := math.Min(t, tauMost)
	settles := f.families[famSettling] + f.families[famSettlingLeak]
	return settles * unseenCreep * seen * math.Exp(-t/tau) / tau
}

// name picks the shape with the larger share and its runner-up.
func (f *fitted) name(rep *Report, rate Interval) {
	shapes := [4]Shape{ShapeTight, ShapeSettling, ShapeLeak, ShapeSettlingLeak}
	order := []int{0, 1, 2, 3}
	sort.SliceStable(order, func(i, j int) bool { return f.families[order[i]] > f.families[order[j]] })
	rep.Shape, rep.ShapeShare = shapes[order[0]], f.families[order[0]]
	rep.RunnerUp, rep.RunnerUpShare = shapes[order[1]], f.families[order[1]]
	if rate.High < 0 && order[0] >= int(famLeak) {
		rep.Shape = ShapeRising
	}
}

// settleTime is the time in which the settling part falls to 1/e, with the
// spread between the likely fits.
func (f *fitted) settleTime() *Interval {
	type weighed struct{ t, w float64 }
	var all []weighed
	add := func(c *component, w float64) {
		if c.settle > 0 && c.cols[1] < colExpD {
			all = append(all, weighed{c.fallToE(), w})
		}
	}
	for i := range f.leaking {
		add(&f.leaking[i], f.leaking[i].weight*(f.families[famSettlingLeak]+1e-9))
	}
	if f.settling.n > 0 {
		add(&f.settling, f.families[famSettling])
	}
	if len(all) == 0 {
		return nil
	}
	sort.Slice(all, func(i, j int) bool { return all[i].t < all[j].t })
	total := 0.0
	for _, a := range all {
		total += a.w
	}
	at := func(p float64) float64 {
		sum := 0.0
		for _, a := range all {
			if sum += a.w; sum >= p*total {
				return a.t
			}
		}
		return all[len(all)-1].t
	}
	mid := at(0.5)
	// A grid node stands for the times of its cell.
	edge := math.Exp(halfStep)
	return &Interval{mid, math.Min(at(0.025), mid/edge), math.Max(at(0.975), mid*edge)}
}

// fallToE finds where the component's settling part has fallen to 1/e.
func (c *component) fallToE() float64 {
	part := func(t float64) float64 {
		v := 0.0
		for i := 1; i <= c.settle; i++ {
			tau := taus[(c.cols[i]-colExp)%tauCount]
			e := math.Exp(-t / tau)
			if c.cols[i] >= colExpD {
				e *= t / tau
			}
			v += c.mean[i] * e
		}
		return v
	}
	start := part(0)
	low, high := 0.0, 4*tauMost
	if start == 0 || part(high)/start > 1/math.E {
		return high
	}
	for range 40 {
		mid := (low + high) / 2
		if part(mid)/start > 1/math.E {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// size turns the loss into a flow, a hole and a loss of coolant, where the
// trapped air is known.
func (r *running) size(rep *Report, q Question, rate Interval, atPa float64) {
	if q.GasM3 <= 0 {
		return
	}
	doubt := 1.96 * q.GasSE / q.GasM3
	flow := func(x, side float64) float64 {
		return physics.StandardFlow(x, q.GasM3, physics.StandardK) * (1 + side*doubt)
	}
	away := func(x float64) float64 {
		if x < 0 {
			return -1
		}
		return 1
	}
	fl := Interval{flow(rate.Value, 0), flow(rate.Low, -away(rate.Low)), flow(rate.High, away(rate.High))}
	each := func(g func(float64) float64) *Interval {
		return &Interval{g(fl.Value), g(fl.Low), g(fl.High)}
	}
	inside := atPa + q.AmbientPa
	from, to := math.Max(inside, q.AmbientPa), math.Min(inside, q.AmbientPa)
	rep.FlowCm3PerMin = each(func(x float64) float64 { return x * 60e6 })
	rep.HoleUm = each(func(x float64) float64 { return 1e6 * physics.EquivalentHole(x, from, to, physics.StandardK) })
	if q.Coolant && atPa > 0 {
		rep.LossMLPerH = each(func(x float64) float64 {
			return 3600e6 * math.Max(0, physics.LiquidOfGas(x, from, to, atPa, physics.MuCoolantHot))
		})
	}
}

func (r *running) explain(rep *Report, q Question, rate Interval, limit, need float64) {
	say := func(format string, a ...any) { rep.Why = append(rep.Why, fmt.Sprintf(format, a...)) }
	show := func(x float64) string { return quantity.Significant(kpaPerMin(x), 2) }
	odds := ""
	if rep.RunnerUpShare > 0 && rep.ShapeShare/rep.RunnerUpShare < 100 {
		odds = fmt.Sprintf(" (%s to 1 against %s)", quantity.Significant(rep.ShapeShare/rep.RunnerUpShare, 2), words[rep.RunnerUp])
	}
	switch rep.Call {
	case Tight:
		if rep.Shape == ShapeSettling || rep.Shape == ShapeTight {
			say("Holding: it loses less than the allowance of %s kPa a minute.", show(limit))
		} else {
			say("Losing %s kPa a minute, less than the %s allowed.", show(rate.Value), show(limit))
		}
	case Leaking:
		say("Losing %s kPa a minute (%s to %s); %s is allowed.", show(rate.Value), show(rate.Low), show(rate.High), show(limit))
	default:
		switch {
		case rep.Shape == ShapeRising:
			say("The pressure rises: heat or gas coming in, and a rise can hide a leak. Let the temperature stand still and hold again.")
		case r.lastT < need:
			say("Too early to say: settling goes on; at least %s of hold is wanted.", quantity.Clock(need))
		case rep.AtLimit:
			say("At the limit: between %s and %s kPa a minute, and %s is allowed. Neither side can honestly be called.", show(rate.Low), show(rate.High), show(limit))
		default:
			say("Not yet: between %s and %s kPa a minute, and %s is allowed.", show(rate.Low), show(rate.High), show(limit))
		}
		if rep.MoreS != nil && *rep.MoreS > 0 {
			say("About %s more should tell.", quantity.Clock(*rep.MoreS))
		}
	}
	if step, fall := q.Gauge.StepPa(), limit*r.lastT; rep.Call == NotYet && step > fall {
		say("This gauge cannot show the limit yet: one step is %s kPa, the allowance so far %s kPa.", quantity.Significant(kpa(step), 2), quantity.Significant(kpa(fall), 2))
	}
	say("Shape: %s%s.", words[rep.Shape], odds)
	if rep.Call == Leaking && q.RigProven != nil && !*q.RigProven {
		say("This result has not survived a rig proof: the tester, its hose and its adapter may be what leaks.")
	}
	for _, n := range q.NotTested {
		say("%s", n)
	}
	say("Called under a provisional rule: at least 99 in 100 sure and two settling times.")
}

var words = map[Shape]string{
	ShapeTight: "still", ShapeSettling: "settling, not leaking", ShapeLeak: "a steady loss",
	ShapeSettlingLeak: "settling, then a steady loss", ShapeRising: "rising", ShapeUnclear: "not clear",
}
