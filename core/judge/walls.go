package judge

import "math"

// coolsWithinS is the time of settling (s) up to which it may as well be pumped
// air that cools as a wall that gives way.
const coolsWithinS = 10

// gaveWay is the trapped air (V_eff, m³) at test pressure, with its standard
// error, of air that strokes told: walls that gave way only after the last of
// them are not in that figure, and they come back as the gas leaves.
//
// For a fixed amount of gas p·(V + C·g) stays as it was, g gauge and p absolute.
// So a wall that let the pressure fall by A has C = V·A/(p·g); and since
// V_eff = V + C·(g + p) (PHYSICS §2), it adds V·A·(1/g + 1/p).
func (f *fitted) gaveWay(q *Question, atPa float64) (m3, se float64) {
	if !q.GasByStrokes || atPa <= 0 {
		return q.GasM3, q.GasSE // a vacuum's strokes and walls are another matter
	}
	fell, variance := f.slowFall()
	g, p := atPa, atPa+q.AmbientPa
	more := q.GasM3 * (1/g + 1/p)
	return q.GasM3 + more*fell, math.Sqrt(q.GasSE*q.GasSE + more*more*variance)
}

// slowFall is by how much the walls have let the pressure fall since the start,
// Pa, and its variance. Cooling air looks like a quick wall: what settles quickly
// counts half, give or take that half.
func (f *fitted) slowFall() (mean, variance float64) {
	var start, end [columnsN]float64
	settleColumns(0, &start)
	settleColumns(f.d.endT, &end)
	second := 0.0
	for i := range f.parts {
		c := &f.parts[i]
		var from, to, walls, quick [maxColumns]float64
		c.row(&start, 0, &from)
		c.row(&end, f.d.endT, &to)
		for k := 1; k <= c.settle; k++ {
			walls[k] = from[k] - to[k]
			if c.timeOf(k) <= coolsWithinS {
				quick[k], walls[k] = walls[k], walls[k]/2
			}
		}
		fell, either := math.Max(0, c.dot(&walls)), c.dot(&quick)
		mean += c.weight * fell
		second += c.weight * (fell*fell + c.spread(&walls) + either*either*oneIn)
	}
	return mean, math.Max(0, second-mean*mean)
}

// timeOf is the time (s) of the settling column that stands k-th in a component.
// A logarithm has none: it is a long hose.
func (c *component) timeOf(k int) float64 {
	switch col := c.cols[k]; {
	case col >= colUnseen:
		return Unseen[col-colUnseen]
	case col >= colCreep:
		return math.Inf(1)
	default:
		return taus[(col-colExp)%tauCount]
	}
}

// A hose has times of about a minute, which a hold of half of one cannot tell from
// a leak: freshShare of what has settled so far may still be on its way at that
// pace. Within two minutes the doubt is gone, and what is clean is not widened.
const freshShare = 0.25

// fresh is the variance of a rate told early in a hold, (Pa/s)². It widens what is
// said of the rate; a call has its own bound for the first minute.
func (f *fitted) fresh() float64 {
	fell, _ := f.slowFall()
	t := f.d.endT / earlyS
	sd := freshShare * fell / earlyS * math.Exp(-t*t)
	return sd * sd
}
