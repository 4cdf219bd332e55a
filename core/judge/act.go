package judge

import (
	"math"
	"slices"
	"sort"

	"idlehiss/core/trace"
)

// ActVerdict is what an act did to the loss.
type ActVerdict string

// The verdicts of an act.
const (
	ActSlower ActVerdict = "slower"  // the loss after it is below three quarters of that before, at 19 to 1
	ActSame   ActVerdict = "same"    // not so, at 19 to 1
	ActFaster ActVerdict = "faster"  // it is above one and a half times, at 19 to 1
	ActNotYet ActVerdict = "not-yet" // watch on
)

// Where an act is called (docs/CLI.md).
const (
	slowerBelow = 0.75 // of the loss before
	fasterAbove = 1.5
	actSure     = 0.95
)

// ActReport is one act: the steady loss before and after it, the settling in common.
type ActReport struct {
	AtS        float64    `json:"at_s"`
	Event      string     `json:"event"`
	Before     Interval   `json:"before_kpa_per_min"`
	After      Interval   `json:"after_kpa_per_min"`
	Verdict    ActVerdict `json:"verdict" enum:"slower,same,faster,not-yet"`
	OddsSlower float64    `json:"odds_slower"` // that the loss after is below three quarters of that before
	MoreS      *float64   `json:"more_s"`      // to watch until it can be told; 0 when it is; null when it cannot be told
	StepKPa    float64    `json:"step_kpa"`    // by which the needle jumped, positive up
	Over       bool       `json:"over"`        // it was undone, or another came after it: no more is read for it
	Says       string     `json:"says"`        // in words
}

// What the loss after an act may be, as multiples of the loss before: stopped, part of it, untouched, or
// more. Shop practice.
var actBeliefs = [...]struct{ weight, low, high float64 }{
	{0.4, 0, 0.1}, {0.2, 0.1, slowerBelow}, {0.33, 0.92, 1.12}, {0.02, slowerBelow, 0.92}, {0.05, 1.12, 5},
}

// Acts says of every act of the hold what it did to the loss. Each is fitted from the turns before it
// until it is undone: what was done long before tells nothing of it. What was said before more was pumped in
// stays said.
func (l *Live) Acts() []ActReport {
	out := append([]ActReport{}, l.actsPast...)
	hold := l.HoldReadings()
	if len(hold) < leastFits {
		return out
	}
	var turns []trace.Event // at which the slope may change
	endS := math.Max(hold[len(hold)-1].AtS, l.nowS)
	for _, e := range l.tr.Events {
		if e.AtS > hold[0].AtS && (trace.IsAct(e.Kind) || e.Kind == trace.ActOver) {
			turns = append(turns, e)
		}
		if !l.over {
			endS = math.Max(endS, e.AtS)
		}
	}
	for i, e := range turns {
		if !trace.IsAct(e.Kind) {
			continue
		}
		if done, ok := l.acts[e]; ok {
			out = append(out, done)
			continue
		}
		from, to := max(0, i-turnsBefore), min(len(turns), i+turnsAfter)
		for from > 0 && disturbed(hold, turns, from, i) { // one act came right upon another
			from = max(0, from-turnsBefore)
		}
		begin, end := begins(hold, turns, from), endS
		if to < len(turns) {
			end = turns[to].AtS
		}
		first := sort.Search(len(hold), func(k int) bool { return hold[k].AtS >= begin })
		last := sort.Search(len(hold), func(k int) bool { return hold[k].AtS > end })
		if last-first < leastFits {
			continue
		}
		a := newActFit(hold[first:last], turns[from:to], end, &l.q)
		if !a.tells() {
			continue
		}
		rep := a.report(i - from)
		rep.Over = to < len(turns)
		out = append(out, rep)
		if to < len(turns) { // nothing later is looked at: it stays as it is
			if l.acts == nil {
				l.acts = map[trace.Event]ActReport{}
			}
			l.acts[e] = rep
		}
	}
	return out
}

// begins is the moment from which a fit reads whose first turn is from.
func begins(hold []trace.Reading, turns []trace.Event, from int) float64 {
	if from == 0 {
		return hold[0].AtS
	}
	return turns[from-1].AtS
}

// disturbed reports whether most of what a fit would read before a turn was read while something was done, so
// that the loss before it is hardly known.
func disturbed(hold []trace.Reading, turns []trace.Event, from, turn int) bool {
	quiet, all, begin := 0, 0, begins(hold, turns, from)
	for _, e := range turns[from : turn+1] {
		for _, r := range hold {
			if r.AtS >= begin && r.AtS < e.AtS {
				all++
				if trace.IsAct(e.Kind) {
					quiet++
				}
			}
		}
		begin = e.AtS
	}
	return quiet < max(leastFits, all/2)
}

// How many turns before an act, and from it on, are fitted with it: what comes once it is undone says
// nothing of it.
const (
	turnsBefore = 2
	turnsAfter  = 1
)

// actS is for how long the gauge must be watched after an act, were it done now; nil where half an
// hour would not tell. It is worked out again when the hold has grown by a tenth.
func (l *Live) actS() *float64 {
	hold := l.HoldReadings()
	if len(hold) < leastReading || l.acting {
		return nil
	}
	held := hold[len(hold)-1].AtS - hold[0].AtS
	if l.actHeldS == 0 || held > actAgain*l.actHeldS || held < l.actHeldS {
		l.actHeldS, l.actIs = held, nil
		a := newActFit(hold, []trace.Event{{AtS: hold[len(hold)-1].AtS + 1e-3, Kind: trace.ActPrefix}}, hold[len(hold)-1].AtS, &l.q)
		if a.tells() {
			if s, ok := a.more(0); ok {
				l.actIs = &s
			}
		}
	}
	return l.actIs
}

const actAgain = 1.1

// Acting reports whether something is done to a part now.
func (l *Live) Acting() bool { return l.acting && !l.over }

// Now says how late it is, on the trace's own axis, where no reading says so: that no mark was
// crossed until now is evidence too.
func (l *Live) Now(atS float64) { l.nowS = math.Max(l.nowS, atS) }

// sight is one thing seen of the pressure: a mean of readings, a figure that changed, a mark.
type sight struct{ t, y, sd float64 } // s, Pa fallen away from the first reading (negative), Pa

// actFit is the hold with its turns, fitted once for every time of settling.
type actFit struct {
	turns []trace.Event
	endS  float64
	t0    float64
	sign  float64
	startPa,
	ambPa float64
	gauge Gauge
	seen  []sight
	nodes []actNode
	every float64 // s between sights after the last turn
}

func newActFit(hold []trace.Reading, turns []trace.Event, endS float64, q *Question) *actFit {
	a := &actFit{turns: turns, t0: hold[0].AtS, sign: 1, startPa: math.Abs(hold[0].GaugePa), ambPa: q.AmbientPa, gauge: q.Gauge}
	if hold[0].GaugePa < 0 {
		a.sign = -1
	}
	a.endS = endS - a.t0
	a.look(hold)
	a.every = a.endS / float64(max(1, len(a.seen)))
	if a.startPa >= leastPressurePa {
		a.nodes = a.fit(a.seen)
	}
	return a
}

// tells reports whether there was anything to fit.
func (a *actFit) tells() bool { return len(a.nodes) > 0 }

// look makes sights of readings: bins between the turns, or the moments at which a figure changed.
func (a *actFit) look(hold []trace.Reading) {
	edges := []float64{0}
	for _, e := range a.turns {
		edges = append(edges, e.AtS-a.t0)
	}
	edges = append(edges, math.Inf(1))
	noise := a.noise(hold)
	for k := range len(edges) - 1 {
		var in []sight
		for _, r := range hold {
			if t := r.AtS - a.t0; t >= edges[k] && t < edges[k+1] {
				in = append(in, sight{t, a.sign*r.GaugePa - a.startPa, a.readSD(r)})
			}
		}
		marks := slices.ContainsFunc(hold, func(r trace.Reading) bool { return r.How == trace.Mark })
		until := math.Min(edges[k+1], a.endS)
		switch {
		case a.gauge.DigitalPa > 0 && noise < dithered:
			a.seen = append(a.seen, a.changes(in, noise)...)
		case a.gauge.DigitalPa > 0:
			sd := a.gauge.DigitalPa * math.Sqrt(noise*noise+oneIn)
			a.seen = append(a.seen, binned(in, sd)...)
		case marks:
			if len(in) == 0 && len(a.seen) > 0 {
				a.seen = append(a.seen, a.uncrossed(edges[k], until)...)
			}
			a.seen = append(a.seen, a.crossings(in, until)...)
		default:
			a.seen = append(a.seen, binned(in, 0)...)
		}
	}
}

// readSD is the standard error of one reading of a needle, Pa.
func (a *actFit) readSD(r trace.Reading) float64 {
	if r.SDPa > 0 {
		return r.SDPa
	}
	if r.How == trace.Mark {
		return math.Max(crossingSigma*a.gauge.StepPaOrDigit(), 1e-3)
	}
	return a.gauge.readSigma()
}

// noise of a digital gauge in last digits, from the second differences of what it shows.
func (a *actFit) noise(hold []trace.Reading) float64 {
	d := a.gauge.DigitalPa
	if d <= 0 {
		return 0
	}
	sum, n := 0.0, 0.0
	for i := 2; i < len(hold); i++ {
		b := (hold[i].GaugePa - 2*hold[i-1].GaugePa + hold[i-2].GaugePa) / d
		sum += math.Min(b*b, mostBend)
		n++
	}
	if n == 0 {
		return digitalSigma
	}
	return math.Sqrt(math.Max(0, sum/n/6-oneIn))
}

// mostSights are made of the readings between two turns.
const mostSights = 60

// binned averages readings; sd of one of them, or 0 where each has its own.
func binned(in []sight, sd float64) []sight {
	if len(in) == 0 {
		return nil
	}
	from, span := in[0].t, in[len(in)-1].t-in[0].t
	var out []sight
	last := -1
	for _, s := range in {
		if sd > 0 {
			s.sd = sd
		}
		at := 0
		if span > 0 {
			at = int((s.t - from) / span * (mostSights - 1e-9))
		}
		if at != last {
			out, last = append(out, s), at
			continue
		}
		o := &out[len(out)-1]
		was, now := 1/(o.sd*o.sd), 1/(s.sd*s.sd)
		o.t, o.y = (o.t*was+s.t*now)/(was+now), (o.y*was+s.y*now)/(was+now)
		o.sd = 1 / math.Sqrt(was+now)
	}
	return out
}

// changes are the moments at which a quiet figure changed: there the pressure is half-way between
// the two. Between them it lies somewhere within the figure.
func (a *actFit) changes(in []sight, noise float64) []sight {
	if len(in) == 0 {
		return nil
	}
	d := a.gauge.DigitalPa
	within := d / math.Sqrt(12)
	out := []sight{{in[0].t, in[0].y, within}}
	for i := 1; i < len(in); i++ {
		step := in[i].y - in[i-1].y
		if math.Abs(step) < d/2 {
			continue
		}
		dt := in[i].t - in[i-1].t
		slope := math.Abs(in[len(in)-1].y-in[0].y) / math.Max(in[len(in)-1].t-in[0].t, 1e-9)
		sd := math.Hypot(math.Max(noise, changeNoise)*d, slope*dt/math.Sqrt(12))
		out = append(out, sight{(in[i].t + in[i-1].t) / 2, (in[i].y + in[i-1].y) / 2, math.Hypot(sd, (math.Abs(step)-d)/math.Sqrt(12))})
	}
	if last := in[len(in)-1]; last.t > in[0].t {
		out = append(out, sight{last.t, last.y, within})
	}
	return out
}

// changeNoise is the least noise of a figure that changes, last digits.
const changeNoise = 0.1

// crossings are those of a needle at its marks, with what was read between them; that the next
// mark was not crossed until the end is a sight too.
func (a *actFit) crossings(in []sight, until float64) []sight {
	if len(in) == 0 {
		return nil
	}
	out := slices.Clone(in)
	slope := math.Abs(in[len(in)-1].y-in[0].y) / math.Max(in[len(in)-1].t-in[0].t, 1e-9)
	for i := range out {
		out[i].sd = math.Hypot(out[i].sd, slope*crossingTimeS)
	}
	last := in[len(in)-1]
	if d := a.gauge.DivisionPa; until-last.t > 1 && d > 0 {
		out = append(out, sight{until, last.y - d/2, d / math.Sqrt(12)})
	}
	return out
}

// uncrossed is what is known where no mark was crossed between two moments: the needle stood within
// a division of where it was, a squeeze's lift aside.
func (a *actFit) uncrossed(from, until float64) []sight {
	if until-from <= 1 {
		return nil
	}
	d := a.gauge.DivisionPa
	y, sd := a.seen[len(a.seen)-1].y, uncrossedDoubt*d/math.Sqrt(12)
	return []sight{{from, y, sd}, {until, y, sd}}
}

// uncrossedDoubt widens it, because the lift is not known.
const uncrossedDoubt = 1.5

// StepPaOrDigit is a division of a needle, or a last digit.
func (g Gauge) StepPaOrDigit() float64 { return math.Max(g.DivisionPa, g.DigitalPa) }

// report says what one turn did.
func (a *actFit) report(k int) ActReport {
	out := ActReport{AtS: a.turns[k].AtS, Event: a.turns[k].Kind, Verdict: ActNotYet}
	var before, after []gauss
	step, weight := 0.0, 0.0
	for i := range a.nodes {
		n := &a.nodes[i]
		before = append(before, gauss{n.weight, n.rate(k), n.rateSD(k)})
		after = append(after, gauss{n.weight, n.rate(k + 1), n.rateSD(k + 1)})
		step += n.weight * n.step(k)
		weight += n.weight
	}
	interval := func(mix []gauss) Interval {
		return Interval{kpaPerMin(quantile(mix, 0.5)), kpaPerMin(quantile(mix, low95)), kpaPerMin(quantile(mix, high95))}
	}
	out.Before, out.After, out.StepKPa = interval(before), interval(after), kpa(step/weight*a.sign)
	slower, faster := a.odds(k)
	out.OddsSlower = slower
	switch {
	case slower >= actSure:
		out.Verdict = ActSlower
	case faster >= actSure:
		out.Verdict = ActFaster
	case slower <= 1-actSure:
		out.Verdict = ActSame
	}
	if out.Verdict != ActNotYet {
		out.MoreS = new(0.0)
	} else if more, ok := a.more(k); ok {
		out.MoreS = &more
	}
	return out
}
