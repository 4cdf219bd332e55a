package judge

import (
	"math"

	"idlehiss/core/trace"
)

// A step is a loss at an instant that stays. A reading that jumps is held back
// until the next one tells a step from a slip of the eye or of the wire.

const (
	jumpSigma  = 8.0 // of the difference of two readings, where nothing was noted
	notedSigma = 4.5 // where something was noted between them
	jumpSlope  = 4.0 // times the loss that went before
	notedSlope = 1.5 // where something was noted: the same
	quietest   = 0.4 // of the nominal variance: no gauge is taken for quieter here
)

// heldBack is a reading as a hold takes it: s and Pa since its first, with a standard error of its own where it has one.
type heldBack struct {
	t, y, sd float64
	how      trace.How
}

// sudden is a loss at an instant.
type sudden struct {
	atS    float64 // since the start
	fellPa float64 // about how much
	event  string  // noted there; empty when none was
}

// jumps is what is known of sudden changes in a running hold.
type jumps struct {
	steps  []sudden
	back   *heldBack   // a reading that jumped, not yet believed
	noted  string      // an event since the last reading
	event  string      // the event noted before back
	slips  int         // readings that jumped and came back
	before [3]heldBack // the readings before the last ones, newest first
}

// note remembers what was done, for a step that may follow it.
func (j *jumps) note(kind string) { j.noted = kind }

// holdBack reports whether a reading waits for the next.
func (r *running) holdBack(x heldBack) bool {
	y := x.y
	if b := r.back; b != nil {
		r.back = nil
		was := r.before[0].y
		if math.Abs(y-was) > math.Abs(b.y-was)/2 && (y-was)*(b.y-was) > 0 {
			if len(r.steps) < mostSteps {
				r.steps = append(r.steps, sudden{b.t, math.Abs(y - was), r.event})
				r.take(*b, true)
				r.remember(*b)
				r.take(x, false)
				r.prevY = r.lastY // no bend across a step
				r.remember(x)
				return true
			}
		} else {
			r.slips++
		}
		r.remember(x)
		return false
	}
	noted := r.noted
	r.noted = ""
	if r.n >= leastFits && x.how != trace.Mark && r.jumped(x, noted != "") {
		r.back, r.event = &x, noted
		return true
	}
	r.remember(x)
	return false
}

func (r *running) remember(x heldBack) {
	copy(r.before[1:], r.before[:2])
	r.before[0] = x
}

// jumped compares a change with the noise and with the loss of the readings
// before it: settling only ever slows down.
func (r *running) jumped(x heldBack, noted bool) bool {
	a, c, t, y := r.before[0], r.before[2], x.t, x.y
	if t <= a.t || a.t <= c.t {
		return false
	}
	sigma := r.gauge.readSigma() * math.Sqrt2 * math.Sqrt(math.Max(r.noiseScale(), quietest))
	usual := math.Abs(a.y-c.y) / (a.t - c.t) * (t - a.t)
	if x.how == trace.Camera { // a needle that slips is no loss
		sigma = math.Max(sigma, r.gauge.friction()/jumpSigma)
	}
	bound := jumpSigma*sigma + jumpSlope*usual
	if noted {
		bound = notedSigma*sigma + notedSlope*usual
	}
	return math.Abs(y-a.y) > bound
}
