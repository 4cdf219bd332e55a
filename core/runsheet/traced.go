package runsheet

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// GaugeOfTrace is the gauge with which a trace was taken: as its file says, as it was
// planned (nil: not), or as the data show.
func GaugeOfTrace(tr *trace.Trace, said judge.Gauge, planned *Gauge) Gauge {
	kind, step := terms.Digital, said.DigitalPa
	switch {
	case said.DivisionPa > 0:
		kind, step = terms.Needle, said.DivisionPa
	case said.DigitalPa > 0:
	case planned != nil && planned.Kind == terms.Needle && readsLike(tr, *planned):
		kind, step = terms.Needle, planned.DivisionPa()
	default:
		step = judge.InferStep(tr)
	}
	low, high := 0.0, 0.0
	for _, x := range tr.Readings {
		low, high = math.Min(low, x.GaugePa), math.Max(high, x.GaugePa)
	}
	u := tr.Unit
	return Gauge{ID: "file", Name: "the gauge of the file", Kind: kind, Class: said.ClassPercent, Rings: []Ring{{Unit: u.Symbol,
		From: math.Floor(u.Of(low)), To: math.Ceil(u.Of(math.Max(high*headroom, 4*step))), Division: quantity.TenDigits(u.Of(step))}}}
}

// headroom is how far a file's gauge reads above its highest reading.
const headroom = 1.2

// readsLike reports whether all readings are quarters of a gauge's divisions.
func readsLike(tr *trace.Trace, g Gauge) bool {
	quarter := g.DivisionPa() / 4
	for _, x := range tr.Readings {
		if n := x.GaugePa / quarter; math.Abs(n-math.Round(n)) > nearQuarter {
			return false
		}
	}
	return true
}

// nearQuarter is how far a typed reading lies from a quarter of a division after its
// unit was converted, in quarters.
const nearQuarter = 0.02

// PressureAtShut is the pressure at which the hold of a trace begins, Pa.
func PressureAtShut(tr *trace.Trace) float64 {
	from := tr.HoldFrom()
	for _, x := range tr.Readings {
		if x.AtS >= from {
			return x.GaugePa
		}
	}
	return 0
}

// Difference is one way in which a trace file is not as its job asks.
type Difference struct {
	Code string `json:"code" enum:"other-sign,over-limit,off-target"`
	Says string `json:"says"`
}

// The differences.
const (
	OtherSign = "other-sign" // pressure where a vacuum is asked for, or the other way about
	OverLimit = "over-limit" // above the weakest limit of the job
	OffTarget = "off-target" // shut far from the target
)

// offTarget is how far from its target a hold may be shut, of the target, before that is
// said: what is lost goes with the pressure, so that the loss is off by as much.
const offTarget = 0.15

// Differences compares a trace with the target of its job.
func Differences(tr *trace.Trace, t Target) []Difference {
	shut, highest := PressureAtShut(tr), 0.0
	for _, x := range tr.Readings {
		highest = math.Max(highest, math.Copysign(1, t.Pa)*x.GaugePa)
	}
	var out []Difference
	switch {
	case shut*t.Pa < 0:
		out = append(out, Difference{OtherSign, otherSignSays(shut, tr)})
	case math.Abs(shut-t.Pa) > offTarget*math.Abs(t.Pa):
		out = append(out, Difference{OffTarget, offTargetSays(shut, t.Pa, tr)})
	}
	if highest > math.Abs(t.Weakest.CeilingPa) {
		out = append(out, Difference{OverLimit, overLimitSays(highest, t.Weakest, tr)})
	}
	return out
}

// FileSays is a trace file that was taken, with what of it was not used and how it differs from
// the target of its job (nil: it has none).
func FileSays(name string, tr *trace.Trace, t *Target) string {
	first, last := tr.Span()
	says := fmt.Sprintf("A trace from the file %s: %d readings over %s.", name, len(tr.Readings), quantity.Duration(last-first))
	if len(tr.Second) > 0 {
		says += " Its second gauge was left out."
	}
	if len(tr.Unused) > 0 {
		says += " Columns not used: " + strings.Join(tr.Unused, ", ") + "."
	}
	if t != nil {
		for _, d := range Differences(tr, *t) {
			says += " " + d.Says
		}
	}
	return says
}
