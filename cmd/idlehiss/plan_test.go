package main

import (
	"encoding/json"
	"math"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/library"
)

// marked is a mark for those circuits that want one.
func marked(c circuit.Circuit) []string {
	switch {
	case c.Mark.On == "cap":
		return []string{"--mark", "1.1"}
	case c.Marked():
		return []string{"--mark", "100kPa"}
	}
	return nil
}

// Every circuit prints a whole run sheet, by every school of it, with each option and
// without: all of its steps, nothing beyond a limit, everything that is shut counted in
// and out, and why the school is the default.
func TestARunSheetOfEveryCircuitByEverySchool(t *testing.T) {
	all, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	sheets := 0
	for _, c := range all {
		ways := [][]string{nil}
		for _, m := range c.Matters {
			for _, s := range m.Schools {
				ways = append(ways, []string{"--by", m.ID + "=" + s.ID})
			}
		}
		for _, o := range c.Options {
			ways = append(ways, []string{"--with", o.ID}, []string{"--without", o.ID})
		}
		if c.Marked() {
			ways = append(ways, []string{"--school", "exactly"}) // before the mark was read
		}
		for _, way := range ways {
			args := slices.Concat([]string{"plan", c.ID}, way)
			unread := slices.Contains(way, "--school")
			if !unread {
				args = append(args, marked(c)...)
			}
			about := strings.Join(args, " ")
			code, out, errs := idlehiss("", append(slices.Clone(args), "--json")...)
			if code != 0 {
				t.Errorf("%s: %s", about, errs)
				continue
			}
			sheets++
			if way == nil {
				conforms(t, "plan", out)
			}
			var doc planned
			if err := json.Unmarshal([]byte(out), &doc); err != nil {
				t.Fatal(err)
			}
			in, counted := 0, map[string]int{}
			for _, st := range doc.Stages {
				for _, x := range st.Ticks {
					if strings.HasPrefix(x.ID, "shut-") || strings.HasPrefix(x.ID, "out-") {
						counted[x.ID[:strings.Index(x.ID, "-")]]++
					}
				}
			}
			shut := map[string]bool{}
			for _, p := range doc.Steps {
				if p.Title == "" || len(p.Chambers) == 0 || len(p.Suspects) == 0 && p.Kind != circuit.Checklist {
					t.Errorf("%s: step %q is not whole: %+v", about, p.ID, p)
				}
				for _, cl := range p.Closures {
					if !cl.Already && !shut[cl.Part] {
						shut[cl.Part] = true
						in++
					}
				}
				aims := p.Kind == circuit.Hold || p.Kind == circuit.Floor || len(p.Schools) > 0
				if aims != (p.Target != nil || p.Wants != "") || p.Wants != "" && (p.Target != nil || !unread) {
					t.Errorf("%s: %s aims at %+v, wants %q", about, p.Title, p.Target, p.Wants)
				}
				if p.Target == nil {
					continue
				}
				for _, l := range p.Limits {
					if l.Pa*p.Target.KPa > 0 && math.Abs(p.Target.KPa*1e3) > math.Abs(l.CeilingPa)*(1+1e-9) {
						t.Errorf("%s: %s is beyond the %s", about, p.Target.Says, l.Of)
					}
				}
				if p.Kind == circuit.Floor && !strings.Contains(p.Target.Says, "past") {
					t.Errorf("%s: a relief must lift: %s", about, p.Target.Says)
				}
			}
			if counted["shut"] != in || counted["out"] != in {
				t.Errorf("%s: %d are shut, %d counted in and %d out", about, in, counted["shut"], counted["out"])
			}
			for _, m := range doc.Schools {
				if m.Why == "" || len(m.Others) == 0 {
					t.Errorf("%s: %+v", about, m)
				}
			}
			code, text, errs := idlehiss("", args...)
			if code != 0 || errs != "" {
				t.Errorf("%s: %d %s", about, code, errs)
			}
			for _, p := range doc.Steps {
				if !strings.Contains(strings.ToLower(text), strings.ToLower(p.Title)) {
					t.Errorf("%s does not print %q", about, p.Title)
				}
			}
			if !strings.Contains(text, doc.Standing) {
				t.Errorf("%s does not say what outranks it", about)
			}
		}
	}
	if sheets < 40 {
		t.Errorf("only %d sheets were printed", sheets)
	}
}

// A school that is none is refused with what there is.
func TestAWrongSchoolIsRefused(t *testing.T) {
	for says, args := range map[string][]string{
		"vacuum-first or pressure-first":           {"plan", "two-stroke-crankcase", "--by", "signs=sideways"},
		"it has signs, feed-at, none more":         {"plan", "two-stroke-crankcase", "--by", "sign=vacuum-first"},
		"it has nipping, plate, warmth, none more": {"plan", "cylinder-head", "--by", "order=any"},
		"has no option":                            {"plan", "engine-block", "--with", "powder-decks"}, // a school is no option
	} {
		if code, out, errs := idlehiss("", args...); code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("%v: exit %d, %q, want %q", args, code, errs, says)
		}
	}
}
