package kit

import (
	"fmt"
	"slices"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// JointSeen notes on the pieces of a rig whose joint was looked at whether it leaked in this job.
func JointSeen(tx *logbook.Tx, st logbook.Stamp, on []Piece, part string, j logbook.Job, leaks bool) error {
	for _, p := range on {
		if p.Joint().ID != part || slices.Contains(p.leaked, j.ID) == leaks {
			continue
		}
		says := fmt.Sprintf("Its joint leaked on %s.", j.Machine)
		if !leaks {
			says = fmt.Sprintf("Its joint did not leak on %s after all.", j.Machine)
		}
		return note(tx, st, p.ID, terms.Leaked, says, leak{j.ID, !leaks})
	}
	return nil
}
