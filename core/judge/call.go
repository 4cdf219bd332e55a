package judge

import "math"

// The rule, calibrated by the study in core/judge/study (docs/judge.md): a call
// is made when the probability on one side of the limit, prior and shapes and
// all, passes a bound. A whole hold is looked at once; who watches looks at every
// reading, and the bound leaves room for that.
const (
	wholeSure    = .95
	wholeRests   = 0.5 // that the whole fall is within the allowance, for tight
	sureLeaking  = .95
	sureTight    = 0.987
	leastReading = 3   // no count outvotes an interval: three show a slope and its doubt
	settlesWorse = 2.2 // log-likelihood by which mere settling must fit worse before it is called leaking
	leastHoldS   = 10.0
	earlyS       = 60    // until then a leaking call wants more: everything still settles
	idleRise     = 0.1   // of the limit: a rise up to that hides no leak worth a call
	risesSure    = 0.975 // that it rises by more, before it is named rising
	restsSure    = 0.8   // the same as wholeRests while watching
	evenOdds     = 0.5   // before anything was read
)

// TheRule is what of it the study's page prints.
var TheRule = struct{ Whole, WholeTight, LiveTight, SettlesWorse float64 }{wholeSure, 1 - wholeSure, (1 - sureTight) * (1 - firmSpare), settlesWorse}

// A call made while watching is made with a little to spare, so that the whole
// hold, judged later, says the same.
const firmSpare = 0.25 // of the doubt that is left

// Standard errors beyond the allowance at which a call is made while watching.
var (
	zSure    = -math.Sqrt2 * math.Erfcinv(2*sureTight)
	zLeaking = -math.Sqrt2 * math.Erfcinv(2*wholeSure)
)

// The declared band of indifference about the limit.
const (
	bandLow  = 0.8
	bandHigh = 1.25
)

// verdict is the heart of a report, without its figures and words.
type verdict struct {
	f       *fitted
	limit   float64 // Pa/s
	at      float64 // test pressure, gauge Pa
	leaking float64 // probability that the loss exceeds the limit
	call    Call
	firm    bool
	rising  bool
	unread  bool    // warm or cooling, temperature not measured: no call
	rests   float64 // probability that the whole fall is within the allowance
	over    float64 // probability that the loss exceeds the limit, nothing being believed of it beforehand
	waits   Code    // what holds a call back although the interval lies on one side
	much    bool    // it fell by more than settling does, and by more than is allowed
	lost    float64 // Pa: a fall too large for settling, and faster than allowed; else 0
}

// testPa is the pressure at which the loss is told: the one that was asked for, or where the hold
// stood when it was shut well short of that.
func (r *running) testPa(q *Question) float64 {
	if q.AtPa == nil || r.n > 0 && r.short(q) {
		return r.startPa
	}
	return *q.AtPa
}

// short tells a hold that was shut before its pressure was reached.
func (r *running) short(q *Question) bool {
	return q.AtPa != nil && r.startPa / *q.AtPa < reachedShare
}

// decide makes the call, or not. ok is false when there is nothing to judge yet.
func (r *running) decide(q *Question) (v verdict, ok bool) {
	v = verdict{limit: q.limit(), at: r.testPa(q), call: NotYet, leaking: evenOdds}
	if r.n < leastFits || r.lastT <= 0 || math.Abs(v.at) < leastPressurePa {
		return v, false
	}
	if v.f = r.fit(q, r.sign*v.at); v.f == nil {
		return v, false
	}
	prior := ratePrior(q)
	v.leaking = v.f.beyond(prior, v.limit, q.RigPaPerS, v.f.doubt(q)+limitDoubt(q, v.limit))
	v.rests = below(v.f.falling(), v.limit+q.RigPaPerS)
	v.over = 1 - below(v.f.rates(v.f.doubt(q)+limitDoubt(q, v.limit)), v.limit+q.RigPaPerS)
	mix := v.f.rates(v.f.doubt(q))
	v.rising = below(mix, q.RigPaPerS-idleRise*v.limit) > risesSure
	if v.rising || r.n < leastReading || r.lastT < leastHoldS {
		return v, true
	}
	if v.unread = q.WarmthUnread; v.unread {
		return v, true // a hot one is not read as tight, nor a cooling one as leaking
	}
	if v.lost = r.fellBeyond(settlesMost, v.limit+q.RigPaPerS); v.lost > 0 {
		v.call, v.firm = Leaking, true
		return v, true
	}
	v.much = r.fellBeyond(settlesHardly, v.limit+q.RigPaPerS) > 0
	r.choose(q, &v)
	return v, true
}

// choose makes the call of a whole hold, looked at once: where the loss is likely enough beyond
// the limit or within it, or where the whole interval lies on one side. It says whether the call may
// be made while watching too: that is asked after every reading, and settling imitates a leak
// for long.
func (r *running) choose(q *Question, v *verdict) {
	early := math.Min(1, r.lastT/earlyS)
	switch {
	case v.leaking >= wholeSure || v.over >= high95:
		v.call = Leaking
		v.firm = v.leaking >= math.Max(wholeSure, 1-(1-sureLeaking)*early*(1-firmSpare)) && math.Max(v.f.bare[2], v.f.bare[3]) >= v.f.bare[1]+settlesWorse/(early*early)
	case (v.leaking <= 1-wholeSure || v.over <= low95) && v.rests >= wholeRests && !v.much:
		v.call = Tight
		v.firm = v.leaking <= (1-sureTight)*(1-firmSpare) && v.rests >= restsSure
	}
}

// classSE is how many standard errors of the span a gauge's class is taken for: a class is
// the most that a maker lets pass (docs/PHYSICS.md, Reading a gauge).
const classSE = 2

// Shares of the pressure at the start that settling takes: rubber and warm air take 1 to 8 %,
// hardly ever more than settlesHardly, and a fall beyond settlesMost is no settling, however well
// a settling curve fits it (docs/PHYSICS.md, Shapes).
const (
	settlesHardly = 0.15
	settlesMost   = 1.0 / 3
)

// fell is the fall from the first readings to the last, Pa, the temperature taken out.
func (r *running) fell() float64 { return r.bins[0].meanY - r.bins[len(r.bins)-1].meanY }

// fellBeyond is a fall, Pa, beyond a share of the pressure and faster than a limit (Pa/s); else 0.
// A sudden loss is told as what it is.
func (r *running) fellBeyond(share, limit float64) float64 {
	fell := r.fell()
	if len(r.steps) > 0 || fell <= share*math.Abs(r.startPa) || fell <= limit*r.lastT {
		return 0
	}
	return fell
}

// lawDoubt is the standard error of every rate, of itself: no real leak keeps to a law, no
// gas to one temperature and no wall to two times better than that. However many readings,
// the interval is no narrower. Where much of the pressure goes, walls give back and the room for the
// gas changes: by so much of the rate for each whole pressure lost.
const (
	lawDoubt  = 0.01
	wallDoubt = 0.04
)

// doubt is the variance of the rate that no reading lessens: the rig's, the span error of
// the gauge, and that of the laws.
func (f *fitted) doubt(q *Question) float64 {
	rate, _ := f.best.rate()
	e := rate * q.Gauge.ClassPercent / (100 * classSE)
	law := math.Hypot(lawDoubt, wallDoubt*f.fell)
	return q.RigSE*q.RigSE + e*e + law*law*rate*rate + f.thermo*f.thermo
}

// limitDoubt is the variance of a limit that is a flow, from a volume known to
// some per cent.
func limitDoubt(q *Question, limit float64) float64 {
	if q.LimitFlow <= 0 || q.LimitPaPerS > 0 || q.GasM3 <= 0 {
		return 0
	}
	e := limit * q.GasSE / q.GasM3
	return e * e
}

// report judges what has been gathered of one hold: as a whole, or so far, while it is watched.
func (r *running) report(q Question, watched bool) Report {
	v, ok := r.decide(&q)
	spare := v.call != NotYet && watched && !v.firm
	if spare {
		v.call = NotYet
	}
	rep := Report{Version: 1, Judge: Version, Call: v.call, Firm: v.firm, Shape: ShapeUnclear, RunnerUp: ShapeUnclear, ProbabilityLeaking: v.leaking,
		LimitKPaPerMin: kpaPerMin(v.limit), TestPressureKPa: kpa(v.at), Steps: []StepReport{}, Reasons: []Reason{}, Schools: []SchoolReport{}, Readings: r.n, HeldS: r.lastT}
	if !ok {
		if math.Abs(v.at) < leastPressurePa && r.n >= leastFits {
			rep.say(NoPressure)
		} else {
			rep.say(TooFewReadings, figureReadings, float64(r.n), figureLeast, float64(leastToReport))
		}
		return rep
	}
	rep.FellKPa = kpa(r.fell())
	mix := v.f.rates(v.f.doubt(&q) + v.f.fresh())
	for i := range mix {
		mix[i].mean -= q.RigPaPerS
	}
	rate := Interval{quantile(mix, 0.5), quantile(mix, low95), quantile(mix, high95)}
	rep.RateKPaPerMin = &Interval{kpaPerMin(rate.Value), kpaPerMin(rate.Low), kpaPerMin(rate.High)}
	rep.AtLimit = rate.Low >= bandLow*v.limit && rate.High <= bandHigh*v.limit
	v.f.name(&rep)
	r.reportSteps(v.f, &rep)
	if v.rising {
		rep.Shape = ShapeRising
	}
	settle := v.f.settleTime()
	if rep.Shape == ShapeSettling || rep.Shape == ShapeSettlingLeak {
		rep.SettleS = settle
	}
	r.size(&rep, q, v.f, rate, v.at)
	if !q.WarmthUnread { // else no time is promised: what the needle does then is the warmth's doing
		rep.MoreS = r.more(&v, &q, rate.Value)
		rep.Fork = r.fork(v.f, q, v.limit, r.cadence())
	}
	if v.call == Leaking && (rep.Shape == ShapeSettling || rep.Shape == ShapeTight) {
		rep.nameLeak(v.f)
	}
	v.waits = r.waitsFor(&v, &q, rate, spare)
	r.explain(&rep, q, rate, &v)
	if r.short(&q) {
		rep.say(ShutShort, figureHighest, kpa(r.startPa), figureTarget, kpa(*q.AtPa))
	}
	rep.NextStep = r.next(&v, &rep, &q)
	if v.unread {
		rep.sayFirst(WarmthNotRead)
		next := because(NextReadTemp)
		rep.NextStep = &next
	}
	return rep
}

// waitsFor is what holds a call back that the interval of the rate (Pa/s) alone would make; empty
// where it would not, or where it is said already.
func (r *running) waitsFor(v *verdict, q *Question, rate Interval, spare bool) Code {
	switch {
	case v.call != NotYet || v.rising || v.unread || rate.Low <= v.limit && rate.High >= v.limit:
		return ""
	case spare:
		return WaitsToBeSure
	case r.lastT < leastHoldS:
		return HeldTooShort
	case rate.High < v.limit && v.much:
		return FellMuch
	case rate.High < v.limit && v.rests < wholeRests:
		return StillSettles
	case limitDoubt(q, v.limit) > 0:
		return AllowanceUnsure
	}
	return ""
}

// reportSteps tells of each step that is larger than its doubt.
func (r *running) reportSteps(f *fitted, rep *Report) {
	c := &f.best
	for k, s := range f.d.steps {
		i := c.leak - len(f.d.steps) + k
		if size, sd := c.mean[i], math.Sqrt(c.cov[i][i]); math.Abs(size) > 3*sd {
			rep.Steps = append(rep.Steps, StepReport{AtS: r.t0 + s.atS, KPa: kpa(-r.sign * size), Event: s.event})
			rep.Shape = ShapeStep
		}
	}
}
