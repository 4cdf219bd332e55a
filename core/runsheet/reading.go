package runsheet

import (
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// TypedOn reads what a person typed of the gauge, in any unit: a bare figure is in the unit of its ring.
// The answer is in that unit; ambient (Pa absolute) turns an absolute pressure into a gauge one. Under
// vacuum 7 and −7 mean the same.
func (g Gauge) TypedOn(text string, draws bool, ambientPa float64) (float64, error) {
	ring, u := g.Ring()
	v, err := quantity.Parse(text, quantity.Pressure, u, ambientPa)
	switch {
	case err != nil:
		return 0, err
	case v.Band():
		return 0, fmt.Errorf("%q is two figures. Type the one that the gauge shows, such as %g", text, ring.To/2)
	}
	value := math.Round(u.Of(v.Low)*1e6) / 1e6
	if draws && value > 0 {
		value = -value
	}
	return value, nil
}

// LookWhy is why a gauge is to be read at a moment.
type LookWhy string

// The reasons to read a gauge.
const (
	LookFirst   LookWhy = "first"   // nothing was read since the supply was shut
	LookEarly   LookWhy = "early"   // the first minutes show the settling
	LookSettles LookWhy = "settles" // this reading may settle the call
	LookWatch   LookWhy = "watch"   // the fall is followed at a spacing that grows with it
	LookProof   LookWhy = "proof"   // a rig proof needs so many readings
	LookLeft    LookWhy = "left"    // the hold runs on without its person
)

// Values lists every reason.
func (LookWhy) Values() []string {
	return []string{string(LookFirst), string(LookEarly), string(LookSettles), string(LookWatch), string(LookProof), string(LookLeft)}
}

// NextReading is when a person reads the gauge next, and why.
type NextReading struct {
	AtS  float64 `json:"t"` // on the hold's axis
	Why  LookWhy `json:"why" enum:"first,early,settles,watch,proof,left"`
	Says string  `json:"says"`
}

// Looking is what the next reading follows from. Times are on the hold's axis, s.
type Looking struct {
	ShutS   float64   // the supply was shut
	ReadS   []float64 // readings since then that count, in order
	MoreS   *float64  // until the call is expected, from the last reading; nil: not known
	Called  bool
	Proof   bool // of the rig alone
	LeftRun bool // the person has gone
}

// When a person reads: often at first, then at a share of the time held, so that equal falls are seen with
// equal care; a hold that was left is looked in on. Shop practice, as DOMAIN's schools have it.
const (
	earlyEveryS  = 20.0
	earlyHeldS   = 60.0
	watchShare   = 1. / 3
	mostEveryS   = 300.0
	leftEveryS   = 900.0
	mostLeftS    = 3600.0
	proofEveryS  = 30.0
	proofReading = 3
)

// ReadNext is when the gauge is read next; nil where nothing more is wanted.
func ReadNext(l Looking) *NextReading {
	n := len(l.ReadS)
	switch {
	case l.Called:
		return nil
	case n == 0:
		return &NextReading{AtS: l.ShutS, Why: LookFirst, Says: "the fall is counted from the first reading"}
	case l.Proof && n < proofReading:
		at := math.Max(l.ReadS[0]+float64(n)*proofEveryS, l.ReadS[n-1]+proofEveryS/2)
		return &NextReading{AtS: at, Why: LookProof, Says: fmt.Sprintf("reading %d of %d, half a minute apart", n+1, proofReading)}
	}
	last := l.ReadS[n-1]
	held := last - l.ShutS
	if l.LeftRun {
		return &NextReading{AtS: last + math.Min(mostLeftS, math.Max(leftEveryS, watchShare*held)), Why: LookLeft, Says: "it runs on without you"}
	}
	wait, why, says := math.Min(mostEveryS, math.Max(earlyEveryS, watchShare*held)), LookWatch, "the longer it holds, the less often"
	if held < earlyHeldS {
		why, says = LookEarly, "the first minutes show the settling"
	}
	if more := l.MoreS; more != nil && *more > 0 && *more <= wait {
		wait, why, says = math.Max(earlyEveryS, *more), LookSettles, "that may settle it"
	}
	return &NextReading{AtS: last + wait, Why: why, Says: says}
}
