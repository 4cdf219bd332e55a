package judge

import "math"

// Polishing moves a node's times from the grid to where the readings want them:
// a derivative alone is good to half a per cent of the settling, which many fine
// readings can see.

const (
	worthPolish = 6.0 // natural logarithm below the best
	polishes    = 2
)

// row fills the component's own columns from a full row at the same moment t.
func (c *component) row(full *[columnsN]float64, t float64, x *[most]float64) {
	for i := range c.n {
		x[i] = full[c.cols[i]]
	}
	at := len(c.of.settle) + 1 // where the derivatives begin
	for i := range c.of.settle {
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
func (c *component) slopes(full *[columnsN]float64, t float64, x *[most]float64) {
	for i := range c.n {
		x[i] = full[c.cols[i]]
	}
	at := len(c.of.settle) + 1
	for i := range c.of.settle {
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
	var x [most]float64
	c.row(&f.d.rows[i], f.bins[i].meanT, &x)
	return c.dot(&x)
}

func (c *component) dot(x *[most]float64) float64 {
	v := 0.0
	for i := range c.n {
		v += c.mean[i] * x[i]
	}
	return v
}

// spread is xᵀ·cov·x.
func (c *component) spread(x *[most]float64) float64 {
	v := 0.0
	for i := range c.n {
		for j := range c.n {
			v += x[i] * c.cov[i][j] * x[j]
		}
	}
	return v
}

// polish moves the times of a settling node and fits it again.
func (f *fitted) polish(c *component) {
	exps := 0
	for _, col := range c.of.settle {
		if col < colExpD {
			exps++
		}
	}
	if exps == 0 {
		return
	}
	for range polishes {
		p := *c
		at := len(c.of.settle) + 1
		for i, col := range c.of.settle {
			if col >= colExpD {
				continue
			}
			grid := taus[col-colExp]
			if p.tau[i] == 0 {
				p.tau[i] = grid
			}
			if c.mean[1+i] != 0 {
				move := c.mean[at] / c.mean[1+i]
				p.tau[i] *= math.Exp(math.Max(-halfStep, math.Min(halfStep, move)))
			}
			p.tau[i] = math.Max(grid*math.Exp(-3*halfStep), math.Min(grid*math.Exp(3*halfStep), p.tau[i]))
			amp := math.Max(math.Abs(c.mean[1+i]), 1e-9)
			p.sd[at] = amp * halfStep / math.Sqrt(3)
			p.centre[at] = c.mean[1+i] * math.Log(grid/p.tau[i])
			at++
		}
		p.system = small{n: p.n}
		var x [most]float64
		for b := range f.bins {
			w, y := f.seen(b)
			if w <= 0 {
				continue
			}
			w /= f.noise
			p.row(&f.d.rows[b], f.bins[b].meanT, &x)
			for i := range p.n {
				wx := w * x[i]
				for j := range i + 1 {
					p.system.a[i][j] += wx * x[j]
				}
				p.system.b[i] += wx * y
			}
		}
		if !p.finish() {
			return
		}
		*c = p
	}
}
