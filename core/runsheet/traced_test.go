package runsheet

import (
	"testing"

	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

func TestADroppedNeedleTraceIsReadAsTheJobsGauge(t *testing.T) {
	g := Gauge{Kind: terms.Needle, Rings: []Ring{{Unit: "kPa", To: 200, Division: 4}}}
	at := func(kpa ...float64) *trace.Trace {
		tr := &trace.Trace{}
		for i, k := range kpa {
			tr.Readings = append(tr.Readings, trace.Reading{AtS: float64(i), GaugePa: k * 1e3})
		}
		return tr
	}
	if !readsLike(at(110, 109, 108), g) || readsLike(at(110, 109.3), g) {
		t.Error("quarters of a division are told wrongly")
	}
}
