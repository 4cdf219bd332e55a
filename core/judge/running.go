package judge

import (
	"math"

	"idlehiss/core/trace"
)

// bin is the running sums of neighbouring readings: weights are 1/σ² of nominal
// reading errors, t in seconds from the start of the hold, y the change since
// the first reading, Pa, positive away from ambient.
type bin struct {
	from            float64
	w, wt, wy       float64
	n               int
	meanT, meanY    float64 // kept current
	firstT, finishT float64
}

func (b *bin) add(t, y, w float64) {
	if b.n == 0 {
		b.from, b.firstT = t, t
	}
	b.finishT = t
	b.w += w
	b.wt += w * t
	b.wy += w * y
	b.n++
	b.meanT, b.meanY = b.wt/b.w, b.wy/b.w
}

// A bin spans a fixed share of the time since the start, so that settling is
// resolved early and an hour takes hardly more bins than a minute.
const (
	binShare = 1.0 / 48
	binLeast = 0.25 // s
)

// running gathers one hold reading by reading. What a call costs depends on the
// number of bins, which grows with the logarithm of the time.
type running struct {
	gauge   Gauge
	sign    float64 // +1 above ambient, −1 below
	t0, y0  float64 // first reading: file time, signed gauge Pa
	startPa float64 // first reading, gauge Pa
	bins    []bin
	full    design // of all bins but the last
	fitted  *fitted
	fittedN int // how many readings it was fitted to
	n       int
	lastT   float64 // since t0
	lastY   float64
	prevY   float64 // the reading before the last
	diffs   float64 // sum of squared successive differences
	bends   float64 // sum of squared second differences
	low     float64 // range of y
	high    float64
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
	sigma := r.gauge.readSigma()
	if x.How == trace.Mark {
		sigma = r.crossing(t, y)
	}
	if r.n > 0 {
		d := y - r.lastY
		r.diffs += d * d
	}
	if r.n > 1 {
		b := y - 2*r.lastY + r.prevY
		r.bends += b * b
	}
	last := len(r.bins) - 1
	if last < 0 || t >= r.bins[last].from+math.Max(binLeast, t*binShare) {
		r.bins = append(r.bins, bin{})
		last++
	}
	r.bins[last].add(t, y, 1/(sigma*sigma))
	r.low, r.high = math.Min(r.low, y), math.Max(r.high, y)
	r.prevY, r.lastT, r.lastY = r.lastY, t, y
	r.n++
}

// crossing is the standard error (Pa) of a crossing: the pressure is exact, the
// moment is not, so its error is the fall within that error of time.
func (r *running) crossing(t, y float64) float64 {
	least := crossingSigma * r.gauge.DivisionPa
	if r.gauge.DivisionPa == 0 {
		least = r.gauge.DigitalPa
	}
	slope := 0.0
	if dt := t - r.lastT; r.n > 0 && dt > 0 {
		slope = math.Abs(y-r.lastY) / dt
	}
	return math.Hypot(least, slope*crossingTimeS)
}

// noiseScale is the reading variance as a multiple of the nominal one. A needle's
// is known; a digital gauge's is told by second differences, which a smooth trend
// leaves alone, mixed with four readings' worth of the nominal figure and never
// below what rounding alone makes.
func (r *running) noiseScale() float64 {
	if r.gauge.DivisionPa > 0 {
		return 1
	}
	nominal := r.gauge.readSigma()
	sum, n := 4.0, 4.0
	if r.n > 2 {
		sum += r.bends / 6 / (nominal * nominal)
		n += float64(r.n - 2)
	}
	return math.Max(sum/n, 1/(12*digitalSigma*digitalSigma))
}

// cadence is the usual time between readings, s.
func (r *running) cadence() float64 {
	if r.n < 2 || r.lastT <= 0 {
		return 1
	}
	return r.lastT / float64(r.n-1)
}

// ditherDoubt is what quantisation alone leaves open in the rate, Pa/s. A gauge
// that has shown one figure all the time has told one inequality; once noise or
// several steps blur the figure, averaging helps.
func (r *running) ditherDoubt() float64 {
	step := r.gauge.DigitalPa
	if step <= 0 || r.lastT <= 0 || r.n < 2 {
		return 0
	}
	noise := math.Sqrt(r.diffs / 2 / float64(r.n-1))
	sharp := math.Max(0, 1-2*noise/step)
	steps := (r.high - r.low) / step
	return sharp * step / math.Sqrt(6) / r.lastT / math.Max(1, steps)
}
