package main

import (
	"fmt"
	"image/color"
	"math"
	"os"
	"path/filepath"
	"sort"
	"strings"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"

	"idlehiss/core/judge"
	"idlehiss/core/judge/study"
)

// inks are told apart in print and by the colour-blind.
var inks = []color.Color{
	color.RGBA{0x0b, 0x5d, 0x5b, 255}, color.RGBA{0xb4, 0x53, 0x09, 255}, color.RGBA{0x6d, 0x28, 0x7d, 255},
	color.RGBA{0x1d, 0x4e, 0x89, 255}, color.RGBA{0x7f, 0x1d, 0x1d, 255}, color.RGBA{0x4d, 0x7c, 0x0f, 255}, color.RGBA{0x33, 0x33, 0x33, 255}, color.RGBA{0x88, 0x88, 0x88, 255},
}

func chart(title, x, y string) *plot.Plot {
	plot.DefaultFont = font.Font{Typeface: "Liberation", Variant: "Sans"} // as wide as what a browser puts in its place
	p := plot.New()
	p.Title.Text, p.X.Label.Text, p.Y.Label.Text = title, x, y
	p.Legend.Top, p.Legend.Left = true, true
	p.Legend.Padding = vg.Points(3)
	p.Legend.ThumbnailWidth = vg.Points(24)
	p.Add(plotter.NewGrid())
	return p
}

func line(p *plot.Plot, k int, name string, xy plotter.XYs) error {
	l, err := plotter.NewLine(xy)
	if err != nil {
		return err
	}
	l.Color, l.Width = inks[k%len(inks)], vg.Points(1.6)
	if k%2 == 1 {
		l.Dashes = []vg.Length{vg.Points(5), vg.Points(3)}
	}
	p.Add(l)
	p.Legend.Add(name, l)
	return nil
}

func charts(all []study.Result, folder string) error {
	if err := soonness(all, filepath.Join(folder, "judge-soon.svg")); err != nil {
		return err
	}
	return wrongness(all, filepath.Join(folder, "judge-wrong.svg"))
}

// soonness draws what share of each band has been called rightly by a multiple
// of the ideal observer's time.
func soonness(all []study.Result, file string) error {
	p := chart("Called rightly, by time", "time / ideal observer's time", "share called rightly, %")
	p.X.Min, p.X.Max, p.Y.Min, p.Y.Max = 0, 4.1, 0, 100
	p.Legend.Top, p.Legend.Left = false, false
	for k, ratio := range study.Bands {
		var at []float64
		n := 0
		for i := range all {
			if r := &all[i]; r.Ratio == ratio {
				n++
				if r.Called != judge.NotYet && !r.Wrong() {
					at = append(at, r.AtS/r.IdealS)
				}
			}
		}
		sort.Float64s(at)
		xy := plotter.XYs{{X: 0, Y: 0}}
		for i, x := range at {
			if x > 4 {
				break
			}
			xy = append(xy, plotter.XY{X: x, Y: 100 * float64(i+1) / float64(n)})
		}
		if err := line(p, k, fmt.Sprintf("%g × allowance", ratio), thinned(xy, 200)); err != nil {
			return err
		}
	}
	return save(p, file)
}

// thinned keeps at most n points, the last among them.
func thinned(xy plotter.XYs, n int) plotter.XYs {
	if len(xy) <= n {
		return xy
	}
	out := make(plotter.XYs, 0, n+1)
	for i := range n {
		out = append(out, xy[i*len(xy)/n])
	}
	return append(out, xy[len(xy)-1])
}

// wrongness draws the wrong answers of the judge and of every stopwatch by band.
func wrongness(all []study.Result, file string) error {
	p := chart("Wrong answers by true rate", "true rate / allowance", "wrong, %")
	p.Y.Min, p.Y.Max = 0, 100
	p.Legend.Left = false
	var ticks []plot.Tick
	for i, b := range study.Bands {
		ticks = append(ticks, plot.Tick{Value: float64(i), Label: fmt.Sprintf("%g", b)})
	}
	p.X.Tick.Marker = plot.ConstantTicks(ticks)
	p.X.Min, p.X.Max = 0, float64(len(study.Bands))-0.8 // room for the last label
	for k := -1; k < len(study.SchoolMinutes); k++ {
		name := "the judge"
		if k >= 0 {
			name = fmt.Sprintf("%g min by the clock", study.SchoolMinutes[k])
		}
		var xy plotter.XYs
		for i, b := range study.Bands {
			n, wrong := 0, 0
			for j := range all {
				r := &all[j]
				if r.Ratio != b {
					continue
				}
				n++
				if k < 0 && r.Wrong() || k >= 0 && r.Schools[k] != (b < 1) {
					wrong++
				}
			}
			xy = append(xy, plotter.XY{X: float64(i), Y: 100 * float64(wrong) / math.Max(1, float64(n))})
		}
		if err := line(p, k+1, name, xy); err != nil {
			return err
		}
	}
	return save(p, file)
}

// save writes the chart with faces of the same widths beside its own.
func save(p *plot.Plot, file string) error {
	w, err := p.WriterTo(16*vg.Centimeter, 10*vg.Centimeter, "svg")
	if err != nil {
		return err
	}
	var b strings.Builder
	if _, err := w.WriteTo(&b); err != nil {
		return err
	}
	text := strings.ReplaceAll(b.String(), "font-family:Liberation Sans", "font-family:Liberation Sans,Arial,Helvetica,sans-serif")
	return os.WriteFile(file, []byte(text), 0o644)
}
