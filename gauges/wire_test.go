package gauges

import (
	"context"
	"math"
	"strings"
	"testing"
	"testing/fstest"
	"time"
)

// Every map that ships reads back what a gauge of its kind serves, in every unit
// it can show, and comes back by itself after its plug was out.
func TestAServedGaugeIsReadByItsMap(t *testing.T) {
	maps, _, err := Maps(nil)
	if err != nil || len(maps) < 3 {
		t.Fatalf("%d maps, %v", len(maps), err)
	}
	for _, m := range maps {
		t.Run(m.ID, func(t *testing.T) {
			t.Parallel()
			g, err := Serve("127.0.0.1:0", m, 250e3, func() float64 { return -23.4e3 })
			if err != nil {
				t.Fatal(err)
			}
			defer g.Close()
			ctx, stop := context.WithTimeout(t.Context(), 20*time.Second)
			defer stop()
			said, lost := make(chan Said, 1000), make(chan error, 1000)
			go Wire{g.Address(), m}.Run(ctx, Allowed{"127.0.0.1"}, time.Now, func(s Said) { said <- s }, func(err error) { lost <- err })
			next := func(unit string, want float64) Said {
				t.Helper()
				for {
					select {
					case s := <-said:
						if s.Unit == unit && math.Abs(s.Value-want) < 0.06 {
							return s
						}
					case <-ctx.Done():
						t.Fatalf("never said %v %s", want, unit)
					}
				}
			}
			first := next("kPa", -23.4)
			if second := next("kPa", -23.4); m.Count != nil && second.Count <= first.Count {
				t.Errorf("counted %d, then %d", first.Count, second.Count)
			}
			if m.UnitCode != nil {
				if err := g.Show("psi"); err != nil {
					t.Fatal(err)
				}
				next("psi", -3.39)
				if err := g.Show("kPa"); err != nil {
					t.Fatal(err)
				}
			}
			if err := g.Pull(true); err != nil {
				t.Fatal(err)
			}
			select {
			case <-lost:
			case <-ctx.Done():
				t.Fatal("pulled out and not missed")
			}
			if err := g.Pull(false); err != nil {
				t.Fatal(err)
			}
			next("kPa", -23.4)
		})
	}
}

func TestWrongMapsSayWhatWouldBeRight(t *testing.T) {
	good := "id: x\ntitle: X\ntable: input\nevery: 1 s\nunit: kPa\npressure: {address: 0, type: float32}\n"
	for from, c := range map[string]struct{ to, says string }{
		"float32":   {"float64", "one of int16, uint16"},
		"kPa":       {"furlong", "furlong"},
		"1 s":       {"1 h", "every 0.02 s to 60 s"},
		"input":     {"coils", "input or holding"},
		"type":      {"typo", "typo"},
		"unit: kPa": {"unit_code: {address: 4, type: uint16}", "units"},
	} {
		if _, err := ParseMap([]byte(strings.Replace(good, from, c.to, 1))); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s for %s: %v", c.to, from, err)
		}
	}
	own := fstest.MapFS{"mine.yaml": {Data: []byte(good)}, "bad.yaml": {Data: []byte("id: y")}}
	maps, wrong, err := Maps(own)
	if err != nil || maps[len(maps)-1].ID != "x" || wrong["bad.yaml"] == "" {
		t.Errorf("%v %v %v", maps, wrong, err)
	}
}
