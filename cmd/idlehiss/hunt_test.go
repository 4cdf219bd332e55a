package main

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"idlehiss/library"
)

// hunts runs the command on a findings text.
func hunts(t *testing.T, id, text string) hunted {
	t.Helper()
	code, out, errs := idlehiss(text, "hunt", id, "-", "--json")
	if code != 0 {
		t.Fatalf("%s: %s", id, errs)
	}
	conforms(t, "hunt", out)
	var doc hunted
	if err := json.Unmarshal([]byte(out), &doc); err != nil {
		t.Fatal(err)
	}
	return doc
}

func (d hunted) odds(part string) float64 {
	for _, s := range d.Suspects {
		if s.Part == part {
			return s.Odds
		}
	}
	return math.NaN()
}

func TestEveryCircuitIsHunted(t *testing.T) {
	all, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range all {
		doc := hunts(t, c.ID, "loss: 6 cm3/min")
		sum := doc.Elsewhere - doc.TwoLeaks
		for i, s := range doc.Suspects {
			sum += s.Odds
			if i > 0 && s.Odds > doc.Suspects[i-1].Odds {
				t.Errorf("%s: %s stands below a less likely one", c.ID, s.Part)
			}
		}
		if math.Abs(sum-1) > 1e-9 {
			t.Errorf("%s: the hypotheses come to %.12f", c.ID, sum)
		}
		if doc.Next == nil || doc.ExpectedMinutes == nil || *doc.ExpectedMinutes <= 0 || len(doc.Next.Tries) == 0 || doc.Next.Says == "" || len(doc.Then) > mostChecks {
			t.Errorf("%s: nothing comes next: %+v", c.ID, doc.Next)
		}
		if doc.Named != nil {
			t.Errorf("%s: %s is named on a loss alone", c.ID, doc.Named.Part)
		}
		twice := map[string]bool{}
		for _, x := range append(doc.Then, *doc.Next) {
			key := x.Says
			if twice[key] {
				t.Errorf("%s: twice: %s", c.ID, key)
			}
			twice[key] = true
			if x.IfThere <= 0 || x.IfThere > 1 || x.Chance <= 0 || x.Chance > x.IfThere+1e-9 && x.Kind == "look" || x.Minutes < x.HandsOnMinutes-1e-9 {
				t.Errorf("%s: %+v", c.ID, x)
			}
		}
	}
}

// Evidence by part: whether it makes it likelier, by family.
func TestFindingsMoveTheSuspects(t *testing.T) {
	const loss = "loss: 3 cm3/min\n"
	for _, c := range []struct {
		id, more, part string
		up             bool
	}{
		{"cooling-radiator-cap", "looks: [{part: top-hose, method: soap, seen: false}]", "top-hose", false},
		{"cooling-radiator-cap", "looks: [{part: top-hose, method: soap, seen: true}]", "top-hose", true},
		{"cooling-radiator-cap", "looks: [{part: top-hose, method: eyes, seen: false}]", "radiator", true},
		{"cooling-radiator-cap", "phase: liquid", "water-pump", true},
		{"cooling-radiator-cap", "phase: gas", "water-pump", false},
		{"cooling-radiator-cap", "worked_on: [thermostat-housing]", "thermostat-housing", true},
		{"cooling-radiator-cap", "hunch: {part: core-plugs, weight: 0.4}", "core-plugs", true},
		{"cooling-radiator-cap", "rig_proven: true", "rig", false},
		{"cooling-radiator-cap", "repairs: [{part: radiator, loss_after: 0 cm3/min}]", "radiator", true},
		{"cooling-radiator-cap", "repairs: [{part: radiator, loss_after: 3 cm3/min}]", "radiator", false},
		{"cooling-radiator-cap", "acts: [{act: clamped, tries: [heater-hoses, heater-core], changed: true}]", "heater-core", true},
		{"cooling-radiator-cap", "acts: [{act: clamped, tries: [heater-hoses, heater-core], before: 3 cm3/min, after: 2.9 cm3/min}]", "heater-core", false},
		{"cylinder-head", "acts: [{act: nipped, tries: [plate-joint], changed: false}]", "plate-joint", false},
		{"cylinder-head", "came_out: [{at: port-walls}]", "port-walls", true},
		{"two-stroke-crankcase", "looks: [{part: clutch-seal, method: soap, seen: true}]", "clutch-seal", true},
		{"train-brake", "came_out: [{at: distributors}]", "distributors", true},
		{"train-brake", "came_out: [{at: distributors}]", "brake-hoses", false},
		{"lift-housing", "came_out: [{at: sump}]", "cover", false},
		{"lift-housing", "came_out: [{at: sump}]", "ram-seal", true},
	} {
		before, after := hunts(t, c.id, loss).odds(c.part), hunts(t, c.id, loss+c.more).odds(c.part)
		if c.up && !(after > before*1.02) || !c.up && !(after < before*0.98) {
			t.Errorf("%s: %s: %s from %.4f to %.4f", c.id, c.more, c.part, before, after)
		}
	}
}

func TestWhatIsSeenTwiceIsNamed(t *testing.T) {
	doc := hunts(t, "cooling-radiator-cap", "loss: 3 cm3/min\nlooks:\n - {part: radiator, method: soap, seen: true}\n - {part: radiator, method: ultrasound, seen: true}\n")
	if doc.Named == nil || doc.Named.Part != "radiator" || !doc.Named.Seen || len(doc.Named.Repairs) == 0 {
		t.Errorf("seen twice: %+v", doc.Named)
	}
	// What a coarse method cannot see of so small a leak is not cleared by it, and it is struck out.
	small := hunts(t, "cooling-radiator-cap", "loss: 0.1 cm3/min")
	missed := hunts(t, "cooling-radiator-cap", "loss: 0.1 cm3/min\nlooks: ["+strings.Repeat("{part: radiator, method: wet-hand, seen: false}, ", 7)+"]")
	if a, b := small.odds("radiator"), missed.odds("radiator"); math.Abs(a-b) > 0.01*a {
		t.Errorf("seven misses by hand: from %.4f to %.4f", a, b)
	}
	struck := map[string]bool{}
	for _, s := range small.Struck {
		struck[s.Method] = s.Why != ""
	}
	if !struck["wet-hand"] || !struck["ears-quiet"] || struck["soap"] {
		t.Errorf("struck out: %v", small.Struck)
	}
	// A cover that is off costs nothing.
	if c, err := library.Circuit("cooling-header-tank"); err != nil || len(c.Covers) == 0 {
		t.Fatalf("no covers: %v", err)
	} else {
		open := "loss: 3 cm3/min\nopen: ["
		for _, x := range c.Covers {
			open += x.ID + ", "
		}
		a, b := hunts(t, c.ID, "loss: 3 cm3/min"), hunts(t, c.ID, open+"]")
		if !(*b.ExpectedMinutes < *a.ExpectedMinutes) {
			t.Errorf("all covers off: %.2f min, on: %.2f", *b.ExpectedMinutes, *a.ExpectedMinutes)
		}
	}
}

func TestHuntRefusesWhole(t *testing.T) {
	for text, says := range map[string]string{
		"loss: 3":          "3cm3/min",
		"loss: -3 cm3/min": "must be positive",
		"loss: {value: 3 cm3/min, low: 4 cm3/min, high: 5 cm3/min}": "in that order",
		"phase: steam":                            "gas, liquid or unknown",
		"shop: busy":                              "quiet or noisy",
		"signs: [nothing-such]":                   "has no sign",
		"open: [bonnet]":                          "has no cover",
		"looks: [{part: tyre, method: soap}]":     "no suspect",
		"looks: [{part: radiator, method: nose}]": "no method",
		"came_out: [{at: moon}]":                  "no chamber, port or part",
		"acts: [{act: clamped}]":                  "whether it changed",
		"acts: [{act: x, changed: true}]":         "name the parts",
		"hunch: {part: radiator, weight: 4}":      "below 1",
		"repairs: [{part: radiator}]":             "loss_after",
		"guess: 1":                                "unknown field",
		"steps: {nowhere: {trace: x.csv}}":        "has no step",
	} {
		if code, out, errs := idlehiss(text, "hunt", "cooling-radiator-cap", "-", "--json"); code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("%q: exit %d, %q, wants %q", text, code, errs, says)
		}
	}
}
