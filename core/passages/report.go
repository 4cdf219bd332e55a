package passages

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Report is a plan with what was found so far, for people and programs.
type Report struct {
	Version int          `json:"version"`
	Circuit string       `json:"circuit"`
	Options []string     `json:"options"`
	Tests   []TestReport `json:"tests"`
	After   []string     `json:"after"` // what to do after the last, so that everything is as it was found
	Minutes float64      `json:"minutes"`
	Apart   [][]string   `json:"told_apart"`
	WhyNot  []WhyNot     `json:"why_not"`
	Next    *int         `json:"next"`  // the number of a test; null: none is wanted any more
	Left    []Left       `json:"left"`  // what may leak yet, likeliest first
	Spare   []string     `json:"spare"` // the circuit's own steps that the others make needless for telling seals apart
}

// TestReport is one test of it.
type TestReport struct {
	N           int               `json:"n"`
	Step        *string           `json:"step"` // the circuit's own step that it is; null: none
	Port        string            `json:"port"`
	Plugs       []PlugReport      `json:"plugs"`
	State       []string          `json:"state"`
	Pressurised []string          `json:"pressurised"`
	Tries       []string          `json:"tries"`
	ComesOut    map[string]string `json:"comes_out"` // of each: a chamber that opens to the air, outside (at the part itself), or unseen
	Meant       []MeantReport     `json:"meant"`
	Changes     []string          `json:"changes"`
	Minutes     float64           `json:"minutes"`
	ExcusedBy   *int              `json:"excused_by"` // the number of the test whose result makes it needless
	Result      *string           `json:"result"`     // where air came out, or nowhere
}

// PlugReport is one opening to shut.
type PlugReport struct {
	At   string `json:"at"`
	With string `json:"with"`
}

// MeantReport is an escape that belongs there.
type MeantReport struct {
	Part string   `json:"part"`
	Flow *float64 `json:"flow_cm3_per_min"` // at the file's pressure; null: not said
}

// WhyNot says why some seals cannot be told from each other, or one not be tried.
type WhyNot struct {
	Parts []string `json:"parts"`
	Why   string   `json:"why"`
}

// Left is a seal that may leak yet.
type Left struct {
	Part  string  `json:"part"`
	Title string  `json:"title"`
	Odds  float64 `json:"odds"` // of 1, by the circuit's odds and the results
}

// Nowhere is the result of a test that held.
const Nowhere = "nowhere"

// Out is what came out in a test: its step's id or its number, and where.
type Out struct{ Step, At string }

// Report is the plan of a circuit with its options, and what was found in the order in which it was.
func (p Plan) Report(c *circuit.Circuit, options []string, outs []Out) (Report, error) {
	r := Report{Version: 1, Circuit: c.ID, Options: append([]string{}, options...), Tests: []TestReport{}, Minutes: p.Minutes, Apart: p.Apart, WhyNot: p.whyNot(c), Left: []Left{}, Spare: append([]string{}, Spare(c)...)}
	if r.Apart == nil {
		r.Apart = [][]string{}
	}
	if len(p.Seals) > MostSeals {
		return r, fmt.Errorf("%s has %d seals; tests are planned for %d at most: describe the housing in parts, a file each", c.Title, len(p.Seals), MostSeals)
	}
	var results []Result
	named := map[int][]string{} // of each test done: the places, as they were given
	for _, o := range outs {
		x, err := p.result(c, o)
		if err != nil {
			return r, err
		}
		named[x.Test] = append(named[x.Test], o.At)
		if i := slices.IndexFunc(results, func(y Result) bool { return y.Test == x.Test }); i >= 0 {
			results[i].Places = append(results[i].Places, x.Places...)
			continue
		}
		results = append(results, x)
	}
	odds := map[string]float64{}
	for _, x := range c.Parts {
		odds[x.ID] = x.Odds
	}
	next := p.Next(results, odds)
	if next.Test >= 0 {
		r.Next = new(next.Test + 1)
	}
	for _, id := range next.Left {
		r.Left = append(r.Left, Left{id, title(c, id), next.Odds[id]})
	}
	changes := p.Changes(c)
	now := found(c)
	for i, t := range p.Tests {
		x := TestReport{N: i + 1, Port: t.setup.feed, Plugs: []PlugReport{}, State: c.StateOf(t.Step), Pressurised: t.Pressed.Chambers, Tries: []string{},
			ComesOut: map[string]string{}, Meant: []MeantReport{}, Changes: says(c, changes[i]), Minutes: t.Minutes() + now.minutes(t.setup)}
		now = t.setup
		if t.Own != "" {
			x.Step = new(t.Own)
		}
		for _, cl := range t.Pressed.Closures {
			if slices.Contains(t.setup.plugs, cl.Part.ID) {
				x.Plugs = append(x.Plugs, PlugReport{cl.Part.ID, cl.Part.Close + cl.Part.ClosedBy})
			}
		}
		for _, id := range p.Seals {
			if at := t.Out[id]; at != "" {
				x.Tries = append(x.Tries, id)
				if strings.HasPrefix(at, atItself) {
					at = circuit.Outside
				}
				x.ComesOut[id] = at
			}
		}
		for _, m := range t.Pressed.Meant {
			one := MeantReport{Part: m.ID}
			if m.Meant > 0 {
				one.Flow = new(float64(m.Meant) * cm3PerMin)
			}
			x.Meant = append(x.Meant, one)
		}
		if by, ok := next.Excused[i]; ok && len(results) > 0 {
			x.ExcusedBy = new(results[by].Test + 1)
		}
		if at := named[i]; at != nil {
			x.Result = new(strings.Join(at, ", "))
		}
		r.Tests = append(r.Tests, x)
	}
	r.After = says(c, changes[len(p.Tests)])
	return r, nil
}

const cm3PerMin = 60e6 // cm³/min in a m³/s

// result reads where air came out. A seal that stands to the air is named itself; else a chamber.
func (p Plan) result(c *circuit.Circuit, o Out) (Result, error) {
	i := slices.IndexFunc(p.Tests, func(t Test) bool { return t.Own != "" && t.Own == o.Step })
	if i < 0 {
		var n int
		if _, err := fmt.Sscanf(o.Step, "%d", &n); err != nil || n < 1 || n > len(p.Tests) {
			return Result{}, fmt.Errorf("came_out: step: no test %q; give the step or the number of one of the %d tests", o.Step, len(p.Tests))
		}
		i = n - 1
	}
	if o.At == Nowhere || o.At == "" {
		return Result{Test: i}, nil
	}
	could := map[string]bool{}
	for _, at := range p.Tests[i].Out {
		could[at] = true
	}
	for _, at := range []string{o.At, atItself + o.At} {
		if could[at] {
			return Result{Test: i, Places: []string{at}}, nil
		}
	}
	var have []string
	for at := range could {
		have = append(have, strings.TrimPrefix(at, atItself))
	}
	slices.Sort(have)
	return Result{}, fmt.Errorf("came_out: at: in test %d no leak comes out at %q; it would at %s, or nowhere", i+1, o.At, strings.Join(have, ", "))
}

// whyNot tells why seals stand together, and why some are not tried.
func (p Plan) whyNot(c *circuit.Circuit) []WhyNot {
	out := []WhyNot{}
	for _, g := range p.Apart {
		if len(g) < 2 {
			continue
		}
		for _, t := range p.Tests {
			at := t.Out[g[0]]
			if at == "" {
				continue
			}
			why := fmt.Sprintf("in every test they let out of the same chambers, and at the same place: %s", title(c, at))
			if at == Unseen {
				why = "what lies behind them has no way to the air: the needle falls, and no place shows it"
			}
			out = append(out, WhyNot{g, why})
			break
		}
	}
	for _, id := range p.Untried {
		out = append(out, WhyNot{[]string{id}, "no bore brings pressure to one side of it alone"})
	}
	return out
}
