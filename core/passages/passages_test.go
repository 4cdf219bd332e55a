package passages

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"idlehiss/core/circuit"
)

// random is a housing of so many seals: chambers in a heap, seals between them and to the air, some that hold from
// one side only, some open in one state of a lever, meant orifices, and bores.
func random(seed uint64, seals int) *circuit.Circuit {
	r := rand.New(rand.NewPCG(seed, 15))
	c := &circuit.Circuit{ID: fmt.Sprint("random-", seed)}
	n := 3 + r.IntN(5)
	for i := range n {
		ch := circuit.Chamber{ID: fmt.Sprint("room-", i), Volume: 1e-4, Open: i == n-1 && r.IntN(2) == 0}
		c.Chambers = append(c.Chambers, ch)
		if r.IntN(4) > 0 || i == 0 {
			mouth := circuit.Part{ID: fmt.Sprint("mouth-", i), Between: [2]string{ch.ID, circuit.Outside}, Opening: true, Close: "a plug"}
			c.Parts = append(c.Parts, mouth)
			c.Ports = append(c.Ports, circuit.Port{ID: fmt.Sprint("bore-", i), Chamber: ch.ID, Mouth: mouth.ID})
		}
	}
	var states []string
	for i := range r.IntN(3) {
		p := circuit.Position{ID: fmt.Sprint("lever-", i)}
		for k := range 2 {
			p.States = append(p.States, circuit.PositionState{ID: fmt.Sprint("lever-", i, "-", k)})
			states = append(states, p.States[k].ID)
		}
		c.Positions = append(c.Positions, p)
	}
	side := func() string {
		if r.IntN(8) == 0 {
			return circuit.Outside // most seals of a housing are inside it
		}
		return c.Chambers[r.IntN(n)].ID
	}
	for i := 0; i < seals; {
		p := circuit.Part{ID: fmt.Sprint("seal-", i), Between: [2]string{side(), side()}, Odds: 1 + 5*r.Float64()}
		if p.Between[0] == p.Between[1] {
			continue
		}
		switch k := r.IntN(6); {
		case k == 0 && p.Between[0] != circuit.Outside && p.Between[1] != circuit.Outside:
			p.OneWay = true
		case k == 1 && len(states) > 0:
			p.OpenAt = []string{states[r.IntN(len(states))]}
		}
		c.Parts = append(c.Parts, p)
		i++
	}
	for i := range r.IntN(3) {
		p := circuit.Part{ID: fmt.Sprint("orifice-", i), Between: [2]string{side(), side()}, Meant: 1e-6, MeantAt: 4e5}
		if p.Between[0] != p.Between[1] {
			c.Parts = append(c.Parts, p)
		}
	}
	return c
}

// Housings are those of the library: what reads them imports this package, so they are handed in.
var Housings func() ([]circuit.Circuit, error)

// housings are those that are tested passage by passage, as a rule, with all options and with none.
func housings(t testing.TB) []*circuit.Circuit {
	t.Helper()
	all, err := Housings()
	if err != nil {
		t.Fatal(err)
	}
	var out []*circuit.Circuit
	for i := range all {
		c := &all[i]
		if !slices.Contains([]string{"housing", "hydraulic", "block", "head", "carburettor"}, c.Family) {
			continue
		}
		out = append(out, c)
		for _, on := range []bool{true, false} {
			so := map[string]bool{}
			for _, o := range c.Options {
				so[o.ID] = on
			}
			with := c.Fitted(so)
			out = append(out, &with)
		}
	}
	return out
}

// apart tells whether some of these tests show two seals at different places; b empty: whether one is shown at all.
func apart(tests []Test, a, b string) bool {
	return slices.ContainsFunc(tests, func(t Test) bool { return t.Out[a] != t.Out[b] })
}

// checked fails where a plan leaves together what some test of all could tell apart, or blames what is meant.
func checked(t *testing.T, c *circuit.Circuit, all []Test, p Plan) {
	t.Helper()
	block := map[string]int{}
	for i, g := range p.Apart {
		for _, id := range g {
			block[id] = i
		}
	}
	if len(block) != len(p.Seals) {
		t.Errorf("%s: %d seals stand in %v", c.ID, len(p.Seals), p.Apart)
	}
	for i, a := range p.Seals {
		if !apart(p.Tests, a, "") {
			t.Errorf("%s: no test of the plan shows %s", c.ID, a)
		}
		for _, b := range p.Seals[i+1:] {
			can, does := apart(all, a, b), apart(p.Tests, a, b)
			if can != does || can != (block[a] != block[b]) {
				t.Errorf("%s: %s and %s can be told apart: %t; by the plan: %t; it says %v", c.ID, a, b, can, does, p.Apart)
			}
		}
	}
	for _, x := range c.Parts {
		if x.Meant > 0 && (slices.Contains(p.Seals, x.ID) || slices.Contains(p.Untried, x.ID)) {
			t.Errorf("%s: %s is meant to pass and is blamed", c.ID, x.ID)
		}
	}
	sum, now := 0.0, found(c)
	for _, x := range p.Tests {
		sum += x.Minutes() + now.minutes(x.setup)
		now = x.setup
	}
	sum += now.minutes(found(c))
	if math.Abs(sum-p.Minutes) > 1e-9 {
		t.Errorf("%s: %v minutes are said, they are %v", c.ID, p.Minutes, sum)
	}
	if p.Least > p.Minutes+1e-9 || p.Minutes > 1.25*p.Least+1e-9 {
		t.Errorf("%s: %v minutes, at least %v", c.ID, p.Minutes, p.Least)
	}
}

// cheapest tries every order of every set of tests, as far as it can still be the best: the reference.
func cheapest(c *circuit.Circuit, all []Test, seals []string) float64 {
	var pairs [][2]string
	for i, a := range seals {
		for _, b := range append([]string{""}, seals[i+1:]...) {
			if apart(all, a, b) {
				pairs = append(pairs, [2]string{a, b})
			}
		}
	}
	best := math.Inf(1)
	home := found(c)
	var walk func(at setup, sum float64, open [][2]string)
	walk = func(at setup, sum float64, open [][2]string) {
		if len(open) == 0 {
			best = math.Min(best, sum+at.minutes(home))
			return
		}
		for _, t := range all {
			cost := sum + at.minutes(t.setup) + t.Minutes()
			if cost+t.setup.minutes(home) >= best {
				continue
			}
			var left [][2]string
			for _, x := range open {
				if t.Out[x[0]] == t.Out[x[1]] {
					left = append(left, x)
				}
			}
			if len(left) < len(open) {
				walk(t.setup, cost, left)
			}
		}
	}
	walk(home, 0, pairs)
	if math.IsInf(best, 1) {
		return 0 // nothing is tried by any
	}
	return best
}

// Every seal that can be told from every other is, at a cost near the least.
func TestThePlanTellsAllApartAtNearlyTheLeastCost(t *testing.T) {
	t.Parallel()
	for _, c := range housings(t) {
		all := Tests(c)
		checked(t, c, all, planned(c, all))
	}
	exact, tests, worst := 0, 0, 1.0
	for seed := range uint64(2000) {
		seals := 2 + int(seed%11)
		c := random(seed, seals)
		all := Tests(c)
		p := planned(c, all)
		checked(t, c, all, p)
		tests += len(p.Tests)
		if seals > 10 || len(all) > 14 {
			continue
		}
		exact++
		least := cheapest(c, all, p.Seals)
		if p.Minutes > 1.1*least+1e-9 || p.Minutes < least-1e-9 {
			t.Errorf("%s: %v minutes, the least is %v", c.ID, p.Minutes, least)
		}
		if p.Least > least+1e-9 {
			t.Errorf("%s: at least %v is said, %v is enough", c.ID, p.Least, least)
		}
		if least > 0 {
			worst = math.Max(worst, p.Minutes/least)
		}
	}
	t.Logf("%d of 2000 against every order, the worst %.3f times the least; %d tests in all", exact, worst, tests)
	if exact < 500 || tests < 2000 {
		t.Errorf("only %d were compared, with %d tests", exact, tests)
	}
}

// Whoever follows the changes stands as each test wants it, and in the end everything is as it was found.
func TestWhatIsChangedIsPutBack(t *testing.T) {
	t.Parallel()
	all := housings(t)
	for seed := range uint64(500) {
		all = append(all, random(seed, 2+int(seed%11)))
	}
	for _, c := range all {
		p := Of(c)
		is := map[string]string{}
		for _, x := range c.Positions {
			is[x.ID] = x.States[0].ID
		}
		as := fmt.Sprint(is)
		follow := func(changes []Change) {
			for _, x := range changes {
				switch x.Does {
				case Move:
					if is[x.At] == x.To {
						t.Errorf("%s: %s stands at %s already", c.ID, x.At, x.To)
					}
					is[x.At] = x.To
				case Plug, Feed, Work:
					if is[x.At] != "" {
						t.Errorf("%s: %s %s, and it is %s", c.ID, x.Does, x.At, is[x.At])
					}
					is[x.At] = string(x.Does) + x.To
				default:
					if is[x.At] == "" {
						t.Errorf("%s: %s %s, and nothing is there", c.ID, x.Does, x.At)
					}
					delete(is, x.At)
				}
			}
		}
		changes := p.Changes(c)
		if len(changes) != len(p.Tests)+1 {
			t.Fatalf("%s: %d times of changes for %d tests", c.ID, len(changes), len(p.Tests))
		}
		for i, x := range p.Tests {
			follow(changes[i])
			want := map[string]string{x.setup.feed: string(Feed)}
			for k, pos := range c.Positions {
				want[pos.ID] = x.setup.levers[k]
			}
			for _, id := range x.setup.plugs {
				want[id] = string(Plug)
			}
			for _, id := range x.Step.Open {
				if slices.Contains(x.setup.worked, id+" open") {
					want[id] = string(Work) + "open"
				}
			}
			for _, id := range x.Step.Shut {
				want[id] = string(Work) + "shut"
			}
			if fmt.Sprint(is) != fmt.Sprint(want) {
				t.Errorf("%s, test %d: it stands %v, wanted is %v", c.ID, i, is, want)
			}
		}
		if follow(changes[len(p.Tests)]); fmt.Sprint(is) != as {
			t.Errorf("%s is left as %v, found as %s", c.ID, is, as)
		}
	}
}

// shown is what a test shows where one seal leaks.
func shown(p Plan, test int, leak string) Result {
	if at := p.Tests[test].Out[leak]; at != "" {
		return Result{Test: test, Places: []string{at}}
	}
	return Result{Test: test}
}

// After each result the next test splits what is left, and what would show nothing new is excused by the result that
// made it so. What is named at 19 to 1 is right at least as often, leaks drawn by the circuit's odds; where nothing
// leaks, that is said.
func TestAfterEachResultTheNextTestSplits(t *testing.T) {
	t.Parallel()
	all := housings(t)
	for seed := range uint64(200) {
		all = append(all, random(seed, 2+int(seed%11)))
	}
	var right, drawn float64
	asked, leaks := 0, 0
	for _, c := range all {
		p := Fixed(c, Tests(c))
		odds, sum := map[string]float64{}, 0.0
		for _, x := range c.Parts {
			odds[x.ID] = x.Odds
			if slices.Contains(p.Seals, x.ID) {
				sum += x.Odds
			}
		}
		for _, leak := range append([]string{""}, p.Seals...) {
			var results []Result
			n := p.Next(nil, odds)
			for n.Test >= 0 {
				asked++
				results = append(results, shown(p, n.Test, leak))
				if len(results) > len(p.Tests) {
					t.Fatalf("%s: a test is asked for again: %v", c.ID, results)
				}
				n = p.Next(results, odds)
			}
			for i, by := range n.Excused {
				if by < 0 || by >= len(results) || slices.ContainsFunc(results, func(r Result) bool { return r.Test == i }) {
					t.Errorf("%s: test %d is excused by %d of %v", c.ID, i, by, results)
				}
			}
			if leak == "" {
				if !n.Sound && len(p.Seals) > 0 {
					t.Errorf("%s is sound, and after %v it is %v", c.ID, results, n.Odds)
				}
				continue
			}
			leaks++
			if n.Named == nil {
				t.Errorf("%s: %s leaks, and after %v nothing is named: %v", c.ID, leak, results, n.Odds)
			}
			drawn += odds[leak] / sum
			if slices.Contains(slices.Concat(n.Named...), leak) {
				right += odds[leak] / sum
			} else if n.Odds[leak] > 1-namedAt {
				t.Errorf("%s: %s leaks at %.3f, and %v is named", c.ID, leak, n.Odds[leak], n.Named)
			}
		}
	}
	t.Logf("%.4f named right of %d leaks, %.2f tests each", right/drawn, leaks, float64(asked)/float64(leaks))
	if right < namedAt*drawn {
		t.Errorf("%.3f named right", right/drawn)
	}
}

// Of two that leak at once, each heard at its place, the one that is named first leaks, or alone would show everything
// that was seen.
func TestOfTwoLeaksOneIsNamed(t *testing.T) {
	t.Parallel()
	right, played := 0, 0
	for _, c := range housings(t) {
		p := Fixed(c, Tests(c))
		odds := map[string]float64{}
		for _, x := range c.Parts {
			odds[x.ID] = x.Odds
		}
		for i, a := range p.Seals {
			for k, b := range p.Seals[i+1:] {
				if (i+k)%4 > 0 && len(p.Tests) > 10 {
					continue // a quarter of the largest
				}
				var results []Result
				n := p.Next(nil, odds)
				for n.Test >= 0 {
					r := shown(p, n.Test, a)
					for _, at := range shown(p, n.Test, b).Places {
						if !slices.Contains(r.Places, at) {
							r.Places = append(r.Places, at)
						}
					}
					results = append(results, r)
					n = p.Next(results, odds)
				}
				played++
				if named := slices.Concat(n.Named...); slices.Contains(named, a) || slices.Contains(named, b) {
					right++
				} else if n.Named == nil || slices.ContainsFunc(results, func(r Result) bool {
					return !slices.Equal(r.Places, shown(p, r.Test, n.Named[0][0]).Places)
				}) {
					t.Errorf("%s: %s and %s leak, and after %v %v is named", c.ID, a, b, results, n.Named)
				}
			}
		}
	}
	t.Logf("%d of %d", right, played)
	if 2*right < played {
		t.Errorf("of %d pairs one was named in %d", played, right)
	}
}

// What is called spare among a file's own steps tells nothing that the rest does not, and every other step does.
func TestSpareStepsTellNothingMore(t *testing.T) {
	t.Parallel()
	spare := 0
	for _, c := range housings(t) {
		var own []Test
		for _, x := range Tests(c) {
			if x.Own != "" && !slices.ContainsFunc(own, func(u Test) bool { return u.Own == x.Own }) {
				own = append(own, x)
			}
		}
		without := func(ids []string) []Test {
			return slices.DeleteFunc(slices.Clone(own), func(x Test) bool { return slices.Contains(ids, x.Own) })
		}
		tells := func(tests []Test) (n int) {
			all := append([]string{""}, seals(c, own)...)
			for i, a := range all {
				for _, b := range all[i+1:] {
					if apart(tests, a, b) {
						n++
					}
				}
			}
			return n
		}
		ids := Spare(c)
		spare += len(ids)
		if tells(without(ids)) != tells(own) {
			t.Errorf("%s: without %v less is told apart", c.ID, ids)
		}
		for _, x := range without(ids) {
			if tells(without(append(slices.Clone(ids), x.Own))) == tells(own) {
				t.Errorf("%s: %s is not needed either, beside %v", c.ID, x.Own, ids)
			}
		}
	}
	if spare == 0 {
		t.Error("no file has a step to spare")
	}
}

// More seals than can be kept apart are refused, not planned wrongly.
func TestTooManySealsAreRefused(t *testing.T) {
	t.Parallel()
	c := random(1, 2*MostSeals)
	c.Title = "A big housing"
	p := Of(c)
	if len(p.Seals) <= MostSeals || len(p.Tests) > 0 {
		t.Fatalf("%d seals, %d tests", len(p.Seals), len(p.Tests))
	}
	if _, err := p.Report(c, nil, nil); err == nil {
		t.Error("a report was given")
	}
	if f := Findings(c); len(f) > 0 {
		t.Errorf("findings of what is not planned: %+v", f)
	}
}

func BenchmarkPlan(b *testing.B) {
	for _, c := range housings(b) {
		b.Run(c.ID, func(b *testing.B) {
			for b.Loop() {
				Of(c)
			}
		})
	}
	b.Run("random/12", func(b *testing.B) {
		n := uint64(0)
		for b.Loop() {
			Of(random(n, 12))
			n++
		}
	})
}

func BenchmarkNext(b *testing.B) {
	for _, c := range housings(b) {
		p := Fixed(c, Tests(c))
		if len(p.Tests) == 0 {
			continue
		}
		odds := map[string]float64{}
		for _, x := range c.Parts {
			odds[x.ID] = x.Odds
		}
		results := []Result{shown(p, 0, p.Seals[0])}
		b.Run(fmt.Sprint(c.ID, "/", len(p.Tests)), func(b *testing.B) {
			for b.Loop() {
				p.Next(results, odds)
			}
		})
	}
}
