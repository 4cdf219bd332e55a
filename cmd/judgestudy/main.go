// Command judgestudy plays the judge against thousands of simulated holds and
// writes what came of it: a page and its charts.
package main

import (
	"cmp"
	_ "embed"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"
	"text/template"
	"time"

	"github.com/alecthomas/kong"

	"idlehiss/core/judge"
	"idlehiss/core/judge/study"
)

//go:embed page.md.tmpl
var page string

type cli struct {
	Each int    `default:"1050" help:"Holds in each band of true rate over the allowance."`
	Seed uint64 `default:"1" help:"The first hold's seed; the others follow."`
	Out  string `default:"docs" help:"Folder for judge.md and its charts."`
}

func main() {
	var c cli
	kong.Parse(&c, kong.Name("judgestudy"), kong.Description("Plays the judge against simulated holds and writes docs/judge.md."))
	if err := c.run(); err != nil {
		log.Fatal(err)
	}
}

func (c cli) run() error {
	start := time.Now()
	all := study.Run(c.Seed, c.Each, nil)
	circuit := study.Run(c.Seed, c.Each/3, onCircuit)
	name := func(key func(r *study.Result) string) []study.Group { return study.By(all, key) }
	told, right := 0, 0
	confused := study.Confused(all)
	for _, row := range confused {
		told += row.N
		right += row.Right
	}
	data := map[string]any{
		"Version": judge.Version, "N": len(all), "Each": c.Each, "Seed": c.Seed, "Minutes": time.Since(start).Minutes(),
		"Rule":    judge.TheRule,
		"Bands":   study.ByBand(all),
		"Circuit": pairs(study.ByBand(all), study.ByBand(circuit)), "CircuitN": len(circuit),
		"CircuitClasses": study.By(circuit, func(r *study.Result) string { return string(r.Class) }),
		"Classes":        name(func(r *study.Result) string { return string(r.Class) }),
		"Gauges":         name(gauge),
		"Creeps":         name(creeps),
		"Families":       name(family),
		"Laws":           name(func(r *study.Result) string { return string(r.Law) }),
		"Warmth": name(func(r *study.Result) string {
			return map[bool]string{true: "drifting, and read", false: "steady"}[r.Warm]
		}),
		"Slow":     study.SlowCreeps(all),
		"Confused": confused, "Shapes": shapes, "Told": told, "Right": right,
		"Schools": study.Beside(all), "Better": better(study.Beside(all)),
	}
	t, err := template.New("page").Funcs(template.FuncMap{
		"pct":   func(k, n int) string { return fmt.Sprintf("%.1f %%", 100*float64(k)/float64(max(1, n))) },
		"share": func(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) },
		"clock": func(s float64) string {
			if s != s || s > 1e6 {
				return "never"
			}
			return fmt.Sprintf("%d:%02d", int(s)/60, int(s)%60)
		},
		"x": func(v float64) string { return fmt.Sprintf("%.2f", v) },
	}).Parse(page)
	if err != nil {
		return err
	}
	var text strings.Builder
	if err := t.Execute(&text, data); err != nil {
		return err
	}
	if err := os.MkdirAll(c.Out, 0o755); err != nil {
		return err
	}
	if err := charts(all, c.Out); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(c.Out, "judge.md"), []byte(text.String()), 0o644)
}

// pair is a band played by the study's own curves and on the circuit simulator.
type pair struct{ Own, Circuit study.Band }

func pairs(own, circuit []study.Band) (out []pair) {
	for i := range own {
		out = append(out, pair{own[i], circuit[i]})
	}
	return out
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
