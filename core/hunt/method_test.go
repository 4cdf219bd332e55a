package hunt

import (
	"math"
	"testing"

	"idlehiss/core/circuit"
)

// What forbids a method: soap under vacuum and inside, a hand at oil, a gas test without
// burnt gas, smoke at pressure. What nothing forbids is offered.
func TestAMethodIsOfferedWhereItSuits(t *testing.T) {
	soap := Method{Never: []Place{UnderVacuum, Inside}}
	hand := Method{Never: []Place{OilPressure}, Most: 500e3}
	gas := Method{Only: []Place{Combustion}}
	for what, c := range map[string]struct {
		m     Method
		atPa  float64
		there []Place
		want  Unsuited
	}{
		"soap outside":            {soap, 100e3, []Place{OnMachine}, Unsuited{}},
		"soap under vacuum":       {soap, -30e3, []Place{UnderVacuum}, Unsuited{Place: UnderVacuum, Matters: true}},
		"soap inside":             {soap, 100e3, []Place{Inside}, Unsuited{Place: Inside, Matters: true}},
		"a hand at oil":           {hand, 100e3, []Place{OilPressure}, Unsuited{Place: OilPressure, Matters: true}},
		"a hand at much pressure": {hand, 600e3, nil, Unsuited{MostPa: 500e3, Matters: true}},
		"a hand at little":        {hand, 100e3, nil, Unsuited{}},
		"a gas test at a hose":    {gas, 0, nil, Unsuited{Place: Combustion, Needs: true, Matters: true}},
		"a gas test at a bore":    {gas, 0, []Place{Combustion}, Unsuited{}},
	} {
		if got := c.m.Suits(c.atPa, c.there...); got != c.want {
			t.Errorf("%s: %+v, want %+v", what, got, c.want)
		}
	}
	// Twelve bubbles of 3 mm in a minute: 12 times 0.0141 cm³.
	glass := Method{Counts: 3e-3}
	if got := glass.Flow(12, 60) * 60e6; math.Abs(got-12*0.014137) > 1e-4 {
		t.Errorf("%.4f cm³/min", got)
	}
	c := circuit.Circuit{Family: "cooling", Liquid: circuit.Coolant, Chambers: []circuit.Chamber{{ID: "loop"}, {ID: "bores", Open: true, Burns: true}}}
	there := There(&c, circuit.Step{Most: -30e3}, circuit.Part{Between: [2]string{"loop", "bores"}})
	for _, want := range []Place{UnderVacuum, Inside, OnMachine, Combustion} {
		found := false
		for _, p := range there {
			found = found || p == want
		}
		if !found {
			t.Errorf("%s is not in %v", want, there)
		}
	}
}
