package judge

import (
	"math"

	"idlehiss/core/physics"
)

// The library of shapes: every node is a set of columns that are fitted
// linearly. Settling is one or two exponentials with times on a logarithmic
// grid, each with its derivative so that a node stands for the times around it,
// or a logarithm, as long hoses creep. A leak is the loss integrated along the
// pressures seen, under one of two laws.
const (
	tauCount = 18
	tauLeast = 1.5  // s
	tauMost  = 150. // s
	creeps   = 3
)

var (
	taus      [tauCount]float64
	creepTaus = [creeps]float64{1.5, 6, 24}
	halfStep  = math.Log(tauMost/tauLeast) / (tauCount - 1) / 2 // in ln τ
)

func init() {
	for i := range taus {
		taus[i] = tauLeast * math.Pow(tauMost/tauLeast, float64(i)/(tauCount-1))
	}
}

// Columns, in order.
const (
	colConst   = 0
	colExp     = 1
	colExpD    = colExp + tauCount
	colCreep   = colExpD + tauCount
	colLaminar = colCreep + creeps
	colOrifice = colLaminar + 1
	colY       = colOrifice + 1
	columnsN   = colY + 1
)

func creep(j int, t float64) float64 {
	// Written to fall with a positive amplitude, about 1 over ten minutes.
	return -math.Log1p(t/creepTaus[j]) / math.Log1p(600/creepTaus[j])
}

// settleColumns fills everything but the leak and the data at one moment.
func settleColumns(t float64, row *[columnsN]float64) {
	row[colConst] = 1
	for i, tau := range taus {
		e := math.Exp(-t / tau)
		row[colExp+i] = e
		row[colExpD+i] = t / tau * e
	}
	for j := range creepTaus {
		row[colCreep+j] = creep(j, t)
	}
}

// settleSlopes fills the derivatives by time of settleColumns, 1/s.
func settleSlopes(t float64, row *[columnsN]float64) {
	row[colConst] = 0
	for i, tau := range taus {
		e := math.Exp(-t/tau) / tau
		row[colExp+i] = -e
		row[colExpD+i] = (1 - t/tau) * e
	}
	for j, tau := range creepTaus {
		row[colCreep+j] = -1 / (tau + t) / math.Log1p(600/tau)
	}
}

// design is the columns at every bin and their sums. Bins that are full never
// change, so their sums are kept and only the open bin is added for an answer.
type design struct {
	rows  [][columnsN]float64
	gram  [columnsN][columnsN]float64 // Σ w·x·xᵀ with nominal weights, upper triangle
	drive [2]float64                  // laminar, orifice: drive at the last bin over that at test pressure
	loss  [2]float64                  // the drive integrated to the last bin, s
	endT  float64
}

var laws = [2]physics.Law{physics.Laminar, physics.Orifice}

// add takes in one bin. atPa is the test pressure, away from ambient.
func (d *design) add(r *running, b *bin, atPa, ambientPa float64) {
	var row [columnsN]float64
	settleColumns(b.meanT, &row)
	for k, law := range laws {
		rel := law.Drive(r.sign*(r.y0+b.meanY), ambientPa) / law.Drive(r.sign*atPa, ambientPa)
		if len(d.rows) == 0 {
			d.drive[k] = rel
		}
		d.loss[k] += (d.drive[k] + rel) / 2 * (b.meanT - d.endT)
		d.drive[k] = rel
		row[colLaminar+k] = -d.loss[k]
	}
	d.endT = b.meanT
	row[colY] = b.meanY
	for j := range columnsN {
		if wx := b.w * row[j]; wx != 0 {
			for k := j; k < columnsN; k++ {
				d.gram[j][k] += wx * row[k]
			}
		}
	}
	d.rows = append(d.rows, row)
}

// build brings the kept sums up to the last full bin and gives them with the
// open one.
func (r *running) build(atPa, ambientPa float64) *design {
	for len(r.full.rows) < len(r.bins)-1 {
		r.full.add(r, &r.bins[len(r.full.rows)], atPa, ambientPa)
	}
	d := r.full
	d.add(r, &r.bins[len(r.bins)-1], atPa, ambientPa)
	for j := range columnsN {
		for k := range j {
			d.gram[j][k] = d.gram[k][j]
		}
	}
	return &d
}

// at fills the columns at a moment after the last bin, the leak going on at its
// present pressure.
func (d *design) at(t float64, row *[columnsN]float64) {
	settleColumns(t, row)
	for k := range 2 {
		row[colLaminar+k] = -(d.loss[k] + d.drive[k]*(t-d.endT))
	}
}

// family is the class a node counts for.
type family int

const (
	famTight family = iota
	famSettling
	famLeak
	famSettlingLeak
)

// node is one candidate: its columns and prior weight.
type node struct {
	settle []int   // settling columns, fastest first
	prior  float64 // natural logarithm
}

// nodes lists every way to settle, from not at all to two times; a log creep
// stands beside them with less weight.
var nodes = func() []node {
	out := []node{{nil, 0}}
	for i := range taus {
		out = append(out, node{[]int{colExp + i}, math.Log(0.5 / tauCount)})
	}
	pairs := float64(tauCount * (tauCount - 1) / 2)
	for i := range taus {
		for j := i + 1; j < tauCount; j++ {
			out = append(out, node{[]int{colExp + i, colExp + j}, math.Log(0.4 / pairs)})
		}
	}
	for j := range creepTaus {
		out = append(out, node{[]int{colCreep + j}, math.Log(0.1 / creeps)})
	}
	return out
}()
