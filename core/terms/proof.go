package terms

// Proof is whether a repair was proved by a hold after it.
type Proof string

// The states of a proof; empty where nothing was mended.
const (
	NotMended    Proof = ""
	Unproved     Proof = "unproved" // not held again yet
	ProofUnclear Proof = "unclear"  // held again, without a call
	ProvedUnlike Proof = "unlike"   // tight, but not held like the hold before the repair
	StillLeaks   Proof = "leaks"
	Proved       Proof = "proved"
)

// Values lists every state.
func (Proof) Values() []string {
	return values(NotMended, Unproved, ProofUnclear, ProvedUnlike, StillLeaks, Proved)
}

// Cause is what made a part fail.
type Cause string

// The causes; empty while nobody looked for one.
const (
	CauseNotSaid Cause = ""
	Rubbed       Cause = "rubbed"
	Heated       Cause = "heated"
	OverSqueezed Cause = "over-squeezed" // a clamp, bolt or plug tightened too far
	Aged         Cause = "aged"
	WrongPart    Cause = "wrong part" // or fitted wrongly
	Knocked      Cause = "knocked"
	Frozen       Cause = "frozen"
	CauseUnknown Cause = "unknown"
)

// Values lists every cause.
func (Cause) Values() []string {
	return values(CauseNotSaid, Rubbed, Heated, OverSqueezed, Aged, WrongPart, Knocked, Frozen, CauseUnknown)
}
