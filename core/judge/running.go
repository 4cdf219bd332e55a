package judge

import (
	"math"

	"idlehiss/core/trace"
)

// bin is the running sums of neighbouring readings: weights are 1/σ² of nominal
// reading errors, t in seconds from the start of the hold, y the change since
// the first reading, Pa, positive away from ambient.
type bin struct {
	from         float64
	w, wt, wy    float64
	n            int
	meanT, meanY float64 // kept current
	figures      []figure
}

// figure is one value that a digital gauge showed within a bin, and when.
type figure struct {
	digits      int64 // y in last digits
	n           int
	sumT        float64
	sumOff      float64 // Pa, by which it is off y: what the temperature made of it
	first, last float64 // s
}

// mostFigures is how many figures of a bin are told apart: a bin with more has
// slid through enough of them for its mean to be as good.
const mostFigures = 4

func (b *bin) add(t, y, w float64) {
	if b.n == 0 {
		b.from = t
	}
	b.w += w
	b.wt += w * t
	b.wy += w * y
	b.n++
	b.meanT, b.meanY = b.wt/b.w, b.wy/b.w
}

func (b *bin) show(t, off float64, digits int64) {
	for i := range b.figures {
		if b.figures[i].digits == digits {
			b.figures[i].n++
			b.figures[i].sumT += t
			b.figures[i].sumOff += off
			b.figures[i].last = t
			return
		}
	}
	if len(b.figures) <= mostFigures {
		b.figures = append(b.figures, figure{digits, 1, t, off, t, t})
	}
}

// A bin spans a fixed share of the time since the start, so that settling is
// resolved early and an hour takes hardly more bins than a minute.
const (
	binShare = 1.0 / 24
	binLeast = 0.25 // s
)

// running gathers one hold reading by reading. What a call costs depends on the
// number of bins, which grows with the logarithm of the time.
type running struct {
	gauge     Gauge
	sign      float64 // +1 above ambient, −1 below
	t0, y0    float64 // first reading: file time, signed gauge Pa
	startPa   float64 // first reading, gauge Pa
	bins      []bin
	full      design // of all bins but the last
	fitted    *fitted
	room      workspace
	aside     workspace // of a fit that is tried
	quietIs   float64   // last digits, the gauge's noise
	quietBins int       // full bins it was estimated from
	fittedN   int       // how many readings it was fitted to
	n         int
	lastT     float64 // since t0
	lastY     float64
	prevY     float64 // the reading before the last
	bends     float64 // sum of squared second differences over the nominal variance
	bendsN    float64
	low       float64 // range of y
	high      float64
	moved     float64 // Pa: what the temperature made of the last reading, away from ambient
	loop      bool    // full of coolant
	perK      float64 // Pa: the same for each kelvin; 0 while none has moved
	jumps
}

func (r *running) add(x trace.Reading) {
	if r.n == 0 {
		r.sign = 1
		if x.GaugePa < 0 {
			r.sign = -1
		}
		r.t0, r.y0, r.startPa = x.AtS, r.sign*x.GaugePa, x.GaugePa
	}
	t, y := x.AtS-r.t0, r.sign*x.GaugePa-r.y0
	one := heldBack{t, y, x.SDPa, x.How}
	if r.holdBack(one) {
		return
	}
	r.take(one, false)
}

// take adds a reading that is believed; fresh starts a bin of its own.
func (r *running) take(x heldBack, fresh bool) {
	t, y, how := x.t, x.y, x.how
	sigma := r.gauge.readSigma()
	switch {
	case x.sd > 0:
		sigma = x.sd
	case how == trace.Mark:
		sigma = r.crossing(t, y)
	}
	r.n++
	r.low, r.high = math.Min(r.low, y), math.Max(r.high, y)
	if r.n > leastReading*2 && r.y0+y < gone*r.y0 {
		r.lastT = t // nothing is left whose loss could be told
		return
	}
	if r.n > 2 && !fresh && how != trace.Mark {
		b := (y - 2*r.lastY + r.prevY) / sigma
		r.bends += math.Min(b*b, mostBend)
		r.bendsN++
	}
	last := len(r.bins) - 1
	if fresh || last < 0 || t >= r.bins[last].from+math.Max(binLeast, t*binShare) {
		r.bins = append(r.bins, bin{})
		last++
	}
	r.bins[last].add(t, y, 1/(sigma*sigma))
	if d := r.gauge.DigitalPa; d > 0 {
		digits := math.Round((y + r.moved) / d)
		r.bins[last].show(t, y-digits*d, int64(digits))
	}
	r.prevY, r.lastT, r.lastY = r.lastY, t, y
}

// gone is the share of the pressure below which readings no longer tell a rate.
const gone = 0.1

// mostBend is the largest square of a second difference, in nominal variances,
// that counts as noise: more is a fast settling.
const mostBend = 36

// crossing is the standard error (Pa) of a crossing: the pressure is exact, the
// moment is not, so its error is the fall within that error of time.
func (r *running) crossing(t, y float64) float64 {
	least := crossingSigma * r.gauge.DivisionPa
	if r.gauge.DivisionPa == 0 {
		least = r.gauge.DigitalPa
	}
	slope := 0.0
	if dt := t - r.lastT; r.n > 1 && dt > 0 {
		slope = math.Abs(y-r.lastY) / dt
	}
	return math.Hypot(least, slope*crossingTimeS)
}

// noiseScale is the reading variance as a multiple of the nominal one. A needle's
// is known; a digital gauge's is estimated from second differences, which a smooth trend
// leaves alone, mixed with four readings' worth of the nominal figure.
func (r *running) noiseScale() float64 {
	if r.gauge.DivisionPa > 0 {
		return 1
	}
	return (4 + r.bends/6) / (4 + r.bendsN)
}

// cadence is the usual time between readings, s.
func (r *running) cadence() float64 {
	if r.n < 2 || r.lastT <= 0 {
		return 1
	}
	return r.lastT / float64(r.n-1)
}
