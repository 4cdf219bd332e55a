package kit

import (
	"encoding/json"
	"fmt"
	"slices"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// leaksOfASuspect are how many jobs a joint leaks in before it is a suspect by itself.
const leaksOfASuspect = 3

// leak is what a note keeps of a joint that leaked in a job, or did not after all.
type leak struct {
	Job string `json:"job"`
	Not bool   `json:"not,omitempty"`
}

// leakedIn adds a note to the jobs in which a joint leaked, or takes one out.
func leakedIn(jobs []string, note json.RawMessage) []string {
	var l leak
	if json.Unmarshal(note, &l) != nil {
		return jobs // of a later version
	}
	jobs = slices.DeleteFunc(slices.Clone(jobs), func(j string) bool { return j == l.Job })
	if l.Not {
		return jobs
	}
	return append(jobs, l.Job)
}

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
