package main

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/passages"
	"idlehiss/library"
)

// passagesOf runs the command on a findings text.
func passagesOf(t *testing.T, id, text string, more ...string) passages.Report {
	t.Helper()
	code, out, errs := idlehiss(text, append([]string{"passages", id, "-", "--json"}, more...)...)
	if code != 0 {
		t.Fatalf("%s: %s", id, errs)
	}
	conforms(t, "passages", out)
	var doc passages.Report
	if err := json.Unmarshal([]byte(out), &doc); err != nil {
		t.Fatal(err)
	}
	return doc
}

func TestEveryCircuitHasItsPassages(t *testing.T) {
	all, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range all {
		doc := passagesOf(t, c.ID, "")
		sum := 0.0
		for i, x := range doc.Tests {
			sum += x.Minutes
			if x.N != i+1 || len(x.Tries) == 0 || len(x.Tries) != len(x.ComesOut) || len(x.Pressurised) == 0 || len(x.Changes) == 0 || x.Result != nil || x.ExcusedBy != nil {
				t.Errorf("%s: %+v", c.ID, x)
			}
		}
		if sum > doc.Minutes || len(doc.Tests) > 0 && (doc.Next == nil || len(doc.After) == 0) {
			t.Errorf("%s: %v of %v minutes, next %v, after %v", c.ID, sum, doc.Minutes, doc.Next, doc.After)
		}
	}
}

// Where air came out leaves the seals that let it there, excuses what would show nothing new, and names the next.
func TestWhereAirComesOutNamesTheSeal(t *testing.T) {
	left := func(d passages.Report) (ids []string) {
		for _, x := range d.Left {
			ids = append(ids, x.Part)
		}
		slices.Sort(ids)
		return ids
	}
	doc := passagesOf(t, "lift-housing", "came_out: [{at: gallery, step: ram}]")
	if got := left(doc); !slices.Equal(got, []string{"check"}) || doc.Next != nil {
		t.Errorf("air at the gallery with the ram under air leaves %v, next %v", got, doc.Next)
	}
	by := slices.IndexFunc(doc.Tests, func(x passages.TestReport) bool { return x.Step != nil && *x.Step == "ram" }) + 1
	for _, x := range doc.Tests {
		if x.N == by && (x.Result == nil || *x.Result != "gallery") || x.N != by && (x.ExcusedBy == nil || *x.ExcusedBy != by) {
			t.Errorf("test %d: result %v, excused by %v", x.N, x.Result, x.ExcusedBy)
		}
	}
	// With the ram tight the gallery's own seals are left, and the test of the gallery is next.
	doc = passagesOf(t, "lift-housing", "came_out: [{at: nowhere, step: ram}]")
	if got := left(doc); slices.Contains(got, "drop") || slices.Contains(got, "check") || !slices.Contains(got, "spool") || doc.Next == nil || *doc.Next == by {
		t.Errorf("the ram holds, and left is %v, next %v", got, doc.Next)
	}
	// Two leaks: no single seal lets air to both places, and each that lets to one of them stays.
	doc = passagesOf(t, "lift-housing", "came_out: [{at: gallery, step: ram}, {at: cover, step: neutral}]")
	if got := left(doc); !slices.Contains(got, "check") || !slices.Contains(got, "cover") {
		t.Errorf("two leaks leave %v", got)
	}
	// An option brings its own seal, and a place of its own.
	tried := func(d passages.Report) bool {
		return slices.ContainsFunc(d.Tests, func(x passages.TestReport) bool { return x.ComesOut["second-check"] == "second" })
	}
	if tried(passagesOf(t, "lift-housing", "", "--without", "outlet-valve")) || !tried(passagesOf(t, "lift-housing", "", "--with", "outlet-valve")) {
		t.Error("the second outlet is tried without it, or not with it")
	}
	// What is meant to pass is said and never tried.
	for _, x := range doc.Tests {
		if slices.Contains(x.Tries, "bleed") {
			t.Errorf("test %d blames the orifice that is meant", x.N)
		}
	}
	for text, says := range map[string]string{
		"came_out: [{at: moon, step: ram}]":   "no leak comes out at",
		"came_out: [{at: gallery, step: 9}]":  "no test",
		"came_out: [{at: gallery}]":           "give the step or the number",
		"came_out: [{at: gallery, where: 1}]": "unknown field",
	} {
		if code, out, errs := idlehiss(text, "passages", "lift-housing", "-", "--json"); code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("%q: exit %d, %q, wants %q", text, code, errs, says)
		}
	}
}
