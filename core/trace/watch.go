package trace

import (
	"fmt"
	"math"
	"slices"

	"idlehiss/core/quantity"
)

// GaugeFault is a way in which a gauge that reads by itself stops being believable.
type GaugeFault string

// The faults that a stream of readings can show.
const (
	Silent    GaugeFault = "silent"     // nothing comes any more
	Stuck     GaugeFault = "stuck"      // the same figure again and again, by a gauge that never does that
	Jumped    GaugeFault = "jumped"     // away and back within moments: no pressure does that
	OffScale  GaugeFault = "off-scale"  // past the end of its scale
	OtherUnit GaugeFault = "other-unit" // all at once smaller or larger by the ratio of two units
	Unseen    GaugeFault = "unseen"     // a camera before its face sees no needle
)

// Gap is what a fault leaves in a trace, in words; a spike leaves none.
func (f GaugeFault) Gap() string {
	return map[GaugeFault]string{Silent: "no reading from the gauge", Stuck: "the gauge was stuck",
		OffScale: "the gauge was off its scale", OtherUnit: "the gauge showed another unit", Unseen: "the camera did not see the needle"}[f]
}

// Watch looks over one gauge's readings as they come, so that a gauge at fault is
// named and what it said meanwhile is left out. It judges the gauge, never the
// pressure: a burst hose falls as fast as a spike, but it does not come back.
type Watch struct {
	LowPa, HighPa float64       // ends of its scale
	DigitPa       float64       // last digit
	Unit          quantity.Unit // in which it is taken to speak
	Counts        bool          // it counts its measurements, which tells a frozen one

	last    []float64 // latest readings that stand
	pending []int     // sequences held back until the next tells
	away    []float64 // and what they said
	awayAt  float64
	run     []int   // sequences of one and the same figure
	freshAt float64 // of the latest measurement that was new, s
	again   float64 // chance at most that the figure of the run is given again
	count   uint64
	counted bool
	fault   GaugeFault
	stuckAt float64
}

// Finding is what a reading changes.
type Finding struct {
	Fault  GaugeFault // what is wrong now; "" when nothing is
	Says   string     // and the remedy
	Doubt  bool       // no call should lean on the latest readings yet
	Stand  []int      // sequences that are believed from now on
	Strike []int      // sequences that are not
	Why    string     // they are struck
}

const (
	watchKeeps  = 160  // readings that tell a gauge's noise
	watchNoise  = 12   // as many are needed
	watchLeaps  = 3    // second differences of three digits, which no gauge makes by lying between two figures
	jumpShare   = 0.02 // of the scale
	atRest      = 0.01 // of the scale, within which a gauge may show zero and nothing else
	comesBack   = 3    // readings in which a spike comes back
	lastsS      = 1.5  // and as long at least
	unitMatch   = 0.02 // of the ratio
	leastFigure = 20   // digits, below which a ratio says nothing
	doubtsStuck = 1e-3 // chance that a gauge repeats itself so often, for no call to be made
	surelyStuck = 1e-7 // and for it to be called stuck
	sameCountS  = 1.0  // a counter at rest for so long is stuck
	stuckWhy    = "the gauge was stuck"
)

// Look takes one reading. still says that nothing was done to the pressure in the
// last moments: the supply is shut, no stroke, no bleeding. count is the gauge's
// own, where it has one.
func (w *Watch) Look(seq int, r Reading, still bool, count uint64) Finding {
	v := r.GaugePa
	if w.Counts && w.counted && count == w.count && len(w.last) > 0 {
		return w.sameCount(seq, r)
	}
	w.count, w.counted, w.freshAt = count, true, r.AtS
	if (still || w.fault == OtherUnit) && w.far(v) {
		return w.strayed(seq, r)
	}
	if w.fault == Stuck && !w.Counts && v == w.stuckAt {
		return Finding{Fault: Stuck, Doubt: true, Strike: []int{seq}, Why: stuckWhy}
	}
	if w.off(v) {
		w.fault = OffScale
		w.run = w.run[:0]
		return Finding{Fault: OffScale, Doubt: true, Strike: []int{seq}, Why: "the gauge is off its scale", Says: w.says(v)}
	}
	f := Finding{Stand: []int{seq}}
	if len(w.pending) > 0 {
		f.Strike = w.pending
		f.Why, f.Says, f.Fault = "the gauge jumped and came back", fmt.Sprintf("The gauge jumped to %s and back: that was not the pressure. Look at its plug and cable.", w.Unit.Show(w.away[0], w.DigitPa)), Jumped
		if w.fault == OtherUnit {
			f.Why, f.Says, f.Fault = "the gauge showed another unit", "", ""
		}
		w.pending, w.away = nil, nil
	}
	w.fault = ""
	w.repeats(seq, r, &f)
	if w.last = append(w.last, v); len(w.last) > watchKeeps {
		w.last = slices.Delete(w.last, 0, len(w.last)-watchKeeps)
	}
	return f
}

// Done tells the watch that something was done to the pressure, so that what went
// before says nothing of what comes.
func (w *Watch) Done() {
	if w.fault != OtherUnit {
		w.last, w.run = w.last[:0], w.run[:0]
	}
}

// sameCount is a reading that the gauge has already given once.
func (w *Watch) sameCount(seq int, r Reading) Finding {
	f := Finding{Strike: []int{seq}, Why: "the gauge repeated itself", Fault: w.fault}
	if r.AtS-w.freshAt >= sameCountS {
		w.fault, f.Fault, f.Doubt = Stuck, Stuck, true
		f.Says = w.says(r.GaugePa)
	}
	return f
}

// off reports whether a value lies past the scale's ends, or at its upper stop.
func (w *Watch) off(v float64) bool {
	span := w.HighPa - w.LowPa
	return math.IsNaN(v) || v >= w.HighPa-w.DigitPa/2 || v < w.LowPa-0.02*span
}

// far reports whether a value lies away from where the gauge stood, by more than
// its noise and more than a hose gives way in one reading.
func (w *Watch) far(v float64) bool {
	if len(w.last) < 3 {
		return false
	}
	return !(math.Abs(v-w.base()) <= math.Max(math.Max(8*w.noise(), 4*w.DigitPa), jumpShare*(w.HighPa-w.LowPa)))
}

// base is where the gauge stood, Pa.
func (w *Watch) base() float64 {
	part := slices.Clone(w.last[max(0, len(w.last)-3):])
	slices.Sort(part)
	return part[len(part)/2]
}

// noise is one standard deviation of a reading, from second differences, which a
// steady fall does not touch.
func (w *Watch) noise() float64 {
	n := len(w.last) - 2
	if n < watchNoise-2 {
		return w.DigitPa
	}
	sum := 0.0
	for i := range n {
		d := w.last[i] - 2*w.last[i+1] + w.last[i+2]
		sum += d * d
	}
	return math.Sqrt(sum / float64(n) / 6)
}

// strayed holds back a reading far from the others until the next ones tell.
func (w *Watch) strayed(seq int, r Reading) Finding {
	if len(w.pending) == 0 {
		w.awayAt = r.AtS
	}
	w.pending, w.away = append(w.pending, seq), append(w.away, r.GaugePa)
	w.run = w.run[:0]
	f := Finding{Doubt: true, Fault: w.fault}
	if len(w.pending) < comesBack || r.AtS-w.awayAt < lastsS {
		if w.fault == OffScale || w.off(r.GaugePa) {
			w.fault = OffScale
			f.Fault, f.Says = OffScale, w.says(r.GaugePa)
		}
		return f
	}
	if u, ok := w.otherUnit(); ok {
		w.fault = OtherUnit
		return Finding{Fault: OtherUnit, Doubt: true, Strike: w.take(), Why: "the gauge showed another unit",
			Says: fmt.Sprintf("The gauge seems to show %s now, not %s. Put it back to %s; what it says meanwhile is left out.", u, w.Unit.Symbol, w.Unit.Symbol)}
	}
	if w.off(r.GaugePa) {
		w.fault = OffScale
		return Finding{Fault: OffScale, Doubt: true, Strike: w.take(), Why: "the gauge is off its scale", Says: w.says(r.GaugePa)}
	}
	// It stays away: the pressure itself has moved.
	w.last, w.fault = append(w.last[:0], w.away...), ""
	away := w.pending
	w.pending, w.away = nil, nil
	return Finding{Stand: away}
}

// take gives what was held back and keeps its last value to tell the return by.
func (w *Watch) take() []int {
	held := w.pending
	w.pending = nil
	if len(w.away) > comesBack {
		w.away = slices.Delete(w.away, 0, len(w.away)-comesBack)
	}
	// The next reading that is still away is struck at once.
	w.awayAt = math.Inf(-1)
	return held
}

// otherUnit finds the unit whose ratio to the gauge's own the step has.
func (w *Watch) otherUnit() (string, bool) {
	base := w.base()
	if math.Abs(base) < 0.02*(w.HighPa-w.LowPa) {
		return "", false // near zero every unit reads alike
	}
	best, name := unitMatch, ""
	for _, u := range quantity.UnitsOf(quantity.Pressure) {
		// A figure in u, taken for one in the gauge's own unit.
		want := base * w.Unit.Factor / u.Factor
		if u.Symbol == w.Unit.Symbol || math.Abs(want) < leastFigure*w.DigitPa {
			continue
		}
		worst := 0.0
		for _, v := range w.away[len(w.away)-comesBack:] {
			worst = math.Max(worst, math.Abs(v-want)/math.Abs(want))
		}
		if worst < best {
			best, name = worst, u.Symbol
		}
	}
	return name, name != ""
}

// repeats looks at runs of one figure. A gauge quieter than its last digit may
// show one for minutes; one with noise cannot.
func (w *Watch) repeats(seq int, r Reading, f *Finding) {
	n := len(w.last)
	if n == 0 || w.last[n-1] != r.GaugePa {
		w.run = append(w.run[:0], seq)
		w.again = w.repeatsItself()
		return
	}
	w.run = append(w.run, seq)
	again := w.again
	if w.Counts || again >= 1 || math.Abs(r.GaugePa) < atRest*(w.HighPa-w.LowPa) {
		return
	}
	switch chance := math.Pow(again, float64(len(w.run)-1)); {
	case chance < surelyStuck:
		w.fault, w.stuckAt = Stuck, r.GaugePa
		// The first of them was still measured.
		*f = Finding{Fault: Stuck, Doubt: true, Strike: slices.Clone(w.run[1:]), Why: stuckWhy, Says: w.says(r.GaugePa)}
		w.run = w.run[:1]
	case chance < doubtsStuck:
		f.Doubt = true
	}
}

// repeatsItself is the chance at most that the gauge gives one figure twice, 1
// where its noise tells nothing of that: at best the pressure lies in the middle
// of a figure's step.
func (w *Watch) repeatsItself() float64 {
	if len(w.last) < watchNoise {
		return 1
	}
	digit := math.Inf(1) // what it truly steps by
	for i := 1; i < len(w.last); i++ {
		if d := math.Abs(w.last[i] - w.last[i-1]); d > 0 {
			digit = math.Min(digit, d)
		}
	}
	digit = math.Max(digit, w.DigitPa)
	leaps := 0
	for i := 2; i < len(w.last); i++ {
		if math.Abs(w.last[i-2]-2*w.last[i-1]+w.last[i]) > 2.5*digit {
			leaps++
		}
	}
	noise := math.Sqrt(math.Max(0, w.noise()*w.noise()-digit*digit/12))
	if leaps < watchLeaps || noise < 0.3*digit {
		return 1
	}
	return math.Erf(digit / 2 / noise / math.Sqrt2)
}

// says is the fault in words with its remedy.
func (w *Watch) says(v float64) string {
	switch w.fault {
	case Stuck:
		return fmt.Sprintf("The gauge is stuck at %s: it repeats one figure. Tap it, or plug it in again; what it says meanwhile is left out.", w.Unit.Show(v, w.DigitPa))
	case OffScale:
		return fmt.Sprintf("The gauge is off its scale, which ends at %s. Look at the pressure on another gauge; what this one says is left out.", w.Unit.Show(w.HighPa, w.DigitPa))
	}
	return ""
}

// Quiet is how long (s) a gauge that speaks every so many seconds may say nothing.
func Quiet(everyS float64) float64 { return math.Max(2, 4*everyS) }
