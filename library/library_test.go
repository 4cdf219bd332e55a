package library

import (
	"strings"
	"testing"

	"idlehiss/core/runsheet"
)

func TestWhatShipsIsSound(t *testing.T) {
	all, err := Circuits()
	if err != nil || len(all) == 0 {
		t.Fatal(err)
	}
	for _, c := range all {
		if c.Standing == "" || c.Source == "" || len(c.NotTested) == 0 {
			t.Errorf("%s says too little of its standing", c.ID)
		}
		known := map[string]bool{}
		for _, s := range runsheet.Stages(&c) {
			known[s.ID] = true
		}
		if len(known) != 11 {
			t.Errorf("%s has %d stages", c.ID, len(known))
		}
		must := 0
		for _, s := range c.Stages {
			if !known[s.Stage] {
				t.Errorf("%s speaks of a stage %q that is not in the order of work", c.ID, s.Stage)
			}
			for _, i := range s.Ticks {
				if i.Must {
					must++
				}
			}
		}
		if out := runsheet.Outstanding(&c, map[string]bool{}); len(out) != must || must == 0 {
			t.Errorf("%s: %d of %d musts outstanding", c.ID, len(out), must)
		}
	}
	hold, err := HoldSchools()
	if err != nil || len(hold) < 6 || hold[0].HoldS != 120 || hold[0].AllowedPa != 10e3 {
		t.Errorf("%+v %v", hold, err)
	}
	for i, s := range hold {
		if s.ID == "" || s.Title == "" || s.Source == "" || s.HoldS <= 0 || s.AllowedPa < 0 || s.AfterS < 0 || i > 0 && s.HoldS < hold[i-1].HoldS {
			t.Errorf("school of hold %+v", s)
		}
	}
	if target, err := TargetSchools(); err != nil || len(target) != 5 {
		t.Errorf("%+v %v", target, err)
	}
}

func TestABadCircuitIsRefusedWithItsPlace(t *testing.T) {
	raw, err := files.ReadFile("circuits/cooling-header-tank.yaml")
	if err != nil {
		t.Fatal(err)
	}
	text := string(raw)
	for says, edit := range map[string][2]string{
		"/chambers/0/volume": {"volume: 7 L", "volume: 7"},
		"/family":            {"family: cooling", "family: plumbing"},
		"no chamber here":    {"between: [loop, bores]", "between: [loop, sump]"},
		"[4:1]":              {"id: cooling-header-tank", "id: [cooling"},
		"additional":         {"liquid: coolant", "liquor: coolant"},
		"no unit":            {"limit: 250 kPa", "limit: 250 bananas"},
	} {
		bad := strings.Replace(text, edit[0], edit[1], 1)
		if bad == text {
			t.Fatalf("%s: nothing was edited", says)
		}
		_, err := ParseCircuit([]byte(bad))
		if err == nil {
			t.Errorf("%q was taken", edit[1])
			continue
		}
		if !strings.Contains(err.Error(), says) {
			t.Logf("%s: %v", edit[1], err)
			if says != "no unit" || !strings.Contains(err.Error(), "bananas") {
				t.Errorf("%q: want %q in %v", edit[1], says, err)
			}
		}
	}
	if _, err := Circuit("nothing"); err == nil || !strings.Contains(err.Error(), "cooling-header-tank") {
		t.Error(err)
	}
}
