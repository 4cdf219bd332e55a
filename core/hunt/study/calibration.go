package study

import (
	"idlehiss/core/circuit"
)

// Trust is how often a part that stood at 19 to 1 did leak.
type Trust struct {
	Hunts  int
	Unseen Tally // before anything was seen at it; the first part that stood so counts
	Named  Tally // when it was named, seen or not; the first part that was named counts
}

// Tally counts hunts, and those of them that were right.
type Tally struct{ N, OK int }

// Share is the share of them that was right.
func (t Tally) Share() float64 { return float64(t.OK) / float64(max(1, t.N)) }

func (t *Tally) add(counts, ok bool) {
	if !counts {
		return
	}
	if t.N++; ok {
		t.OK++
	}
}

// Calibrate hunts by our own policy alone. A part seldom stands at 19 to 1 unseen: it takes many
// hunts to tell how often that is right.
func Calibrate(circuits []circuit.Circuit, known Known, w World, each int, seed uint64) (out Trust) {
	for c := range circuits {
		for n := range each {
			o := ours(Draw(&circuits[c], known, w, seed+uint64(c*each+n)))
			out.Hunts++
			out.Unseen.add(o.ByOdds, o.OddsOK)
			out.Named.add(o.AtOdds, o.Right)
		}
	}
	return out
}
