package main

import (
	"bytes"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"idlehiss/core/judge"
)

// idlehiss runs a command line and gives its exit status and what it printed.
func idlehiss(in string, args ...string) (code int, out, errs string) {
	var o, e bytes.Buffer
	code = run(args, outside{strings.NewReader(in), &o, &e})
	return code, o.String(), e.String()
}

const traces = "../../core/judge/testdata/traces/"

// The reference traces, all of them, as a shop would have them judged.
func TestReferenceTracesFromTheCommandLine(t *testing.T) {
	raw, err := os.ReadFile(traces + "traces.json")
	if err != nil {
		t.Fatal(err)
	}
	var f struct {
		Cases []struct {
			File      string
			Args      []string
			Shapes    []judge.Shape `json:"shape_accept"`
			Calls     []judge.Call  `json:"call_accept"`
			Rate      *float64      `json:"rate_kpa_per_min"`
			Tolerance float64       `json:"rate_tolerance_kpa_per_min"`
		}
	}
	if err := json.Unmarshal(raw, &f); err != nil {
		t.Fatal(err)
	}
	if len(f.Cases) != 30 {
		t.Errorf("%d reference traces of 30", len(f.Cases))
	}
	for _, c := range f.Cases {
		code, out, errs := idlehiss("", append([]string{"judge", traces + c.File, "--json", "--live"}, c.Args...)...)
		if code != 0 || errs != "" {
			t.Errorf("%s: exit %d: %s", c.File, code, errs)
			continue
		}
		var rep judge.Report
		if err := json.Unmarshal([]byte(out), &rep); err != nil {
			t.Errorf("%s: %v", c.File, err)
			continue
		}
		conforms(t, "judge", out)
		if !slices.Contains(c.Calls, rep.Call) || !slices.Contains(c.Shapes, rep.Shape) {
			t.Errorf("%s: %s, %s; want %v, %v", c.File, rep.Call, rep.Shape, c.Calls, c.Shapes)
		}
		if c.Rate != nil && (rep.RateKPaPerMin == nil || math.Abs(rep.RateKPaPerMin.Value-*c.Rate) > c.Tolerance) {
			t.Errorf("%s: %+v kPa/min; want %.3f ± %.3f", c.File, rep.RateKPaPerMin, *c.Rate, c.Tolerance)
		}
		if rep.Called != nil && rep.Call != judge.NotYet && *rep.Called != rep.Call && rep.Shape != judge.ShapeFloor {
			t.Errorf("%s: watched live it was called %v, whole %s", c.File, *rep.Called, rep.Call)
		}
	}
}

// conforms checks a document against the schema that the program gives for it.
func conforms(t *testing.T, name, doc string) {
	t.Helper()
	code, out, errs := idlehiss("", "schema", name)
	if code != 0 {
		t.Fatalf("schema %s: %s", name, errs)
	}
	schema, err := jsonschema.UnmarshalJSON(strings.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(name, schema); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile(name)
	if err != nil {
		t.Fatal(err)
	}
	v, err := jsonschema.UnmarshalJSON(strings.NewReader(doc))
	if err != nil {
		t.Fatalf("%s prints no single JSON document: %v", name, err)
	}
	if err := s.Validate(v); err != nil {
		t.Errorf("%s: %v", name, err)
	}
}

func TestDocumentsFollowTheirSchemas(t *testing.T) {
	for name, args := range map[string][]string{
		"circuits":       {"circuits", "--json"},
		"circuits-show":  {"circuits", "cooling-header-tank", "--json"},
		"circuits-check": {"circuits", "check", "../../library/circuits/cooling-header-tank.yaml", "--json"},
		"plan":           {"plan", "cooling-header-tank", "--mark", "1.1", "--json"},
		"simulate":       {"simulate", "cooling-header-tank", "--json"},
		"calc":           {"calc", "flow", "--fall", "1kPa in 5min", "--gas", "0.45L ± 0.03L", "--at", "110kPa", "--json"},
		"compare":        {"compare", traces + "10-digital-leak-laminar.csv", traces + "08-digital-tight-dithered.csv", "--limit", "1kPa in 1min", "--json"},
		"calc-list":      {"calc", "--json"},
	} {
		code, out, errs := idlehiss("", args...)
		if code != 0 {
			t.Errorf("%v: exit %d: %s", args, code, errs)
			continue
		}
		conforms(t, name, out)
	}
}

// What is simulated with a leak is judged leaking; sound, it is not.
func TestSimulatedTracesAreJudged(t *testing.T) {
	for leak, want := range map[string]judge.Call{"": judge.Tight, "radiator=12cm3/min": judge.Leaking} {
		args := []string{"simulate", "cooling-header-tank"}
		if leak != "" {
			args = append(args, "--leak", leak)
		}
		code, csv, errs := idlehiss("", args...)
		if code != 0 {
			t.Fatalf("%v: %s", args, errs)
		}
		code, out, errs := idlehiss(csv, "judge", "-", "--limit", "1kPa in 1min", "--json")
		if code != 0 {
			t.Fatalf("judge of %v: %s", args, errs)
		}
		var rep judge.Report
		if err := json.Unmarshal([]byte(out), &rep); err != nil {
			t.Fatal(err)
		}
		if rep.Call != want {
			t.Errorf("leak %q: %s, want %s: %v", leak, rep.Call, want, rep.Why)
		}
	}
}

// Bad input ends with status 2, says where, and what would be right.
func TestBadInputSaysWhereAndWhatWouldBeRight(t *testing.T) {
	limit := []string{"--limit", "1kPa in 1min"}
	rows := "time [s],pressure [kPa]\n0,110\n10,109.9\n20,109.8\n30,109.7\n"
	for _, c := range []struct {
		name, csv string
		args      []string
		says      []string
	}{
		{"no pressure column", "time [s],bar\n0,1\n1,1\n2,1\n", limit, []string{"line 1", "pressure"}},
		{"a unit nobody knows", "time [s],pressure [zog]\n0,1\n1,1\n2,1\n", limit, []string{"line 1", "zog", "psi"}},
		{"text for a number", "time [s],pressure [kPa]\n0,110\n1,high\n2,109\n", limit, []string{"line 3", "column 3", "high"}},
		{"time running backwards", "time [s],pressure [kPa]\n0,110\n9,109\n8,109\n", limit, []string{"line 4", "back"}},
		{"two readings", "time [s],pressure [kPa]\n0,110\n9,109\n", limit, []string{"3", "reading"}},
		{"no allowance", rows, nil, []string{"allowance", "10kPa in 2min"}},
		{"a flow without the air", rows, []string{"--limit-flow", "3cm3/min"}, []string{"--gas"}},
		{"a bare allowance", rows, []string{"--limit", "banana"}, []string{"--limit", "banana"}},
		{"an unknown flag", rows, []string{"--hurry"}, []string{"--hurry"}},
		{"a division that is none", rows, append([]string{"--division", "-2kPa"}, limit...), []string{"division"}},
	} {
		code, out, errs := idlehiss(c.csv, append([]string{"judge", "-"}, c.args...)...)
		if code != 2 || out != "" {
			t.Errorf("%s: exit %d, printed %q: %s", c.name, code, out, errs)
		}
		for _, words := range c.says {
			if !strings.Contains(errs, words) {
				t.Errorf("%s: %q does not say %q", c.name, strings.TrimSpace(errs), words)
			}
		}
	}
	for says, args := range map[string][]string{
		"no-such.csv":     {"judge", "no-such.csv", "--limit", "1kPa in 1min"},
		"no-such-circuit": {"plan", "no-such-circuit", "--mark", "1.1"},
		"banana":          {"plan", "cooling-header-tank", "--mark", "banana"},
		"20 to 250 kPa":   {"plan", "cooling-header-tank", "--mark", "400"},
		"above ambient":   {"plan", "cooling-header-tank", "--mark=-3"},
		"no document":     {"schema", "nothing"},
	} {
		if code, out, errs := idlehiss("", args...); code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("%v: exit %d, %q, %q; want status 2 and %q", args, code, out, errs, says)
		}
	}
	// A circuit file's faults come with their line.
	file := filepath.Join(t.TempDir(), "odd.yaml")
	if err := os.WriteFile(file, []byte("id: odd\nversion: 1\ntitle: Odd\nfamily: cooling\nchambers:\n  - {id: loop, holds: tea}\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	if code, out, errs := idlehiss("", "circuits", "check", file); code != 2 || !strings.Contains(out+errs, "tea") && !strings.Contains(out+errs, "chambers") {
		t.Errorf("exit %d: %s%s", code, out, errs)
	}
}
