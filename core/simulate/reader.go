package simulate

import (
	"math"
	"math/rand/v2"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Reader is how a simulated gauge shows a pressure. The same seed and the same
// count of readings give the same noise again, so that a gauge can be resumed.
type Reader struct {
	StepPa  float64 // last digit, or the fraction of a division a person reads
	NoisePa float64
	Seed    uint64
}

// Show is what the gauge shows as its n-th reading.
func (r Reader) Show(gaugePa float64, n int) float64 {
	rng := rand.New(rand.NewPCG(r.Seed, uint64(n)))
	v := gaugePa + r.NoisePa*rng.NormFloat64()
	if r.StepPa > 0 {
		v = math.Round(v/r.StepPa) * r.StepPa
	}
	return v
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

// Trace plays the run.
func (r Run) Trace() (*trace.Trace, error) {
	sim, err := New(r.System)
	if err != nil {
		return nil, err
	}
	tr := &trace.Trace{Unit: r.Unit, DigitPa: r.Reader.StepPa}
	n := 0
	note := func() {
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
	return tr, nil
}

func round(s float64) float64 { return math.Round(s*1000) / 1000 }

// StdM3PerS is cm³/min as people say it, in SI.
func StdM3PerS(cm3PerMin float64) float64 { return cm3PerMin * 1e-6 / 60 }

// RatePaPerS is the steady loss that a standard flow makes from a gas volume.
func RatePaPerS(stdM3PerS, gasM3 float64) float64 {
	return physics.RateOfFlow(stdM3PerS, gasM3, physics.StandardK)
}
