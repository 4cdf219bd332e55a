package main

import (
	"fmt"

	"idlehiss/core/judge"
)

// compareCmd judges two traces alike and tells them apart.
type compareCmd struct {
	First  string `arg:"" help:"Trace file, CSV."`
	Second string `arg:"" help:"Trace file, CSV."`
	judgeFlags
	JSON bool `name:"json" help:"Print one JSON document."`
}

func (c *compareCmd) Run(o outside) error {
	var reports [2]judge.Report
	for i, file := range []string{c.First, c.Second} {
		one := judgeCmd{Trace: file, judgeFlags: c.judgeFlags}
		rep, err := one.report(o)
		if err != nil {
			return err
		}
		reports[i] = rep
	}
	cmp, err := judge.Compare(reports[0], reports[1])
	if err != nil {
		return badInput("%w", err)
	}
	if c.JSON {
		return document(o.out, cmp)
	}
	fmt.Fprintf(o.out, "%s\n  first: %s\n  second: %s\n", cmp.Sentence, reports[0].Why[0], reports[1].Why[0])
	for _, w := range cmp.Cautions {
		fmt.Fprintf(o.out, "  %s\n", w)
	}
	return nil
}
