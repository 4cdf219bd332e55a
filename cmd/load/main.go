// Command load times a running idlehiss from outside, for those who work on it: how soon it answers after its start, how
// long each page's data takes in a big shop, what memory it has. Make a shop for it with the command bigshop. It begins
// and abandons jobs in it.
package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"text/tabwriter"
	"time"

	"github.com/alecthomas/kong"
)

type options struct {
	Data    string `arg:"" help:"Folder of the shop."`
	Program string `default:"bin/idlehiss" help:"The program."`
	Times   int    `default:"200" help:"How often each is asked."`
	Starts  int    `default:"5" help:"How often it is started."`
}

func main() {
	var o options
	parser := kong.Must(&o, kong.Name("load"), kong.Description("Times a running idlehiss from outside."))
	_, err := parser.Parse(os.Args[1:])
	parser.FatalIfErrorf(err)
	parser.FatalIfErrorf(run(o))
}

// words are what is searched for: from one letter to what only one job has, what hardly any two have together, and what
// none has.
var words = []string{"b", "f", "ca", "fr", "car", "carr", "carrier", "bin carrier", "bin carrier 2", "leaking", "tight", "r", "right", "frost wagon", "carrier terrace",
	"locomotive down", "press yearly", "loses coolant overnight", "12", "sprayer tractor 37 leaking radiator", "wet carpet heater core", "h c", "nothing of the kind", "saw clutch le"}

func run(o options) error {
	out := tabwriter.NewWriter(os.Stdout, 0, 0, 1, ' ', tabwriter.Debug)
	defer out.Flush()
	fmt.Fprintln(out, "what\t median ms\t 95 in 100\t worst\t")
	var starts []float64
	var p *process
	for range o.Starts {
		if p != nil {
			p.stop()
		}
		begun := time.Now()
		var err error
		if p, err = start(o.Program, o.Data); err != nil {
			return err
		}
		if _, err := p.get("/api/bench"); err != nil {
			return err
		}
		starts = append(starts, ms(begun))
	}
	defer p.stop()
	line(out, "start, until the bench is answered", starts)
	fmt.Fprintf(out, "memory after the start, MB\t %.0f\t\t most %.0f\t\n", p.memory("VmRSS"), p.memory("VmHWM"))
	shop, err := p.look()
	if err != nil {
		return err
	}
	r := rand.New(rand.NewPCG(5, 6))
	of := func(what string, path func() string) error {
		var took []float64
		for range o.Times {
			at := path()
			begun := time.Now()
			if _, err := p.get(at); err != nil {
				return fmt.Errorf("%s: %w", at, err)
			}
			took = append(took, ms(begun))
		}
		line(out, what, took)
		return nil
	}
	one := func(all []string) func() string { return func() string { return all[r.IntN(len(all))] } }
	for _, x := range []struct {
		what string
		path func() string
	}{
		{"bench", one([]string{"/api/bench"})},
		{"book, its first page", one([]string{"/api/book"})},
		{"book, a later page", one(shop.later)},
		{"search, any of the list", one(shop.searches)},
		{"book by a filter", one([]string{"/api/book?only=open", "/api/book?only=unproved", "/api/book?only=due", "/api/book?hands=Ilse", "/api/book?family=train", "/api/book?q=not+proved+carrier"})},
		{"a machine's page", one(shop.machines)},
		{"end of the shift", one([]string{"/api/handover"})},
		{"machines by name", one([]string{"/api/machines?q=", "/api/machines?q=c", "/api/machines?q=frost", "/api/machines?q=zz"})},
		{"sheet of an ended job", one(shop.jobs)},
		{"hold that has ended, with its trace", one(shop.holds)},
		{"holds of its machine to compare with", one(shop.comparable)},
		{"sheet of an open job", one(shop.open)},
		{"live hold with its trace", one(shop.live)},
	} {
		if err := of(x.what, x.path); err != nil {
			return err
		}
	}
	worst := map[string]float64{}
	for _, s := range shop.searches {
		var took []float64
		for range 20 {
			begun := time.Now()
			if _, err := p.get(s); err != nil {
				return err
			}
			took = append(took, ms(begun))
		}
		slices.Sort(took)
		worst[s] = share(took, 0.95)
	}
	slowest := slices.MaxFunc(shop.searches, func(a, b string) int { return int(1000 * (worst[a] - worst[b])) })
	fmt.Fprintf(out, "slowest search, %s\t\t %.1f\t\t\n", slowest, worst[slowest])
	var begins, ends []float64
	for n := range o.Times / 2 {
		began, ended, err := p.job(n)
		if err != nil {
			return err
		}
		begins, ends = append(begins, began), append(ends, ended)
	}
	line(out, "begin a job", begins)
	line(out, "end a job", ends)
	fmt.Fprintf(out, "memory at last, MB\t %.0f\t\t most %.0f\t\n", p.memory("VmRSS"), p.memory("VmHWM"))
	return nil
}

func ms(since time.Time) float64 { return time.Since(since).Seconds() * 1e3 }

func share(sorted []float64, q float64) float64 { return sorted[int(q*float64(len(sorted)-1))] }

func line(out *tabwriter.Writer, what string, took []float64) {
	slices.Sort(took)
	fmt.Fprintf(out, "%s\t %.1f\t %.1f\t %.1f\t\n", what, share(took, 0.5), share(took, 0.95), share(took, 1))
}
