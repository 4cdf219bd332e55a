package shop

import (
	"context"
	"encoding/json"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/steps"
	"idlehiss/logbook"
)

// AcceptRig is a leak of the rig itself that was seen and is lived with: the part is
// sound, our plate leaks.
type AcceptRig struct {
	Write
	Step string `json:"step" doc:"whose hold leaks"`
	Back bool   `json:"back,omitempty" doc:"takes it back"`
}

// acceptFact is what the fact "accept" keeps: it speaks of one hold, and says nothing
// of a later one.
type acceptFact struct {
	Hold  string   `json:"hold"`
	Names []string `json:"names"`
}

// acceptedAt is what of the rig was accepted at a step's last hold; none once a leak
// was seen at what is tested itself.
func acceptedAt(facts []logbook.Fact, step circuit.Step, holds []HoldView, faults string) []string {
	f, ok := standing(facts, "accept/"+step.ID)
	last := lastUnder(step, holds, "")
	var kept acceptFact
	if !ok || last == nil || faults != "" || json.Unmarshal(f.Value, &kept) != nil || kept.Hold != last.ID {
		return nil
	}
	return kept.Names
}

// partFaults names the parts of a circuit, not of its rig, at which a leak was seen;
// empty where none was.
func partFaults(c *circuit.Circuit, looks []logbook.Observation) string {
	own := *c
	own.Parts = nil
	for _, p := range c.Parts {
		if !p.Opening && !p.Rig {
			own.Parts = append(own.Parts, p)
		}
	}
	return faultsSeen(&own, looks)
}

// AcceptRig accepts it by name, or takes that back. It is refused where nothing was
// seen at the rig, or something was seen at the part.
func (s *Shop) AcceptRig(ctx context.Context, jobID string, in AcceptRig) (JobView, error) {
	v, err := s.Job(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	looks, err := s.book.Observations(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		step, ok := sn.Circuit.Test(in.Step)
		if !ok || step.Kind != circuit.Hold {
			return refuse("step", "%s has no hold %q", sn.Circuit.Title, in.Step)
		}
		put := func(says string, names []string) error {
			kept := acceptFact{Names: names}
			if last := lastUnder(step, v.Holds, ""); last != nil {
				kept.Hold = last.ID
			}
			return fact(tx, st, "accept-"+st.ID, jobID, "accept/"+step.ID, "call", "eyes", says, kept)
		}
		if in.Back {
			return put(step.Title+": the rig's leak is not accepted any more.", nil)
		}
		for _, x := range v.Steps {
			if x.ID == step.ID && x.Outcome.Verdict != steps.Bad {
				return conflict("%s is not called leaking: there is nothing to accept", lower(step.Title))
			}
		}
		seen := v.Rig.SeenAt
		if len(seen) == 0 {
			return conflict("no leak was seen at the rig itself: soap its joints, and take down what is seen there")
		}
		if faults := partFaults(&sn.Circuit, looks); faults != "" {
			return conflict("a leak was seen at what is tested, too: %s", lower(faults))
		}
		return put(step.Title+": "+lower(strings.Join(seen, ", "))+" leaks, seen and accepted; what was tested is sound beside it.", seen)
	})
}
