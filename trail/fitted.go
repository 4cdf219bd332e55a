package trail

import (
	"encoding/json"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// Fitted is what the fact of a rig keeps: pieces of the kit by id, what else fitted, the neck as measured.
type Fitted struct {
	Pieces []string `json:"pieces"`
	Text   string   `json:"text"`
	Neck   string   `json:"neck,omitempty"`
}

// OnRigs are the pieces that the facts of some jobs have on their rigs, each with what is named for that job.
func OnRigs(facts logbook.Facts, names map[string]string) map[string]string {
	on := map[string]string{}
	for _, x := range facts.On(terms.AboutFitted) {
		var kept Fitted
		if json.Unmarshal(x.Value, &kept) != nil {
			continue // of an earlier version: it names no pieces
		}
		for _, id := range kept.Pieces {
			on[id] = names[x.JobID]
		}
	}
	return on
}
