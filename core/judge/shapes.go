package judge

import (
	"math"

	"idlehiss/core/physics"
)

// The library of shapes: every node is a set of columns that are fitted
// linearly. Settling is one or two exponentials with times on a logarithmic
// grid, each with its derivative so that a node stands for the times around it;
// or a logarithm, as long hoses creep, alone or beside the cooling of pumped
// air. A leak is the loss integrated along the pressures seen, under one of two
// laws. A step is a loss at an instant.
const (
	tauCount   = 14
	tauLeast   = 1.5  // s
	tauMost    = 150. // s
	creeps     = 3
	creepOverS = 600.0 // s over which a creep's amplitude is told
	mostSteps  = 2
)

// What gave way under the pressure comes back after a sudden loss, and the gas that it
// cooled warms up again: at about these times, s.
var afterStepS = [...]float64{5, 40}

// afterStep is the share of a sudden loss (one standard deviation) that comes back at each of
// them; docs/PHYSICS.md, Shapes, gives 1 to 8 % for settling, of which this is the reverse.
const afterStep = 0.05

var (
	taus = func() (t [tauCount]float64) { // before nodes are listed, which ask for them
		for i := range t {
			t[i] = tauLeast * math.Pow(tauMost/tauLeast, float64(i)/(tauCount-1))
		}
		return t
	}()
	creepTaus = [creeps]float64{1.5, 6, 24}
	halfStep  = math.Log(tauMost/tauLeast) / (tauCount - 1) / 2 // in ln τ
)

// Columns, in order.
const (
	colConst   = 0
	colExp     = 1
	colExpD    = colExp + tauCount
	colCreep   = colExpD + tauCount
	colUnseen  = colCreep + creeps
	colStep    = colUnseen + len(Unseen)
	colAfter   = colStep + mostSteps
	colLaminar = colAfter + len(afterStepS)
	colOrifice = colLaminar + 1
	colLiquid  = colOrifice + 1
	colY       = colLiquid + 1
	columnsN   = colY + 1
)

func creep(j int, t float64) float64 {
	// Written to fall with a positive amplitude, about 1 over ten minutes.
	return -math.Log1p(t/creepTaus[j]) / math.Log1p(creepOverS/creepTaus[j])
}

// settleColumns fills everything but steps, the leak and the data at one moment.
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
	for k, tau := range Unseen {
		row[colUnseen+k] = math.Exp(-t / tau)
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
	for k, tau := range Unseen {
		row[colUnseen+k] = -math.Exp(-t/tau) / tau
	}
}

// gram is Σ w·x·xᵀ over bins, upper triangle until it is made whole.
type gram [columnsN][columnsN]float64

func (g *gram) add(row *[columnsN]float64, w float64) {
	for j := range columnsN {
		if wx := w * row[j]; wx != 0 {
			to := &g[j]
			for k := j; k < columnsN; k++ {
				to[k] += wx * row[k]
			}
		}
	}
}

// design is the columns at every bin and their sums. Bins that are full never
// change, so their sums are kept and only the open bin is added for an answer.
type design struct {
	rows  [][columnsN]float64
	gram  gram               // with nominal weights
	drive [len(laws)]float64 // of each law: drive at the last bin over that at test pressure
	loss  [len(laws)]float64 // the drive integrated to the last bin, s
	endT  float64
	steps []sudden
}

var laws = [...]physics.Law{physics.Laminar, physics.Orifice, physics.Liquid}

// add takes in one bin. atPa is the test pressure, away from ambient.
func (d *design) add(r *running, b *bin, atPa, ambientPa float64) {
	var row [columnsN]float64
	settleColumns(b.meanT, &row)
	d.steps = r.steps
	d.step(&row, b.meanT, b.from)
	for k, law := range laws {
		rel := law.Drive(r.sign*(r.y0+b.meanY), ambientPa) / law.Drive(r.sign*atPa, ambientPa)
		if len(d.rows) == 0 {
			d.drive[k] = rel
		}
		d.loss[k] += between(d.drive[k], rel) * (b.meanT - d.endT)
		d.drive[k] = rel
		row[colLaminar+k] = -d.loss[k]
	}
	d.endT = b.meanT
	row[colY] = b.meanY
	d.gram.add(&row, b.w)
	d.rows = append(d.rows, row)
}

// step fills the columns of sudden losses at a moment t of a bin that begins at from, s.
func (d *design) step(row *[columnsN]float64, t, from float64) {
	for j := range afterStepS {
		row[colAfter+j] = 0
	}
	for k, s := range d.steps {
		if row[colStep+k] = 0; from < s.atS {
			continue
		}
		row[colStep+k] = -1 // a positive step loses
		for j, tau := range afterStepS {
			row[colAfter+j] -= s.fellPa * math.Exp(-(t-s.atS)/tau)
		}
	}
}

// sameDrive is the change up to which a drive's ends are as good as their mean: the error is
// a twelfth of its square.
const sameDrive = 0.01

// between is the mean of a drive that falls from a to b as an exponential does.
func between(a, b float64) float64 {
	if x := b / a; x > 0 && math.Abs(x-1) > sameDrive {
		return (b - a) / math.Log(x)
	}
	return (a + b) / 2
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

// reweigh puts the sums of other weights and values in place of the nominal ones.
func (d *design) reweigh(sites []site) {
	d.gram = gram{}
	for i := range d.rows {
		if sites[i].w > 0 {
			row := d.rows[i]
			row[colY] = sites[i].y
			d.gram.add(&row, sites[i].w)
		}
	}
	for j := range columnsN {
		for k := range j {
			d.gram[j][k] = d.gram[k][j]
		}
	}
}

// at fills the columns at a moment after the last bin, the leak going on at its
// present pressure.
func (d *design) at(t float64, row *[columnsN]float64) {
	settleColumns(t, row)
	d.step(row, t, t)
	for k := range laws {
		row[colLaminar+k] = -(d.loss[k] + d.drive[k]*(t-d.endT))
	}
}

// node is one way to settle: its columns and prior weight.
type node struct {
	settle []int   // settling columns, fastest first
	prior  float64 // natural logarithm
	params float64 // by which a shape with it is dearer than one without
}

// What is believed of settling before a hold: shares that add up to one. Nearly every
// circuit settles, with one time or two.
const (
	sharePlain = 0.05 // not at all
	shareOne   = 0.43
	shareTwo   = 0.42
	shareLog   = 0.05 // a long hose's creep alone
	shareBoth  = 0.05 // and beside the cooling of pumped air, which takes
	airCoolsS  = 13.0 // s at most there, in a large vessel
)

// nodes lists every way to settle, from not at all to two times; a log creep
// stands beside them with less weight.
var nodes = func() []node {
	out := []node{{nil, math.Log(sharePlain), 0}}
	each := func(share float64, params float64, sets ...[]int) {
		for _, s := range sets {
			out = append(out, node{s, math.Log(share / float64(len(sets))), params})
		}
	}
	var one, two, logs, both [][]int
	for i := range taus {
		one = append(one, []int{colExp + i})
		for j := i + 1; j < tauCount; j++ {
			two = append(two, []int{colExp + i, colExp + j})
		}
	}
	for j := range creepTaus {
		logs = append(logs, []int{colCreep + j})
		for i := range taus {
			if taus[i] < airCoolsS {
				both = append(both, []int{colExp + i, colCreep + j})
			}
		}
	}
	// An amplitude and a time each are two parameters more.
	each(shareOne, 2, one...)
	each(shareTwo, 4, two...)
	each(shareLog, 2, logs...)
	each(shareBoth, 4, both...)
	return out
}()
