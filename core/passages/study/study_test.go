package study

import (
	"math/rand/v2"
	"testing"

	"idlehiss/library"
)

// On every housing that has tests of its own: every leak is found by every way, no escape that is meant is blamed,
// and to one leak and to two the plan needs less than the file's order and than one seal at a time.
func TestThePlanNeedsLessThanTheFilesOrder(t *testing.T) {
	all, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	var sum [3][Ways]float64 // by how many leak
	played := 0
	for i := range all {
		for _, on := range []bool{false, true} {
			so := map[string]bool{}
			for _, o := range all[i].Options {
				so[o.ID] = on
			}
			c := all[i].Fitted(so)
			h, ok := Of(&c)
			if !ok {
				continue
			}
			r := rand.New(rand.NewPCG(uint64(i), 15))
			for n := range 40 {
				leaks := h.Draw(r, 1+n%2)
				for way := range Ways {
					p := h.Play(way, leaks)
					if p.Meant > 0 || p.Tests == 0 || p.Minutes <= 0 {
						t.Fatalf("%s: %+v by way %d of %v", c.ID, p, way, leaks)
					}
					sum[len(leaks)][way] += p.Minutes
				}
				played++
			}
		}
	}
	if played < 200 {
		t.Errorf("only %d were played", played)
	}
	for n := 1; n < len(sum); n++ {
		if by := sum[n]; by[Planned] >= by[AsFiled] || by[Planned] >= by[OneByOne] {
			t.Errorf("minutes to %d leaks: planned %.0f, as filed %.0f, one by one %.0f", n, by[Planned], by[AsFiled], by[OneByOne])
		}
		t.Logf("%d leaking: planned %.1f min, %.2f of the file's order, %.2f of the same excusing, %.2f of one by one", n, sum[n][Planned]/float64(played/2), sum[n][Planned]/sum[n][AsFiled], sum[n][Planned]/sum[n][Excusing], sum[n][Planned]/sum[n][OneByOne])
	}
}
