// Package sheets makes what leaves the shop: the job sheet on paper with its
// charts, as one HTML page that prints. It is given what to say, in words.
package sheets

import (
	"embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"io"
	"math"
	"strings"
	"time"

	"idlehiss/core/quantity"
)

//go:embed sheet.html
var files embed.FS

var page = template.Must(template.New("sheet.html").Funcs(template.FuncMap{
	"day":  func(t time.Time) string { return t.Format("2 January 2006, 15:04") },
	"ring": func(r string) template.HTML { return template.HTML(ringSVG(r)) },
}).ParseFS(files, "sheet.html"))

// Sheet is everything that stands on a job sheet.
type Sheet struct {
	Shop      string
	Machine   string
	Complaint string
	Circuit   string
	By        string
	At        time.Time
	Ended     *time.Time
	State     string
	Ring      string // whole | dotted | nicked | cut
	Verdict   string
	Figures   []Figure
	Override  string // the target went over a limit, and why
	Steps     []Step // of a circuit of several
	Untested  []string
	Schools   []string // by which it was done, where schools differ
	Mended    []string
	Proved    string // what was held after that; empty while nothing was mended
	Facts     []Fact
	Holds     []Hold
	Bores     *Bores // of a housing; nil: it is none
	Looks     []Look
	Photos    []Photo
	Ticks     []Tick
	Cautions  []string
	NotTested []string
	Standing  string
	Simulated bool
}

// Figure is one number with its range.
type Figure struct{ Label, Value, Range string }

// Step is one test of several: what it said, and what was read at it.
type Step struct {
	Title, Verdict, Sentence string
	Read                     []Read
}

// Read is one line of what was read at a step.
type Read struct{ What, Figures, Says string }

// Fact is a sentence and where it is from.
type Fact struct {
	Sentence, Source string
	Superseded       bool
}

// Photo is a picture of a part.
type Photo struct {
	Says string
	JPEG []byte
}

// Data is the picture within the page itself, so that the page is one file.
func (p Photo) Data() template.URL {
	return template.URL("data:image/jpeg;base64," + base64.StdEncoding.EncodeToString(p.JPEG))
}

// Look is what was seen at a part.
type Look struct{ Part, Seen, By string }

// Tick is an item with its state.
type Tick struct {
	Text string
	On   bool
}

// Hold is one hold with its chart.
type Hold struct {
	Title    string
	Sentence string
	How      string // gauge, target, allowance
	Why      []string
	Schools  []string
	Chart    Chart
	Drawn    template.HTML
}

// Chart is a trace to be drawn: seconds and Pa gauge.
type Chart struct {
	Unit     quantity.Unit
	T, Pa    []float64
	ShutS    *float64
	TargetPa float64
	Gaps     [][2]float64
}

// Write renders the sheet.
func Write(w io.Writer, s Sheet) error {
	for i := range s.Holds {
		s.Holds[i].Drawn = template.HTML(s.Holds[i].Chart.SVG())
	}
	return page.Execute(w, s)
}

// ringSVG draws the verdict's ring in black ink.
func ringSVG(ring string) string {
	const head = `<svg viewBox="0 0 48 48" width="56" height="56" role="img" aria-hidden="true"><g fill="none" stroke="#111" stroke-width="6" stroke-linecap="round">`
	switch ring {
	case "whole":
		return head + `<circle cx="24" cy="24" r="17"/></g></svg>`
	case "nicked":
		return head + `<path d="M26.4 7.2A17 17 0 1 1 21.6 7.2"/></g></svg>`
	case "cut":
		return head + `<path d="M34.9 11A17 17 0 1 1 24 7"/><path stroke-width="2.5" d="M33 5c3-1 3-4 6-4M38 9c3-1 4-3 7-3"/></g></svg>`
	}
	return head + `<circle cx="24" cy="24" r="17" stroke-dasharray="1 9.7"/></g></svg>`
}

// SVG draws the chart with its axes, in ink.
func (c Chart) SVG() string {
	const w, h, left, bottom, top, right = 640.0, 220.0, 52.0, 34.0, 10.0, 10.0
	if len(c.T) < 2 {
		return ""
	}
	t0, t1 := c.T[0], c.T[len(c.T)-1]
	low, high := math.Inf(1), c.TargetPa
	for _, p := range c.Pa {
		low, high = math.Min(low, p), math.Max(high, p)
	}
	// Where the pump-up is on the chart too, the hold is what matters.
	if c.ShutS != nil && *c.ShutS < t1 {
		low = math.Inf(1)
		if c.TargetPa < 0 {
			low, high = c.TargetPa, math.Inf(-1)
		}
		for i, p := range c.Pa {
			if c.T[i] >= *c.ShutS {
				low, high = math.Min(low, p), math.Max(high, p)
			}
		}
		t0 = math.Max(t0, *c.ShutS-(t1-*c.ShutS)*0.08)
	}
	pad := math.Max((high-low)*0.08, 200)
	low, high = low-pad, high+pad
	x := func(t float64) float64 { return left + (t-t0)/math.Max(t1-t0, 1e-9)*(w-left-right) }
	y := func(p float64) float64 { return top + (high-p)/(high-low)*(h-top-bottom) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg viewBox="0 0 %g %g" class="chart" role="img" aria-label="pressure over time"><g font-family="sans-serif" font-size="11" fill="#111">`, w, h)
	step := niceStep(c.Unit.Of(high-low) / 5)
	for v := math.Ceil(c.Unit.Of(low)/step) * step; v <= c.Unit.Of(high); v += step {
		yy := y(c.Unit.SI(v))
		fmt.Fprintf(&b, `<path d="M%g %.1fH%g" stroke="#bbb" stroke-width=".5"/><text x="%g" y="%.1f" text-anchor="end">%s</text>`, left, yy, w-right, left-6, yy+4, c.Unit.Figure(c.Unit.SI(v), c.Unit.SI(step)))
	}
	origin := 0.0
	if c.ShutS != nil {
		origin = *c.ShutS
	}
	tick := niceTime((t1 - t0) / 6)
	for v := math.Ceil((t0-origin)/tick) * tick; v <= t1-origin; v += tick {
		if v < 0 {
			continue
		}
		at, anchor := x(v+origin), "middle"
		if at > w-right-14 {
			at, anchor = w-right+4, "end" // inside the paper
		}
		fmt.Fprintf(&b, `<text x="%.1f" y="%g" text-anchor="%s">%s</text>`, at, h-bottom+16, anchor, quantity.Clock(v))
	}
	fmt.Fprintf(&b, `<text x="%g" y="%g">%s</text><text x="%g" y="%g" text-anchor="end">min:s since the supply was shut</text>`, 4.0, top+10, template.HTMLEscapeString(c.Unit.Symbol), w-right, h-3)
	for _, g := range c.Gaps {
		if g[1] > t0 {
			fmt.Fprintf(&b, `<rect x="%.1f" y="%g" width="%.1f" height="%g" fill="#eee"/>`, x(math.Max(g[0], t0)), top, x(g[1])-x(math.Max(g[0], t0)), h-top-bottom)
		}
	}
	fmt.Fprintf(&b, `<path d="M%g %.1fH%g" stroke="#111" stroke-dasharray="2 4"/>`, left, y(c.TargetPa), w-right)
	var path strings.Builder
	pen := "M"
	for i := range c.T {
		if c.T[i] < t0 || c.Pa[i] < low || c.Pa[i] > high {
			continue
		}
		for _, g := range c.Gaps {
			if i > 0 && c.T[i-1] < g[1] && c.T[i] > g[0] {
				pen = "M" // nothing is known between
			}
		}
		fmt.Fprintf(&path, "%s%.1f %.1f", pen, x(c.T[i]), y(c.Pa[i]))
		pen = "L"
	}
	fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="#111" stroke-width="1.4"/></g></svg>`, path.String())
	return b.String()
}

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
