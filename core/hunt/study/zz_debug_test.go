package study

import (
	"fmt"
	"os"
	"testing"

	"idlehiss/core/hunt"
	"idlehiss/library"
)

func TestDebug(t *testing.T) {
	all, _ := library.Circuits()
	methods, _ := library.Methods()
	for i := range all {
		if all[i].ID != os.Getenv("CIRC") {
			continue
		}
		for n := range 6 {
			c := Draw(&all[i], methods, Worlds[0], uint64(1+i*6+n))
			for _, l := range c.leaks {
				fmt.Printf("--- leak %s %.3g cm3/s liquid %v\n", c.Scene.Suspects[l.part].ID, l.flow*1e6, l.liquid)
			}
			trace = func(x *hunt.Hunt, h *hunting, c hunt.Check) {
				b := hunt.Believe(x.Shares, x.Found)
				top, p := 0, 0.0
				for i, o := range b.Odds {
					if o > p {
						top, p = i, o
					}
				}
				what := string(c.Kind)
				if c.Act != nil {
					what += " " + c.Act.ID
				} else if c.Step != nil {
					what += " " + c.Step.ID
				} else if c.Part >= 0 && c.Change == "" {
					what += " " + x.Suspects[c.Part].ID + " " + c.Method.ID
				}
				fmt.Printf("%6.1f %-50s top %s %.2f else %.2f two %.2f\n", h.spent, what, x.Suspects[top].ID, p, b.Elsewhere, b.Two)
			}
			o := ours(c)
			fmt.Printf("%+v\n", o)
		}
	}
}
