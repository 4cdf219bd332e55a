// Command huntstudy plays whole hunts against leaks whose place is known and writes docs/hunt.md.
package main

import (
	_ "embed"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"text/template"

	"github.com/alecthomas/kong"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt/study"
	"idlehiss/library"
)

//go:embed page.md.tmpl
var page string

type cli struct {
	Each int    `default:"40" help:"Hunts of each circuit in each world."`
	Seed uint64 `default:"1" help:"The first hunt's seed; the others follow."`
	Out  string `default:"docs" help:"Folder for the page."`
	Only string `help:"One circuit only; printed, not written."`
}

func main() {
	var c cli
	kong.Parse(&c, kong.Name("huntstudy"), kong.Description("Plays whole hunts and writes docs/hunt.md."))
	if err := c.run(); err != nil {
		log.Fatal(err)
	}
}

type world struct {
	study.World
	Rows     []study.Row
	Circuits []line
	Trust    study.Trust
}

// calibrates is how many times as many hunts tell how often 19 to 1 is right, and from where their seeds
// follow: none of them is a hunt of the tables.
const (
	calibrates     = 5
	calibratesFrom = 1_000_000
)

// line is one circuit: our mean minutes and the others'.
type line struct {
	ID                    string
	Ours, Walk, Best      float64
	OfWalk, OfBest, Right float64
}

func (c cli) run() error {
	circuits, err := library.Circuits()
	if err != nil {
		return err
	}
	if c.Only != "" {
		circuits = slices.DeleteFunc(circuits, func(x circuit.Circuit) bool { return x.ID != c.Only })
	}
	methods, err := library.Methods()
	if err != nil {
		return err
	}
	repairs, err := library.Repairs()
	if err != nil {
		return err
	}
	known := study.Known{Methods: methods, Repairs: repairs}
	worlds := make([]world, len(study.Worlds))
	var wait sync.WaitGroup
	for i, w := range study.Worlds {
		wait.Go(func() { worlds[i] = c.play(circuits, known, w) })
	}
	wait.Wait()
	t, err := template.New("page").Funcs(template.FuncMap{
		"pc":   func(v float64) string { return fmt.Sprintf("%.1f %%", 100*v) },
		"n":    func(v float64) string { return fmt.Sprintf("%.1f", v) },
		"r":    func(v float64) string { return fmt.Sprintf("%.2f", v) },
		"over": func(a, b float64) string { return fmt.Sprintf("%.2f", a/b) },
		"best": func(rows []study.Row) float64 {
			out := rows[1].Mean
			for _, r := range rows[2:] {
				out = min(out, r.Mean)
			}
			return out
		},
	}).Parse(page)
	if err != nil {
		return err
	}
	var text strings.Builder
	if err := t.Execute(&text, map[string]any{"Each": c.Each, "Seed": c.Seed, "N": c.Each * len(circuits), "Worlds": worlds}); err != nil {
		return err
	}
	if c.Only != "" {
		fmt.Print(text.String())
		return nil
	}
	return os.WriteFile(filepath.Join(c.Out, "hunt.md"), []byte(text.String()), 0o644)
}

// play is everything that is played in one world.
func (c cli) play(circuits []circuit.Circuit, known study.Known, w study.World) world {
	all := study.Run(circuits, known, w, c.Each, c.Seed)
	x := world{World: w, Rows: study.Rows(all), Trust: study.Calibrate(circuits, known, w, calibrates*c.Each, c.Seed+calibratesFrom)}
	for _, k := range circuits {
		rows := study.Rows(study.Of(all, k.ID))
		best := rows[1].Mean
		for _, r := range rows[2:] {
			best = min(best, r.Mean)
		}
		x.Circuits = append(x.Circuits, line{k.ID, rows[0].Mean, rows[1].Mean, best, rows[0].Mean / rows[1].Mean, rows[0].Mean / best, rows[0].Right})
	}
	return x
}
