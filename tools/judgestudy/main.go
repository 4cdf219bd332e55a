// Command judgestudy plays the judge against thousands of simulated holds and
// writes what came of it: a page and its charts.
package main

import (
	"cmp"
	_ "embed"
	"fmt"
	"log"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"text/template"

	"github.com/alecthomas/kong"

	"idlehiss/core/judge"
	"idlehiss/core/judge/study"
)

//go:embed page.md.tmpl
var page string

//go:embed circuit.md.tmpl
var circuitPage string

//go:embed camera.md.tmpl
var cameraPage string

type cli struct {
	Each int    `default:"1050" help:"Holds in each band of true rate over the allowance."`
	Seed uint64 `default:"1" help:"The first hold's seed; the others follow."`
	Out  string `default:"docs" help:"Folder for the pages and their charts."`

	Strangers int `default:"300" help:"Holds in each band of the second corpus, drawn by another model than the judge's."`

	Circuit bool `help:"Play them on the circuit simulator and write judge-circuit.md instead."`
	Camera  bool `help:"Play a needle that sticks, by eye and by camera, and write judge-camera.md instead."`
}

func main() {
	var c cli
	kong.Parse(&c, kong.Name("judgestudy"), kong.Description("Plays the judge against simulated holds and writes docs/judge.md."))
	if err := c.run(); err != nil {
		log.Fatal(err)
	}
}

func (c cli) run() error {
	switch {
	case c.Circuit:
		return c.onCircuit()
	case c.Camera:
		return c.filmed()
	}
	all := study.Run(c.Seed, c.Each, nil)
	name := func(key func(r *study.Result) string) []study.Group { return study.By(all, key) }
	told, right := 0, 0
	confused := study.Confused(all)
	for _, row := range confused {
		told += row.N
		right += row.Right
	}
	if err := c.write("judge.md", page, all, map[string]any{
		"Families": name(family),
		"Laws":     name(func(r *study.Result) string { return string(r.Law) }),
		"Warmth": name(func(r *study.Result) string {
			return map[bool]string{true: "drifting, and read", false: "steady"}[r.Warm]
		}),
		"Slow":     study.SlowCreeps(all),
		"Confused": confused, "Shapes": shapes, "Told": told, "Right": right,
		"Schools": study.Beside(all), "Better": better(study.Beside(all)),
		"Strange": strange(study.RunStrangers(c.Seed, c.Strangers)),
	}); err != nil {
		return err
	}
	return charts(all, c.Out)
}

// strange is what came of the second corpus.
func strange(all []study.Result) map[string]any {
	told, right := 0, 0
	for _, row := range study.Confused(all) {
		told += row.N
		right += row.Right
	}
	// What a floor does is settling until a top-up shows otherwise: it has no bound to be held against.
	plain := slices.DeleteFunc(slices.Clone(all), func(r study.Result) bool { return r.Corner == "floor" })
	return map[string]any{
		"N": len(all), "Bands": study.ByBand(plain), "Promises": study.Promised(plain), "Told": told, "Right": right,
		"All":     study.By(plain, func(*study.Result) string { return "all" }),
		"Gauges":  study.By(plain, gauge),
		"Corners": study.By(all, func(r *study.Result) string { return r.Corner }),
	}
}

// onCircuit plays the same draws on the circuit simulator.
func (c cli) onCircuit() error {
	return c.write("judge-circuit.md", circuitPage, study.Run(c.Seed, c.Each, onCircuit), map[string]any{})
}

// filmed plays needles that stick, tapped when it is asked for and, fewer of them, never.
func (c cli) filmed() error {
	all := study.RunFilmed(c.Seed, c.Each, true)
	one := func(*study.Filmed) string { return "all" }
	slices.SortStableFunc(all, func(a, b study.Filmed) int { return cmp.Compare(a.Ratio, b.Ratio) })
	bands := study.ByFilmed(all, func(f *study.Filmed) string { return fmt.Sprint(f.Ratio) })
	slices.SortStableFunc(all, func(a, b study.Filmed) int { return cmp.Compare(a.Friction, b.Friction) })
	return c.fill("judge-camera.md", cameraPage, map[string]any{
		"Version": judge.Version, "Seed": c.Seed, "Bands": bands, "All": study.ByFilmed(all, one)[0],
		"Friction": study.ByFilmed(all, friction),
		"Untapped": study.ByFilmed(study.RunFilmed(c.Seed, max(1, c.Each/untapped), false), one)[0],
	})
}

// untapped is how many times fewer holds are played that are never tapped: few of them come to an end.
const untapped = 4

func friction(f *study.Filmed) string {
	how := "follows behind"
	if f.Slips {
		how = "jumps"
	}
	if f.Friction < study.FilmedFriction/4 {
		return "friction below a quarter of the class"
	}
	return "more, and it " + how
}

// write fills a page with what every one of them shows and with its own.
func (c cli) write(file, text string, all []study.Result, own map[string]any) error {
	data := map[string]any{
		"Version": judge.Version, "Rule": judge.TheRule, "Unseen": judge.UnseenShare, "N": len(all), "Each": c.Each, "Seed": c.Seed,
		"Bands":    study.ByBand(all),
		"Classes":  study.By(all, func(r *study.Result) string { return string(r.Class) }),
		"Gauges":   study.By(all, gauge),
		"Whole":    study.By(all, func(*study.Result) string { return "all" }),
		"Promises": study.Promised(all),
		"Creeps":   study.By(all, creeps),
	}
	maps.Copy(data, own)
	return c.fill(file, text, data)
}

// fill writes a page.
func (c cli) fill(file, text string, data map[string]any) error {
	t, err := template.New(file).Funcs(template.FuncMap{
		"pct":   func(k, n int) string { return fmt.Sprintf("%.1f %%", 100*float64(k)/float64(max(1, n))) },
		"share": func(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) },
		"clock": func(s float64) string {
			if s != s || s > 1e6 {
				return "never"
			}
			return fmt.Sprintf("%d:%02d", int(s)/60, int(s)%60)
		},
		"x": func(v float64) string { return fmt.Sprintf("%.2f", v) },
	}).Parse(text)
	if err != nil {
		return err
	}
	var out strings.Builder
	if err := t.Execute(&out, data); err != nil {
		return err
	}
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(c.Out, file), []byte(out.String()), 0o644)
}

var shapes = append(study.Shapes[:], judge.ShapeTemperature, judge.ShapeRising, judge.ShapeStep)

func gauge(r *study.Result) string {
	switch {
	case r.Kind == study.Needle:
		return "needle, read by eye"
	case r.Kind == study.Marks:
		return "needle, crossings noted"
	case r.Sharp:
		return "digital, quieter than its last digit"
	}
	return "digital, last digit flickers"
}

func creeps(r *study.Result) string {
	if r.Log {
		return "a logarithm and a time"
	}
	return []string{"none", "one time", "two times", "three times"}[r.Creeps]
}

func family(r *study.Result) string {
	return map[bool]string{true: "truth inside the fitted family", false: "truth outside it (three times)"}[r.InFamily()]
}

// better says in words where a stopwatch does better than the judge.
func better(rows []study.School) (out []string) {
	var own study.School
	for _, s := range rows {
		if s.Minutes == 0 {
			own = s
			continue
		}
		missed, alarms := s.MissedLeaks < own.MissedLeaks, s.FalseAlarms < own.FalseAlarms
		if !missed && !alarms {
			continue
		}
		in := cmp.Or(map[bool]string{true: "misses fewer leaks"}[missed && !alarms], map[bool]string{true: "raises fewer false alarms"}[alarms && !missed], "is wrong less often both ways")
		out = append(out, fmt.Sprintf("With a %s gauge the %.0f-minute hold %s: leaks passed %.1f %% against %.1f %%, tight ones failed %.1f %% against %.1f %%, undecided none against %.1f %%.",
			strings.ReplaceAll(string(s.Kind), "marks", "crossings"), s.Minutes, in, 100*s.MissedLeaks, 100*own.MissedLeaks, 100*s.FalseAlarms, 100*own.FalseAlarms, 100*own.Undecided))
	}
	return out
}
