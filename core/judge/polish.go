package judge

import "math"

// Polishing moves a node's times from the grid to where the readings want them:
// a derivative alone is good to half a per cent of the settling, which many fine
// readings can see.

const (
	worthPolish = 5.0 // natural logarithm below the best
	polishes    = 3
	firstFew    = 5 // of each law are polished whatever they weigh
)

// row fills the component's own columns from a full row at the same moment t.
func (c *component) row(full *[columnsN]float64, t float64, x *[maxColumns]float64) {
	for i := range c.n {
		x[i] = full[c.cols[i]]
	}
	at := len(c.node.settle) + 1 // where the derivatives begin
	for i := range c.node.settle {
		if c.tau[i] > 0 {
			u := t / c.tau[i]
			e := math.Exp(-u)
			x[1+i] = e
			x[at] = u * e
			at++
		}
	}
}

// slopes fills the derivatives by time of row, from a full row of them.
func (c *component) slopes(full *[columnsN]float64, t float64, x *[maxColumns]float64) {
	for i := range c.n {
		x[i] = full[c.cols[i]]
	}
	at := len(c.node.settle) + 1
	for i := range c.node.settle {
		if tau := c.tau[i]; tau > 0 {
			e := math.Exp(-t/tau) / tau
			x[1+i] = -e
			x[at] = (1 - t/tau) * e
			at++
		}
	}
}

// fitted is the component's value at a bin, Pa since the first reading.
func (c *component) fitted(f *fitted, i int) float64 {
	var x [maxColumns]float64
	c.row(&f.d.rows[i], f.bins[i].meanT, &x)
	return c.dot(&x)
}

func (c *component) dot(x *[maxColumns]float64) float64 {
	v := 0.0
	for i := range c.n {
		v += c.mean[i] * x[i]
	}
	return v
}

// spread is xᵀ·cov·x.
func (c *component) spread(x *[maxColumns]float64) float64 {
	v := 0.0
	for i := range c.n {
		for j := range c.n {
			v += x[i] * c.cov[i][j] * x[j]
		}
	}
	return v
}

// polish moves the times of a settling node and fits it again, where that shows.
func (f *fitted) polish(c *component) (moved bool) {
	exps := 0
	for _, col := range c.node.settle {
		if col < colExpD {
			exps++
		}
	}
	if exps == 0 {
		return false
	}
	for range polishes {
		if !c.bent(math.Sqrt(f.noise / f.d.gram[colConst][colConst])) {
			return moved
		}
		p := *c
		at := len(c.node.settle) + 1
		for i, col := range c.node.settle {
			if col >= colExpD {
				continue
			}
			grid := taus[col-colExp]
			if p.tau[i] == 0 {
				p.tau[i] = grid
			}
			p.tau[i] *= math.Exp(math.Max(-halfStep, math.Min(halfStep, c.move(i, at))))
			p.tau[i] = math.Max(grid*math.Exp(-3*halfStep), math.Min(grid*math.Exp(3*halfStep), p.tau[i]))
			p.sd[at] = math.Max(math.Abs(c.mean[1+i]), 1e-9) * halfStep / math.Sqrt(3)
			p.centre[at] = c.mean[1+i] * math.Log(grid/p.tau[i])
			at++
		}
		m := small{n: p.n}
		f.sum(&p, &m)
		if !p.finish(&m) {
			return moved
		}
		m.inverse(&p.cov)
		*c = p
		moved = true
	}
	return moved
}

// sum fills the sums of a polished component: only the columns of the times that moved are summed
// again.
func (f *fitted) sum(p *component, m *small) {
	var fresh [maxColumns]bool
	var list [4]int // of them: two times, each with its derivative
	n := 0
	at := len(p.node.settle) + 1
	for i := range p.node.settle {
		if p.tau[i] > 0 {
			fresh[1+i], fresh[at] = true, true
			list[n], list[n+1] = 1+i, at
			n += 2
			at++
		}
	}
	for i := range p.n {
		gi := &f.d.gram[p.cols[i]]
		if fresh[i] {
			continue
		}
		for j := range i + 1 {
			if !fresh[j] {
				m.a[i][j] = gi[p.cols[j]] / f.noise
			}
		}
		m.b[i] = gi[colY] / f.noise
	}
	var x [maxColumns]float64
	for b := range f.bins {
		w, y := f.seen(b)
		if w <= 0 {
			continue
		}
		w /= f.noise
		p.row(&f.d.rows[b], f.bins[b].meanT, &x)
		for _, k := range list[:n] {
			wx := w * x[k]
			for j := range p.n {
				if j <= k {
					m.a[k][j] += wx * x[j]
				} else if !fresh[j] {
					m.a[j][k] += wx * x[j]
				}
			}
			m.b[k] += wx * y
		}
	}
}

// move is by how much (in ln τ) the readings want the i-th time moved, from its
// derivative's coefficient, at index at.
func (c *component) move(i, at int) float64 {
	if c.mean[1+i] == 0 {
		return 0
	}
	return c.mean[at] / c.mean[1+i]
}

const (
	leftOut   = 0.3 // of amplitude·move²: the most that a derivative in ln τ leaves out of an exponential
	showsOver = 0.3 // standard errors of the level: less does not show
)

// bent reports whether a move is so large that what a derivative leaves out shows against
// the standard error of the level.
func (c *component) bent(se float64) bool {
	at := len(c.node.settle) + 1
	for i, col := range c.node.settle {
		if col >= colExpD {
			continue
		}
		if m := c.move(i, at); leftOut*math.Abs(c.mean[1+i])*m*m > showsOver*se {
			return true
		}
		at++
	}
	return false
}
