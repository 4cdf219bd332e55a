package main

import (
	"fmt"
	"io"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/quantity"
)

// printHunt is the report for people.
func printHunt(w io.Writer, x *circuit.Circuit, d *hunt.Report) {
	if d.Flow != nil {
		fmt.Fprintf(w, "%s: %s cm³/min (%s to %s)\n", x.Title, quantity.Significant(d.Flow.Value, 2), quantity.Significant(d.Flow.Low, 2), quantity.Significant(d.Flow.High, 2))
	} else {
		fmt.Fprintf(w, "%s: how much is lost is not known\n", x.Title)
	}
	if d.Named != nil {
		how := "by the odds; not seen yet"
		if d.Named.Seen {
			how = "seen"
		}
		fmt.Fprintf(w, "Named: %s, %.0f %%, %s\n", d.Named.Part, 100*d.Named.Odds, how)
		for _, r := range d.Named.Repairs {
			fmt.Fprintf(w, "  %s\n", r)
		}
	}
	for _, s := range d.Suspects {
		if s.Odds < 0.005 {
			continue
		}
		looked := ""
		if len(s.Looked) > 0 {
			looked = "  (" + strings.Join(s.Looked, ", ") + ")"
		}
		fmt.Fprintf(w, "%4.0f %%  %s%s\n", 100*s.Odds, s.Title, looked)
	}
	fmt.Fprintf(w, "%4.0f %%  at none of these; two at once %.0f %%\n", 100*d.Elsewhere, 100*d.TwoLeaks)
	if d.Next == nil {
		fmt.Fprintln(w, "Next: nothing that is offered would show it from outside.")
	} else {
		fmt.Fprintf(w, "Next: %s\n      %s\n", d.Next.Says, d.Next.Why)
	}
	for _, c := range d.Then {
		fmt.Fprintf(w, "then: %s\n", c.Says)
	}
	if d.ExpectedMinutes != nil {
		fmt.Fprintf(w, "About %s until it is seen.\n", hunt.Minutes(*d.ExpectedMinutes))
	}
	for _, s := range d.Struck {
		fmt.Fprintf(w, "Not %s: %s.\n", s.Method, s.Why)
	}
}
