package hunt

import (
	"math"
	"slices"
	"testing"
)

// all leaks are tried by a hold of n suspects.
func all(n int) []float64 {
	return slices.Repeat([]float64{1}, n)
}

// sees is a method that sees from a flow on, nine times in ten.
func sees(from float64) func(Leak) float64 {
	return func(l Leak) float64 {
		if l.Flow >= from {
			return 0.9
		}
		return 0
	}
}

func TestEvidenceMovesTheOdds(t *testing.T) {
	shares, wet := []float64{0.4, 0.3, 0.2, 0.1}, []float64{0, 0.5, 0, 0}
	leaking := Held{Factor: all(4), Flow: 1e-8, SE: 1e-9, Leaking: true}
	base := Believe(shares, wet, []Evidence{leaking})
	sum := func(b Belief) float64 {
		s := b.Elsewhere - b.Two
		for _, p := range b.Odds {
			s += p
		}
		return s
	}
	if math.Abs(sum(base)-1) > 1e-9 {
		t.Errorf("the hypotheses come to %.12f", sum(base))
	}
	look := func(saw bool) Looked { return Looked{Part: 0, Saw: saw, Chance: sees(1e-9), False: 0.01} }
	for what, c := range map[string]struct {
		e        Evidence
		part, up int
	}{
		"nothing seen there":               {look(false), 0, -1},
		"seen there":                       {look(true), 0, 1},
		"another gains by a miss":          {look(false), 1, 1},
		"tight where it is tried":          {Held{Factor: []float64{1, 1, 0, 0}, SE: 1e-10}, 0, -1},
		"tight elsewhere":                  {Held{Factor: []float64{1, 1, 0, 0}, SE: 1e-10}, 2, 1},
		"leaking where it is tried":        {Held{Factor: []float64{0, 0, 1, 1}, Flow: 1e-8, SE: 1e-9, Leaking: true}, 3, 1},
		"an act that points to it":         {Acted{Points: []bool{false, true, false, false}, Others: []bool{true, false, true, true}}, 1, 1},
		"it closes again":                  {Shaped{Times: []float64{0.4, 4, 0.4, 0.4}}, 1, 1},
		"slowed when it was cut off":       {Slowed{Cut: []bool{false, true, false, false}, Share: 0.1, SE: 0.1}, 1, 1},
		"cut off, and as fast":             {Slowed{Cut: []bool{false, true, false, false}, Share: 1.1, SE: 0.1, Air: 0.1}, 1, -1},
		"it came out there":                {CameOut{[]bool{false, false, false, true}}, 3, 1},
		"it dripped, and that is below":    {Phase{Dripped: true}, 1, 1},
		"it hissed, and that is below":     {Phase{}, 1, -1},
		"mended, and it goes on":           {Mended{1, leaking}, 1, -1},
		"mended, and it is tight":          {Mended{1, Held{Factor: all(4), SE: 1e-10}}, 1, 1},
		"wet below another that runs":      {Looked{Part: 3, Saw: true, Chance: sees(1e-9), False: 0.01, Runs: []int{2}}, 2, 1},
		"a method too coarse tells little": {Looked{Part: 0, Chance: sees(1e-6), False: 0}, 0, 0},
	} {
		got := Believe(shares, wet, []Evidence{leaking, c.e})
		d := got.Odds[c.part] - base.Odds[c.part]
		if c.up > 0 && d <= 0.01 || c.up < 0 && d >= -0.01 || c.up == 0 && math.Abs(d) > 0.01 {
			t.Errorf("%s: from %.3f to %.3f", what, base.Odds[c.part], got.Odds[c.part])
		}
		if math.Abs(sum(got)-1) > 1e-9 {
			t.Errorf("%s: the hypotheses come to %.12f", what, sum(got))
		}
	}
	// Order does not matter, and what is taken back has left nothing.
	found := []Evidence{leaking, look(false), CameOut{[]bool{false, true, true, false}}, Phase{Dripped: true}}
	forth := Believe(shares, wet, found)
	back := Believe(shares, wet, []Evidence{found[3], found[1], found[0], found[2]})
	again := Believe(shares, wet, found[:1])
	for i := range shares {
		if math.Abs(forth.Odds[i]-back.Odds[i]) > 1e-12 || math.Abs(again.Odds[i]-base.Odds[i]) > 1e-12 {
			t.Errorf("suspect %d: %.15f and %.15f; taken back %.15f, was %.15f", i, forth.Odds[i], back.Odds[i], again.Odds[i], base.Odds[i])
		}
	}
	// Seven misses by a method that cannot see a leak so small clear nothing.
	small := Held{Factor: all(4), Flow: 1e-10, SE: 1e-11, Leaking: true}
	misses := []Evidence{small}
	for range 7 {
		misses = append(misses, look(false))
	}
	if a, b := Believe(shares, wet, misses[:1]), Believe(shares, wet, misses); math.Abs(a.Odds[0]-b.Odds[0]) > 0.02 {
		t.Errorf("too small to be seen, and cleared: from %.3f to %.3f", a.Odds[0], b.Odds[0])
	}
	// Two leaks: one mended takes part of the flow with it, and what is left is another's.
	two := Believe(shares, wet, []Evidence{leaking, look(true), Mended{0, Held{Factor: all(4), Flow: 4e-9, SE: 4e-10, Leaking: true}}})
	if two.Two < 0.5 || base.Two > 0.2 {
		t.Errorf("two leaks: %.3f, before %.3f", two.Two, base.Two)
	}
	if got := Believe(nil, nil, nil); got.Elsewhere != 1 {
		t.Errorf("of no suspects it leaks elsewhere: %+v", got)
	}
}

// Every hypothesis weighed one by one by its own evidence gives the same odds.
func TestBeliefIsTheSumOfItsHypotheses(t *testing.T) {
	shares, wet := []float64{0.35, 0.25, 0.2, 0.15, 0.05}, []float64{0, 1, 0.5, 1, 0}
	leaking := Held{Factor: []float64{1, 1, 1, 2, 1}, Flow: 1e-8, SE: 2e-9, Leaking: true}
	look := func(part int, saw bool, runs ...int) Looked {
		return Looked{Part: part, Saw: saw, Chance: sees(3e-9), False: 0.1, Runs: runs}
	}
	found := []Evidence{
		leaking, look(0, false), look(1, true, 2), look(2, false, 0), look(2, true),
		Held{Factor: []float64{0, 1, 1, 0, 1}, Flow: 4e-9, SE: 2e-9, Leaking: true},
		CameOut{[]bool{false, true, false, true, false}}, Phase{Dripped: true},
		Did([]bool{true, false, false, true, false}, false), Slowed{Cut: []bool{false, true, false, false, true}, Share: 0.6, SE: 0.1, Air: 0.1},
		Mended{1, Held{Factor: all(5), Flow: 5e-9, SE: 1e-9, Leaking: true}},
	}
	weigh := func(leaks ...Leak) float64 {
		w := 1.0
		for _, e := range found {
			w *= e.Weight(leaks)
		}
		return w
	}
	odds, two, total, scale := make([]float64, 5), 0.0, 0.0, 0.0
	for i := range shares {
		for k := range i {
			scale += shares[i] * shares[k]
		}
	}
	n := float64(len(fine))
	of := func(part int, liquid bool) float64 {
		if liquid {
			return shares[part] * wet[part]
		}
		return shares[part] * (1 - wet[part])
	}
	both := []bool{false, true}
	for _, f := range fine {
		total += noneHere / n * weigh(Leak{Part: Elsewhere, Flow: f})
		for i := range shares {
			for _, a := range both {
				v := of(i, a) * (1 - twoLeaks - noneHere) / n * weigh(Leak{i, f, a})
				odds[i] += v
				total += v
				for k := i + 1; k < 5; k++ {
					for _, b := range both {
						for _, g := range fine {
							v := twoLeaks * of(i, a) * of(k, b) / scale / n / n * weigh(Leak{i, f, a}, Leak{k, g, b})
							odds[i], odds[k], two, total = odds[i]+v, odds[k]+v, two+v, total+v
						}
					}
				}
			}
		}
	}
	got := Believe(shares, wet, found)
	// Pairs of sizes that fit a hold worse than one in two hundred are not followed.
	for i := range odds {
		if math.Abs(got.Odds[i]-odds[i]/total) > unfitting {
			t.Errorf("suspect %d: %.5f, one by one %.5f", i, got.Odds[i], odds[i]/total)
		}
	}
	if math.Abs(got.Two-two/total) > unfitting {
		t.Errorf("two leaks: %.5f, one by one %.5f", got.Two, two/total)
	}
}

func BenchmarkBelieve(b *testing.B) {
	const n = 40
	shares, wet := slices.Repeat([]float64{1. / n}, n), slices.Repeat([]float64{0, 0.5}, n/2)
	found := []Evidence{Held{Factor: all(n), Flow: 1e-8, SE: 1e-9, Leaking: true}}
	for i := range 6 {
		found = append(found, Looked{Part: i, Chance: sees(1e-9), False: 0.01})
	}
	for b.Loop() {
		Believe(shares, wet, found)
	}
}
