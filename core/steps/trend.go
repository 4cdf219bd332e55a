package steps

import (
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// ChargeRead is a gas charge at one service, brought to 20 °C: as it was found, and as it was left.
type ChargeRead struct {
	Day             float64 // of any calendar
	FoundPa, LeftPa float64 // gauge
	LeastPa         float64 // below which it is charged
}

// ReadCharge reads what was entered at a step of a gas charge; ok is false where it was not read to the end.
func ReadCharge(s circuit.Step, c *circuit.Circuit, e Entry, ambientPa, day float64) (r ChargeRead, ok bool) {
	in, err := read(s, askCharge(s, c, Given{}).Fields, e.Fields, Given{AmbientPa: ambientPa})
	if err != nil || !in.Given("found") || !in.Given("temperature") || !in.Given("plate") {
		return r, false
	}
	at20 := func(id string) float64 {
		return physics.NitrogenAt(in.SI(id), in.SI("temperature"), physics.StandardK, ambientPa)
	}
	r = ChargeRead{Day: day, FoundPa: at20("found"), LeftPa: at20("found")}
	if in.Given("after") {
		r.LeftPa = at20("after")
	}
	sh := sheet{step: s}
	plate := in.SI("plate")
	r.LeastPa = plate - math.Max(sh.tolerance(plate), s.Recharge/100*plate)
	return r, true
}

// ChargeTrend is what a gas charge lost a month since it was last charged, and when it will be too low.
type ChargeTrend struct {
	PaPerMonth, Low, High float64  // 95 in 100; positive where it falls
	Reads                 int      // that it leans on
	TooLowDay             *float64 // at that rate; nil where no loss is sure
	Earliest, Latest      *float64 // of it; latest is nil where it may never be
}

// readSE is the doubt of one reading of a charge: half of what two readings can tell, Pa.
const readSE = tells / 2

// DaysAMonth is the mean length of a month in days.
const DaysAMonth = 365.25 / monthsAYear

// TrendOf fits a line (least squares) to the readings since the last charge, in order of time; ok is false with fewer than two, or
// none of them a month apart from another.
func TrendOf(all []ChargeRead) (t ChargeTrend, ok bool) {
	var day, pa []float64
	for _, r := range all {
		switch {
		case len(pa) > 0 && r.FoundPa > pa[len(pa)-1]+tells: // it was charged meanwhile
			day, pa = nil, nil
		case len(pa) > 0:
			day, pa = append(day, r.Day), append(pa, r.FoundPa)
		}
		if len(pa) == 0 || r.LeftPa > r.FoundPa+tells {
			day, pa = []float64{r.Day}, []float64{r.LeftPa}
		}
	}
	n := float64(len(pa))
	if n < 2 || day[len(day)-1]-day[0] < DaysAMonth {
		return t, false
	}
	var d, p, sxx, sxy float64
	for i := range pa {
		d, p = d+day[i]/n, p+pa[i]/n
	}
	for i := range pa {
		sxx += (day[i] - d) * (day[i] - d)
		sxy += (day[i] - d) * (pa[i] - p)
	}
	const z95 = 1.96
	slope, doubt := -sxy/sxx, z95*readSE/math.Sqrt(sxx)
	t = ChargeTrend{PaPerMonth: slope * DaysAMonth, Low: (slope - doubt) * DaysAMonth, High: (slope + doubt) * DaysAMonth, Reads: len(pa)}
	last := day[len(day)-1]
	spare := p - slope*(last-d) - all[len(all)-1].LeastPa
	if t.Low <= 0 || spare <= 0 {
		return t, true
	}
	after := func(perDay float64) *float64 { return new(last + spare/perDay) }
	t.TooLowDay, t.Earliest, t.Latest = after(slope), after(slope+doubt), after(slope-doubt)
	return t, true
}
