package main

import (
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/quantity"
)

type passagesCmd struct {
	ID       string   `arg:"" help:"A circuit's id."`
	Findings string   `arg:"" optional:"" help:"Where air came out, YAML (came_out, each with its step or the number of its test); - for standard input."`
	With     []string `help:"An option that this machine has; may be repeated." placeholder:"OPTION"`
	Without  []string `help:"An option that it has not; may be repeated." placeholder:"OPTION"`
	JSON     bool     `name:"json" help:"Print one JSON document."`
}

func (c *passagesCmd) Run(o outside) error {
	x, options, err := fitted(c.ID, c.With, c.Without, nil)
	if err != nil {
		return err
	}
	var known clues
	if c.Findings != "" {
		if _, err := readFindings(o, c.Findings, &known); err != nil {
			return err
		}
	}
	var outs []passages.Out
	for _, out := range known.CameOut {
		outs = append(outs, passages.Out{Step: out.Step, At: out.At})
	}
	on := slices.DeleteFunc(slices.Sorted(maps.Keys(options)), func(id string) bool { return !options[id] })
	doc, err := passages.Of(&x).Report(&x, on, outs)
	if err != nil {
		return badInput("%w", err)
	}
	if c.JSON {
		return document(o.out, doc)
	}
	printPassages(o.out, &x, &doc)
	return nil
}

// printPassages is the checklist for people.
func printPassages(w io.Writer, x *circuit.Circuit, d *passages.Report) {
	name := func(id string) string {
		for _, p := range x.Parts {
			if p.ID == id {
				return p.Title
			}
		}
		if ch, ok := x.Chamber(id); ok {
			return ch.Title
		}
		return id
	}
	fmt.Fprintf(w, "%s: %d tests, about %s min with everything put back\n", x.Title, len(d.Tests), quantity.Significant(d.Minutes, 2))
	for _, t := range d.Tests {
		mark := " "
		if d.Next != nil && *d.Next == t.N {
			mark = ">"
		}
		fmt.Fprintf(w, "\n%s %d.", mark, t.N)
		if t.Step != nil {
			if s, ok := x.Test(*t.Step); ok {
				fmt.Fprintf(w, " %s,", s.Title)
			}
		}
		fmt.Fprintf(w, " %s min\n", quantity.Significant(t.Minutes, 2))
		switch {
		case t.Result != nil:
			fmt.Fprintf(w, "     came out: %s\n", name(*t.Result))
		case t.ExcusedBy != nil:
			fmt.Fprintf(w, "     not needed any more, after test %d\n", *t.ExcusedBy)
		}
		for _, c := range t.Changes {
			fmt.Fprintf(w, "     [ ] %s\n", c)
		}
		for _, m := range t.Meant {
			fmt.Fprintf(w, "     meant to pass: %s", quantity.Lower(name(m.Part)))
			if m.Flow != nil {
				fmt.Fprintf(w, ", %s cm³/min", quantity.Significant(*m.Flow, 2))
			}
			fmt.Fprintln(w)
		}
		at := map[string][]string{}
		for _, id := range t.Tries {
			place := t.ComesOut[id]
			at[place] = append(at[place], quantity.Lower(name(id)))
		}
		for _, place := range slices.Sorted(maps.Keys(at)) {
			where := map[string]string{circuit.Outside: "air at the part itself", passages.Unseen: "the needle falls, nothing to see"}[place]
			if where == "" {
				where = "air at the " + quantity.Lower(name(place))
			}
			fmt.Fprintf(w, "     %s: %s\n", where, strings.Join(at[place], ", "))
		}
	}
	fmt.Fprintln(w)
	for _, c := range d.After {
		fmt.Fprintf(w, "     [ ] %s\n", c)
	}
	for _, y := range d.WhyNot {
		var names []string
		for _, id := range y.Parts {
			names = append(names, name(id))
		}
		fmt.Fprintf(w, "Not told apart: %s: %s.\n", strings.Join(names, ", "), y.Why)
	}
	if len(d.Spare) > 0 {
		var names []string
		for _, id := range d.Spare {
			step, _ := x.Test(id)
			names = append(names, quantity.Lower(step.Title))
		}
		fmt.Fprintf(w, "Not needed beside the file's other steps to tell seals apart: %s.\n", strings.Join(names, "; "))
	}
	if len(d.Left) > 0 && slices.ContainsFunc(d.Tests, func(t passages.TestReport) bool { return t.Result != nil }) {
		fmt.Fprintln(w, "What may leak yet:")
		for _, l := range d.Left {
			fmt.Fprintf(w, "%4.0f %%  %s\n", 100*l.Odds, l.Title)
		}
	}
}
