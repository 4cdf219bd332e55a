// Package files reads what a trace file was taken with, so that it becomes a hold of the book. It owns nothing.
package files

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/holds"
)

// kept are the settings of a "# judge:" line that a hold in the book can keep; a file
// that says more is refused, so that it is not judged otherwise than it asks.
var kept = map[judge.Flag]bool{judge.FlagAmbient: true, judge.FlagAt: true, judge.FlagByStrokes: true, judge.FlagClass: true, judge.FlagDigital: true, judge.FlagDivision: true,
	judge.FlagGas: true, judge.FlagLimit: true, judge.FlagLimitFlow: true, judge.FlagLiquid: true, judge.FlagLive: true, judge.FlagRig: true, judge.FlagStroke: true, judge.FlagWarmthUnread: true}

// Plan is what a job planned in its place.
type Plan struct {
	Gauge  runsheet.Gauge
	Target runsheet.Target
	Wanted runsheet.Wanted
}

// Rig is what a trace file was taken with: what its own judge line says, else
// what the job's plan says (nil: none), else what the data tell.
func Rig(tr *trace.Trace, p *Plan, pump runsheet.Pump, step circuit.Step, schools []judge.School, ambientPa float64) (holds.Rig, error) {
	r := holds.Rig{Pump: pump, AmbientPa: ambientPa, Proven: true, Step: step.ID, Wanted: runsheet.Wanted{From: runsheet.FromHouse}}
	said, err := judge.ParseSettings(tr.Settings)
	if err == nil {
		err = setRig(&r, tr, said, p)
	}
	if err != nil {
		return r, fmt.Errorf("the line '# judge:': %w", err)
	}
	if err := faults(&r); err != nil {
		return r, err
	}
	r.Allowance, _ = r.Wanted.Resolve(step, r.Gauge, schools, r.GasM3, r.Target.Pa, r.AmbientPa)
	return r, nil
}

// set takes over what the judge line and the plan say.
func setRig(r *holds.Rig, tr *trace.Trace, said judge.Settings, p *Plan) error {
	for f := range said {
		if !kept[f] {
			return fmt.Errorf("a hold in the book cannot keep --%s: take it out, or use idlehiss judge", f)
		}
	}
	limit, flow := said[judge.FlagLimit], said.Has(judge.FlagLimitFlow)
	asked := judge.Settings{judge.FlagLimit: "1kPa in 1min"} // the book has an allowance of its own
	q, err := said.Over(asked).Question(tr)
	if err != nil {
		return err
	}
	if said.Has(judge.FlagAmbient) || len(tr.Ambient) > 0 {
		r.AmbientPa = q.AmbientPa
	}
	r.GasM3, r.GasSE, r.ByStrokes, r.Unread, r.LiquidM3 = q.GasM3, q.GasSE, q.GasByStrokes, q.WarmthUnread, q.LiquidM3
	if q.StrokeM3 > 0 {
		stroke, _, err := said.Figure(judge.FlagStroke, quantity.Volume)
		if err != nil {
			return err
		}
		r.Pump = runsheet.Pump{ID: "file", Name: "the pump of the file", StrokeM3: q.StrokeM3, StrokeSE: stroke.SE}
	}
	if said.Has(judge.FlagRig) {
		r.Loss = &holds.RigLoss{PaPerS: q.RigPaPerS, SE: q.RigSE, OnSystem: true}
	}
	var face *runsheet.Gauge
	if p != nil {
		face = &p.Gauge
	}
	r.Gauge = runsheet.GaugeOfTrace(tr, q.Gauge, face)
	switch {
	case q.AtPa != nil:
		r.Target.Pa = *q.AtPa
	case p != nil:
		r.Target = p.Target
	default:
		r.Target.Pa = runsheet.PressureAtShut(tr)
	}
	highest := math.Abs(r.Target.Pa)
	for _, x := range tr.Readings {
		highest = math.Max(highest, math.Abs(x.GaugePa))
	}
	r.Limit = runsheet.Limit{Of: "trace", Pa: highest, CeilingPa: highest}
	if p != nil {
		r.Limit, r.Wanted = p.Target.Weakest, p.Wanted
	}
	switch {
	case limit != "":
		r.Wanted = runsheet.Wanted{From: runsheet.FromTyped, Text: limit}
	case flow:
		rate := physics.RateOfFlow(q.LimitFlow, r.GasM3, physics.StandardK)
		r.Wanted = runsheet.Wanted{From: runsheet.FromTyped, Text: fmt.Sprintf("%.10g kPa in 1 min", rate*60/1e3)}
	}
	return nil
}

// faults refuses a rig that no hold can be done with.
func faults(r *holds.Rig) error {
	if err := r.Gauge.Faults(); err != nil {
		return err
	}
	if math.Abs(r.Target.Pa) < leastTargetPa {
		return fmt.Errorf("there is no pressure in it to judge")
	}
	return nil
}

// leastTargetPa is the smallest pressure at which anything is held.
const leastTargetPa = 1000
