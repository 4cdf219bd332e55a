package terms

import (
	"slices"
	"strings"
)

// Stage is one stage of the order of work. Between the rig's proof and the call each
// step of a circuit of several has a stage of its own: StepStage.
type Stage string

// The order of work of every circuit.
const (
	FirstLook  Stage = "first-look"
	MakeSafe   Stage = "make-safe"
	KnowLimit  Stage = "limit"
	RigUp      Stage = "rig"
	ProveRig   Stage = "prove"
	Pressurise Stage = "pressurise"
	HoldStage  Stage = "hold"
	CallStage  Stage = "call"
	HuntStage  Stage = "hunt"
	PutRight   Stage = "put-right"
	WriteDown  Stage = "write-down"
)

const stepStage = "step-"

// StepStage is the stage at which a step of a circuit of several is done.
func StepStage(step string) Stage { return Stage(stepStage + step) }

// Step is the step that is done at a stage; none where it is a stage of every circuit.
func (s Stage) Step() (step string, ok bool) { return strings.CutPrefix(string(s), stepStage) }

// Known reports whether there is such a stage in any order of work.
func (s Stage) Known() bool {
	if _, ok := s.Step(); ok {
		return true
	}
	return slices.Contains([]Stage{FirstLook, MakeSafe, KnowLimit, RigUp, ProveRig, Pressurise, HoldStage, CallStage, HuntStage, PutRight, WriteDown}, s)
}
