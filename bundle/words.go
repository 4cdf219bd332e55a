package bundle

import (
	"fmt"
	"strings"
)

// String says what taking the bundle over would add, or has added, for a person.
func (p Takeover) String() string {
	var b strings.Builder
	done := map[bool]string{false: "would come", true: "came"}[p.Taken]
	fmt.Fprintf(&b, "Bundle of %s, made on %s by %s.\n", map[Of]string{OfJob: "a job", OfMachine: "a machine", OfBook: "a whole book"}[p.Of], p.Made.Format("2 January 2006, 15:04 MST"), p.Program)
	fmt.Fprintf(&b, "%d jobs %s new, %d go on, %d are here already.\n", p.Jobs.New, done, p.More, p.Jobs.Here)
	fmt.Fprintf(&b, "New: %d machines, %d pieces of kit and notes on them, %d circuits.", p.Machines.New, p.Kit.New, p.Circuits.New)
	if n := p.Kit.Kept + p.Circuits.Kept; n > 0 {
		fmt.Fprintf(&b, " %d differ here and stay as they are here.", n)
	}
	if !p.Adds {
		b.WriteString("\nAll of it is here: nothing changed.")
	}
	if p.Conflicts > 0 {
		fmt.Fprintf(&b, "\nNothing can be taken over: %d jobs differ from those that are here.", p.Conflicts)
	}
	for _, j := range p.Listed {
		if j.Is == Against {
			fmt.Fprintf(&b, "\n  %s, %s, %s: %s", j.Machine, j.Complaint, j.At.Format("2 January 2006"), j.Says)
		}
	}
	return b.String()
}
