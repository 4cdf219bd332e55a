package steps

import (
	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
)

// HoldDone is how far the latest hold of a kind is.
type HoldDone struct {
	State  terms.HoldState
	Called bool
	Ring   terms.Ring
}

// StepDone is how far a step of a circuit of several is.
type StepDone struct {
	Verdict  Verdict
	Ring     terms.Ring
	Optional bool
}

// Done is what is known of a job, as far as the order of work asks for it.
type Done struct {
	MarkKnown    bool
	Planned      bool // the target was chosen
	ProofSkipped bool
	Seen         bool // something was noted at the first look
	Looked       bool // at some part
	Over         bool // the job is closed or abandoned
	Ticked       map[string]bool
	Proof, Test  *HoldDone           // nil: none was begun
	Steps        map[string]StepDone // of a circuit of several; else none
	Ring         terms.Ring          // of the whole job
	Call         Verdict             // of all the steps together
}

// Progress is how far one stage is.
type Progress struct {
	Stage terms.Stage
	Done  bool
	Ring  terms.Ring
}

// ProgressOf works out which stages are done and which is next: what is neither done
// nor optional.
func ProgressOf(c *circuit.Circuit, order []runsheet.Stage, d Done) (all []Progress, next terms.Stage) {
	many := len(c.Tests()) > 1
	called := d.Test != nil && d.Test.Called
	if many {
		called = d.Call != Unknown
	}
	finished := map[terms.Stage]bool{
		terms.FirstLook:  d.Seen || d.Ticked[runsheet.LookedRound.ID],
		terms.KnowLimit:  d.Planned,
		terms.ProveRig:   d.Proof != nil && d.Proof.State == terms.Ended || d.ProofSkipped,
		terms.Pressurise: d.Test != nil && d.Test.State != terms.Pumping,
		terms.HoldStage:  d.Test != nil && (d.Test.Called || d.Test.State == terms.Ended),
		terms.CallStage:  called,
		terms.HuntStage:  d.Looked,
		terms.WriteDown:  d.Over,
	}
	if many {
		finished[terms.KnowLimit] = d.MarkKnown || !c.Marked()
	}
	optional := map[terms.Stage]bool{
		terms.FirstLook: len(d.Ticked) > 0 || d.Proof != nil || d.Test != nil, // work has gone on without it
		terms.HuntStage: d.Ring != terms.RingCut || !called,
	}
	for _, st := range order {
		p := Progress{Stage: st.ID, Ring: terms.RingDotted}
		step, isStep := d.Steps[st.Step]
		switch isStep = isStep && many; {
		case isStep:
			p.Done = step.Verdict != Unknown
			optional[st.ID] = step.Optional
		case st.ID == terms.MakeSafe, st.ID == terms.RigUp:
			p.Done = allTicked(st, d.Ticked)
		case st.ID == terms.PutRight:
			p.Done = allTicked(st, d.Ticked) && (d.Test == nil || d.Test.State == terms.Ended)
		default:
			p.Done = finished[st.ID]
		}
		if p.Done {
			p.Ring = terms.RingWhole
		}
		switch {
		case isStep:
			p.Ring = step.Ring
		case st.ID == terms.ProveRig && d.Proof != nil:
			p.Ring = d.Proof.Ring
		case st.ID == terms.ProveRig && d.ProofSkipped:
			p.Ring = terms.RingDotted
		case st.ID == terms.CallStage && many:
			p.Ring = d.Ring
		case (st.ID == terms.CallStage || st.ID == terms.HoldStage) && d.Test != nil && d.Test.Ring != "":
			p.Ring = d.Test.Ring
		}
		if next == "" && !p.Done && !optional[st.ID] {
			next = st.ID
		}
		all = append(all, p)
	}
	if next == "" {
		next = terms.WriteDown
	}
	return all, next
}

func allTicked(st runsheet.Stage, ticked map[string]bool) bool {
	for _, t := range st.Ticks {
		if (t.Must || t.Count) && !ticked[t.ID] {
			return false
		}
	}
	return true
}

// Waits are the steps that must be good before one may be done, and are not.
func Waits(c *circuit.Circuit, s circuit.Step, said map[string]Verdict) []circuit.Step {
	var out []circuit.Step
	for _, id := range s.After {
		if before, ok := c.Test(id); ok && said[id] != Good {
			out = append(out, before)
		}
	}
	return out
}
