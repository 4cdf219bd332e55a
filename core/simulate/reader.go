package simulate

import (
	"math"
	"math/rand/v2"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Reader is how a simulated gauge shows a pressure, and how a person reads it. The
// same seed and the same count of readings give the same again, so that a gauge can
// be resumed.
type Reader struct {
	StepPa     float64 // last digit; or, with DivisionPa, what is read to by eye
	DivisionPa float64 // between two printed marks of a needle gauge; 0: digits
	NoisePa    float64
	ZeroPa     float64 // what it shows with nothing on it
	Span       float64 // error of its span, as a share: within its class
	Drops      float64 // share of readings that never come, in runs of some
	Seed       uint64
}

// A needle that stands within so much of a division from a printed mark is read as
// that mark: it draws the eye.
const drawn = 0.12

// dropRun is how many readings a drop-out takes away at once.
const dropRun = 8

// Show is what the gauge shows as its n-th reading.
func (r Reader) Show(gaugePa float64, n int) float64 {
	rng := rand.New(rand.NewPCG(r.Seed, uint64(n)))
	v := r.ZeroPa + gaugePa*(1+r.Span) + r.NoisePa*rng.NormFloat64()
	if r.DivisionPa > 0 {
		if mark := math.Round(v/r.DivisionPa) * r.DivisionPa; math.Abs(v-mark) < drawn*r.DivisionPa {
			return mark
		}
	}
	if r.StepPa > 0 {
		v = math.Round(v/r.StepPa) * r.StepPa
	}
	return v + 0 // no face shows a negative zero
}

// Missing reports whether the n-th reading never comes.
func (r Reader) Missing(n int) bool {
	return r.Drops > 0 && rand.New(rand.NewPCG(r.Seed^0xd20b, uint64(n/dropRun))).Float64() < r.Drops
}

// Run is a whole test played through: pumped, shut, held, let go.
type Run struct {
	System   System
	Reader   Reader
	Unit     quantity.Unit
	StrokeM3 float64
	StrokeS  float64 // time between strokes
	TargetPa float64
	HoldS    float64
	EveryS   float64 // time between readings
	Chamber  int
}

// Trace plays the run and gives with it the system as it stands at the end.
func (r Run) Trace() (*trace.Trace, *Sim, error) {
	sim, err := New(r.System)
	if err != nil {
		return nil, nil, err
	}
	tr := &trace.Trace{Unit: r.Unit, DigitPa: r.Reader.StepPa}
	n := 0
	note := func() {
		if r.Reader.Missing(n) {
			n++
			return
		}
		tr.Readings = append(tr.Readings, trace.Reading{AtS: round(sim.Now()), GaugePa: r.Reader.Show(sim.GaugePa(r.Chamber), n), How: trace.Read})
		n++
	}
	note()
	for strokes := 0; math.Abs(sim.GaugePa(r.Chamber)) < math.Abs(r.TargetPa) && strokes < 400; strokes++ {
		sim.Advance(r.StrokeS)
		sim.Stroke(r.Chamber, math.Copysign(r.StrokeM3, r.TargetPa))
		tr.Events = append(tr.Events, trace.Event{AtS: round(sim.Now()), Kind: trace.Stroke})
		note()
	}
	tr.Events = append(tr.Events, trace.Event{AtS: round(sim.Now()), Kind: trace.Isolate})
	for held := 0.0; held < r.HoldS; held += r.EveryS {
		sim.Advance(r.EveryS)
		note()
	}
	return tr, sim, nil
}

func round(s float64) float64 { return math.Round(s*1000) / 1000 }

// StdM3PerS is cm³/min as people say it, in SI.
func StdM3PerS(cm3PerMin float64) float64 { return cm3PerMin * 1e-6 / 60 }

// RatePaPerS is the steady loss that a standard flow makes from a gas volume.
func RatePaPerS(stdM3PerS, gasM3 float64) float64 {
	return physics.RateOfFlow(stdM3PerS, gasM3, physics.StandardK)
}

// FlowM3PerS is the standard flow that makes a steady loss (Pa/s) in a gas volume.
func FlowM3PerS(paPerS, gasM3 float64) float64 {
	return physics.StandardFlow(paPerS, gasM3, physics.StandardK)
}
