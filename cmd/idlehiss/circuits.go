package main

import (
	"fmt"
	"os"
	"strings"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/library"
)

type circuitsCmd struct {
	What string `arg:"" optional:"" help:"A circuit's id, or 'check'."`
	File string `arg:"" optional:"" help:"With check: the file."`
	JSON bool   `name:"json" help:"Print one JSON document."`
}

// circuitLine is a circuit in a list.
type circuitLine struct {
	ID      string `json:"id"`
	Version int    `json:"version"`
	Title   string `json:"title"`
	Family  string `json:"family"`
	Summary string `json:"summary"`
}

// checked is what circuits check says of a file.
type checked struct {
	File     string                `json:"file"`
	Sound    bool                  `json:"sound"`
	Faults   []string              `json:"faults"`
	Findings []library.FileFinding `json:"findings"` // what a reader of the trade would correct; the file is used all the same
}

func (c *circuitsCmd) Run(o outside) error {
	switch {
	case c.What == "check":
		return c.check(o)
	case c.File != "":
		return badInput("%q: a file goes with 'check'", c.File)
	case c.What != "":
		return c.show(o)
	}
	all, err := library.Circuits()
	if err != nil {
		return err
	}
	lines := []circuitLine{}
	for _, x := range all {
		lines = append(lines, circuitLine{x.ID, x.Version, x.Title, x.Family, x.Summary})
	}
	if c.JSON {
		return document(o.out, lines)
	}
	for _, l := range lines {
		fmt.Fprintf(o.out, "%-24s %s\n%-24s %s\n", l.ID, l.Title, "", l.Summary)
	}
	return nil
}

func (c *circuitsCmd) show(o outside) error {
	x, err := library.Circuit(c.What)
	if err != nil {
		return badInput("%w", err)
	}
	if c.JSON {
		return document(o.out, x)
	}
	fmt.Fprintf(o.out, "%s (version %d)\n%s\n\n", x.Title, x.Version, x.Summary)
	for _, s := range x.Tests() {
		in := x.Pressed(s)
		if !s.Kind.Pressurises() && s.Kind != circuit.Values {
			fmt.Fprintf(o.out, "%s (%s).\n", s.Title, s.Kind)
			continue
		}
		fmt.Fprintf(o.out, "%s (%s), fed at: %s.\n", s.Title, s.Kind, in.Port.Title)
		for _, p := range in.Suspects {
			fmt.Fprintf(o.out, "  %-34s odds %-3g %s\n", p.Title, p.Odds, p.Look)
		}
	}
	acts := catalogue.Acts(&x)
	if len(acts) > 0 {
		fmt.Fprintln(o.out, "\nActs under pressure that split the suspects:")
	}
	for _, a := range acts {
		fmt.Fprintf(o.out, "  %s (%s).\n", a.Title, a.Minutes)
		if len(a.Cuts) > 0 {
			fmt.Fprintf(o.out, "      cuts off: %s\n", strings.Join(a.Cuts, ", "))
		}
		for _, says := range []string{a.Needs, a.Mind} {
			if says != "" {
				fmt.Fprintf(o.out, "      ! %s\n", says)
			}
		}
		for _, r := range a.Answers {
			fmt.Fprintf(o.out, "      %-8s %s\n", r.Seen, r.Says)
		}
	}
	if len(x.Imitators) > 0 {
		fmt.Fprintln(o.out, "\nWhat looks like what:")
	}
	for _, m := range x.Imitators {
		fmt.Fprintf(o.out, "  %s\n", m.Says)
	}
	fmt.Fprintf(o.out, "\n%s\n%s\n", strings.Join(x.Untested(false), "\n"), x.Standing)
	return nil
}

func (c *circuitsCmd) check(o outside) error {
	if c.File == "" {
		return badInput("circuits check needs a file")
	}
	raw, err := os.ReadFile(c.File)
	if err != nil {
		return badInput("%w", err)
	}
	x, findings, err := library.Review(raw)
	rep := checked{File: c.File, Sound: err == nil, Faults: []string{}, Findings: append([]library.FileFinding{}, findings...)}
	if err != nil {
		rep.Faults = strings.Split(err.Error(), "\n")
	}
	if c.JSON {
		if derr := document(o.out, rep); derr != nil {
			return derr
		}
	} else if err == nil {
		for _, f := range findings {
			fmt.Fprintf(o.out, "%s:%d: %s: %s\n", c.File, f.Line, f.Rule, f.Says)
		}
		fmt.Fprintf(o.out, "%s is sound: %s, %s, %d findings\n", c.File, x.Title, parts(x), len(findings))
	}
	if err != nil {
		return badInput("%s: %w", c.File, err)
	}
	return nil
}

func parts(c circuit.Circuit) string {
	return fmt.Sprintf("%d chambers, %d parts", len(c.Chambers), len(c.Parts))
}
