package sheets

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"idlehiss/core/quantity"
)

// Chart is a trace to be drawn: seconds and Pa gauge.
type Chart struct {
	Unit     quantity.Unit
	T, Pa    []float64
	ShutS    *float64
	TargetPa float64
	Gaps     [][2]float64
}

// Measures of a chart, points of its own.
const (
	chartWide               = 640.0
	chartLeft, chartRight   = 52.0, 10.0
	chartBottom, chartTop   = 34.0, 20.0
	chartHigh, fallHigh     = 190.0, 160.0
	penTrace, penAfter      = 1.4, 2.2
	leastSpanPa, marginPart = 200.0, 0.08
)

// plot is the frame of a chart, in ink: pressure upwards, time to the right.
type plot struct {
	strings.Builder
	high          float64 // of the paper
	t0, t1        float64 // s
	lowPa, highPa float64
	unit          quantity.Unit
	originS       float64 // where the clock of the axis begins
}

func (p *plot) x(t float64) float64 {
	return chartLeft + (t-p.t0)/math.Max(p.t1-p.t0, 1e-9)*(chartWide-chartLeft-chartRight)
}

func (p *plot) y(pa float64) float64 {
	return chartTop + (p.highPa-pa)/(p.highPa-p.lowPa)*(p.high-chartTop-chartBottom)
}

// begin draws the axes; label says what the upright one has, and says is read by who cannot see the chart.
func (p *plot) begin(label, says string) {
	pad := math.Max((p.highPa-p.lowPa)*marginPart, leastSpanPa)
	p.lowPa, p.highPa = p.lowPa-pad, p.highPa+pad
	u := p.unit
	fmt.Fprintf(p, `<svg viewBox="0 0 %g %g" class="chart" role="img" aria-label="%s"><g font-family="sans-serif" font-size="11" fill="#111">`, chartWide, p.high, template.HTMLEscapeString(says))
	step := niceStep(u.Of(p.highPa-p.lowPa) / 5)
	for v := math.Ceil(u.Of(p.lowPa)/step) * step; v <= u.Of(p.highPa); v += step {
		yy := p.y(u.SI(v))
		fmt.Fprintf(p, `<path d="M%g %.1fH%g" stroke="#bbb" stroke-width=".5"/><text x="%g" y="%.1f" text-anchor="end">%s</text>`, chartLeft, yy, chartWide-chartRight, chartLeft-6, yy+4, u.Figure(u.SI(v), u.SI(step)))
	}
	tick := niceTime((p.t1 - p.t0) / 6)
	for v := math.Max(0, math.Ceil((p.t0-p.originS)/tick)*tick); v <= p.t1-p.originS; v += tick {
		at, anchor := p.x(v+p.originS), "middle"
		if at > chartWide-chartRight-14 {
			at, anchor = chartWide-chartRight+4, "end" // inside the paper
		}
		fmt.Fprintf(p, `<text x="%.1f" y="%g" text-anchor="%s">%s</text>`, at, p.high-chartBottom+16, anchor, quantity.Clock(v))
	}
	fmt.Fprintf(p, `<text x="4" y="%g">%s</text><text x="%g" y="%g" text-anchor="end">min:s since the supply was shut</text>`, chartTop-9, template.HTMLEscapeString(label), chartWide-chartRight, p.high-3)
}

// trace draws a line, broken where nothing is known.
func (p *plot) trace(t, pa []float64, gaps [][2]float64, width float64, dash string) {
	var path strings.Builder
	pen := "M"
	for i := range t {
		if t[i] < p.t0 || pa[i] < p.lowPa || pa[i] > p.highPa {
			continue
		}
		for _, g := range gaps {
			if i > 0 && t[i-1] < g[1] && t[i] > g[0] {
				pen = "M"
			}
		}
		fmt.Fprintf(&path, "%s%.1f %.1f", pen, p.x(t[i]), p.y(pa[i]))
		pen = "L"
	}
	fmt.Fprintf(p, `<path d="%s" fill="none" stroke="#111" stroke-width="%g" stroke-dasharray="%s"/>`, path.String(), width, dash)
}

func (p *plot) end() template.HTML {
	p.WriteString("</g></svg>")
	return template.HTML(p.String())
}

// SVG draws the chart with its axes, in ink.
func (c Chart) SVG() template.HTML {
	if len(c.T) < 2 {
		return ""
	}
	p := plot{high: chartHigh, t0: c.T[0], t1: c.T[len(c.T)-1], unit: c.Unit, lowPa: math.Inf(1), highPa: c.TargetPa}
	for _, pa := range c.Pa {
		p.lowPa, p.highPa = math.Min(p.lowPa, pa), math.Max(p.highPa, pa)
	}
	if c.ShutS != nil {
		p.originS = *c.ShutS
	}
	// Where the pump-up is on the chart too, the hold is what matters.
	if c.ShutS != nil && *c.ShutS < p.t1 {
		p.lowPa = math.Inf(1)
		if c.TargetPa < 0 {
			p.lowPa, p.highPa = c.TargetPa, math.Inf(-1)
		}
		for i, pa := range c.Pa {
			if c.T[i] >= *c.ShutS {
				p.lowPa, p.highPa = math.Min(p.lowPa, pa), math.Max(p.highPa, pa)
			}
		}
		p.t0 = math.Max(p.t0, *c.ShutS-(p.t1-*c.ShutS)*marginPart)
	}
	p.begin(c.Unit.Symbol, "pressure over time")
	for _, g := range c.Gaps {
		if g[1] > p.t0 {
			from := p.x(math.Max(g[0], p.t0))
			fmt.Fprintf(&p, `<rect x="%.1f" y="%g" width="%.1f" height="%g" fill="#eee"/>`, from, chartTop, p.x(g[1])-from, p.high-chartTop-chartBottom)
		}
	}
	fmt.Fprintf(&p, `<path d="M%g %.1fH%g" stroke="#111" stroke-dasharray="2 4"/>`, chartLeft, p.y(c.TargetPa), chartWide-chartRight)
	p.trace(c.T, c.Pa, c.Gaps, penTrace, "")
	return p.end()
}

// held is a trace from the moment at which the supply was shut, as the change since then.
func (c Chart) held() (t, pa []float64, gaps [][2]float64) {
	from := 0.0
	if c.ShutS != nil {
		from = *c.ShutS
	}
	start := 0.0
	for i := range c.T {
		if c.T[i] < from {
			continue
		}
		if len(t) == 0 {
			start = c.Pa[i]
		}
		t, pa = append(t, c.T[i]-from), append(pa, c.Pa[i]-start)
	}
	for _, g := range c.Gaps {
		gaps = append(gaps, [2]float64{g[0] - from, g[1] - from})
	}
	return t, pa, gaps
}

// Fall draws two holds as their falls from one start, on one scale: before a repair solid, after it dashed and thicker.
func Fall(before, after Chart) template.HTML {
	t1, pa1, gaps1 := before.held()
	t2, pa2, gaps2 := after.held()
	if len(t1) < 2 || len(t2) < 2 {
		return ""
	}
	p := plot{high: fallHigh, t1: math.Max(t1[len(t1)-1], t2[len(t2)-1]), unit: after.Unit}
	for _, pa := range append(append([]float64{}, pa1...), pa2...) {
		p.lowPa, p.highPa = math.Min(p.lowPa, pa), math.Max(p.highPa, pa)
	}
	p.begin("change, "+after.Unit.Symbol, "the fall before the repair and after it, from the moment at which the supply was shut")
	p.trace(t1, pa1, gaps1, penTrace, "")
	p.trace(t2, pa2, gaps2, penAfter, "7 4")
	return p.end()
}

// niceStep is the next round step of an axis.
func niceStep(raw float64) float64 {
	p := math.Pow(10, math.Floor(math.Log10(raw)))
	for _, m := range []float64{1, 2, 5} {
		if m*p >= raw {
			return m * p
		}
	}
	return 10 * p
}

func niceTime(raw float64) float64 {
	for _, s := range []float64{5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600} {
		if s >= raw {
			return s
		}
	}
	return math.Ceil(raw/3600) * 3600
}
