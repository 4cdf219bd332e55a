// Package terms holds the words that the program acts on, each as a type with all of
// its values. The database checks them, the described interface and the page's types
// list them. What a person reads stands elsewhere: no rule reads a label.
package terms

// Purpose is what a hold is for.
type Purpose string

// The purposes of a hold.
const (
	RigProof Purpose = "rig proof" // the rig alone, dead-headed
	Test     Purpose = "test"
	Repeat   Purpose = "repeat"
	Retest   Purpose = "retest" // after a repair
)

// Values lists every purpose.
func (Purpose) Values() []string { return values(RigProof, Test, Repeat, Retest) }

// HoldState is how far a hold is.
type HoldState string

// The states of a hold, in their order.
const (
	Pumping HoldState = "pumping"
	Holding HoldState = "holding" // the supply is shut
	Ended   HoldState = "ended"
)

// Values lists every state.
func (HoldState) Values() []string { return values(Pumping, Holding, Ended) }

// JobState is how far a job is.
type JobState string

// The states of a job.
const (
	Open      JobState = "open"
	Closed    JobState = "closed"
	Abandoned JobState = "abandoned"
)

// Values lists every state.
func (JobState) Values() []string { return values(Open, Closed, Abandoned) }

// Class says what an escape that was seen is.
type Class string

// The classes of an escape. One that was not classed counts as a fault.
const (
	NotClassed       Class = ""
	Fault            Class = "fault"
	Meant            Class = "meant"             // it belongs there
	ForgottenOpening Class = "forgotten opening" // it is closed, and the test goes on
	FromAbove        Class = "from above"        // it ran down to it: the leak is higher up
	TakenBack        Class = "taken back"        // the look before it by the same method does not count
)

// Values lists every class.
func (Class) Values() []string {
	return values(NotClassed, Fault, Meant, ForgottenOpening, FromAbove, TakenBack)
}

// Escape is how a leak of a circuit full of liquid was noticed: what leaves below the liquid line
// drips, what leaves above it hisses, and the same fall is far more of the one.
type Escape string

// How it was noticed.
const (
	NotNoticed Escape = ""
	Dripped    Escape = "drip"
	Hissed     Escape = "hiss"
)

// Values lists every way.
func (Escape) Values() []string { return values(NotNoticed, Dripped, Hissed) }

// Says is how it was noticed as a fact of a job.
func (e Escape) Says() string {
	switch e {
	case Dripped:
		return "It drips: liquid leaves, from below the liquid line."
	case Hissed:
		return "It hisses: gas leaves, from above the liquid line."
	}
	return "Not known whether it drips or hisses."
}

// Faulty reports whether an escape of this class speaks against the part.
func (c Class) Faulty() bool { return c == Fault || c == NotClassed }

// Source says where a fact is from.
type Source string

// The sources of a fact.
const (
	FromMark    Source = "mark"
	FromStrokes Source = "strokes"
	FromProof   Source = "proof"
	FromFit     Source = "fit"
	FromEyes    Source = "eyes"
	FromGauge   Source = "gauge"
	FromTyped   Source = "typed"
	FromSchool  Source = "school"
	FromSaid    Source = "said"
	FromSlate   Source = "slate" // a calculator
	FromFile    Source = "file"
)

// Values lists every source.
func (Source) Values() []string {
	return values(FromMark, FromStrokes, FromProof, FromFit, FromEyes, FromGauge, FromTyped, FromSchool, FromSaid, FromSlate, FromFile)
}

// Subject is what a fact is about. With a key (which tick, which part) it names one
// thing of which one fact stands at a time.
type Subject string

// The subjects of facts.
const (
	AboutMark      Subject = "mark"
	AboutTarget    Subject = "target"    // key: the step; none: the first hold
	AboutGauge     Subject = "gauge"     // likewise
	AboutAllowance Subject = "allowance" // likewise
	AboutFitted    Subject = "fitted"
	AboutTick      Subject = "tick"   // key: the item
	AboutRemark    Subject = "remark" // key: the write
	AboutProof     Subject = "proof"
	AboutLook      Subject = "look"  // key: the part
	AboutFound     Subject = "found" // key: the step
	AboutAir       Subject = "air"
	AboutTopUps    Subject = "topped up"
	AboutReminder  Subject = "remind"  // key: the reminder
	AboutSchool    Subject = "school"  // key: the matter
	AboutRepair    Subject = "repair"  // key: the part
	AboutCause     Subject = "cause"   // key: the part
	AboutParties   Subject = "parties" // whose machine it is, its plate, what its meter shows
	AboutAccepted  Subject = "accept"  // key: the step
	AboutSign      Subject = "sign"    // key: the sign
	AboutHunch     Subject = "hunch"
	AboutEscape    Subject = "escape"
	AboutFile      Subject = "file"     // key: the hold it became
	AboutGround    Subject = "ground"   // of the hunt: covers off, tools, noise, what was worked on
	AboutCameOut   Subject = "came out" // key: the place
	AboutAct       Subject = "act"      // key: the act
	AboutPhoto     Subject = "photo"    // key: the photo
	AboutTried     Subject = "tried"    // key: the isolation test
	AboutSetUp     Subject = "set up"   // how plugs, levers and valves stand on the bench
	AboutAdded     Subject = "added"    // key: the write; what was topped up, at its moment
	AboutPassed    Subject = "passed"   // in whose hands the job is
	AboutQuestion  Subject = "question" // key: the write; put to somebody else
	AboutAnswer    Subject = "answer"   // key: the question

	// Worked out from a hold whenever a sheet is shown; never kept.
	AboutHeard   Subject = "heard"
	AboutHighest Subject = "highest"
	AboutCall    Subject = "call"
)

// Values lists every subject.
func (Subject) Values() []string {
	return values(AboutMark, AboutTarget, AboutGauge, AboutAllowance, AboutFitted, AboutTick, AboutRemark, AboutProof, AboutLook, AboutFound,
		AboutAir, AboutTopUps, AboutReminder, AboutSchool, AboutRepair, AboutCause, AboutParties, AboutAccepted, AboutSign, AboutHunch, AboutEscape, AboutFile,
		AboutGround, AboutCameOut, AboutAct, AboutPhoto, AboutTried, AboutSetUp, AboutAdded, AboutPassed, AboutQuestion, AboutAnswer,
		AboutHeard, AboutHighest, AboutCall)
}

// KitKind is a kind of kit.
type KitKind string

// The kinds of kit.
const (
	GaugeKit   KitKind = "gauge"
	PumpKit    KitKind = "pump"
	AdapterKit KitKind = "adapter"
	PlugKit    KitKind = "plug"
	CaseKit    KitKind = "case" // pieces that go together
)

// Values lists every kind.
func (KitKind) Values() []string { return values(GaugeKit, PumpKit, AdapterKit, PlugKit, CaseKit) }

// NoteKind is what was found or done with a piece of kit.
type NoteKind string

// The kinds of note.
const (
	ZeroCheck NoteKind = "zero check"
	Service   NoteKind = "service"
	Lent      NoteKind = "lent"
	Back      NoteKind = "back"
	Compared  NoteKind = "compared"
	Retired   NoteKind = "retired"
	Borrowed  NoteKind = "borrowed"   // from others, counted in
	GivenBack NoteKind = "given back" // to them, counted out
	CheckDue  NoteKind = "check due"  // how often it is checked
	Leaked    NoteKind = "leaked"     // its joint did, in a job
)

// Values lists every kind of note.
func (NoteKind) Values() []string {
	return values(ZeroCheck, Service, Lent, Back, Compared, Retired, Borrowed, GivenBack, CheckDue, Leaked)
}

// FaceKind is how a gauge shows its reading.
type FaceKind string

// The kinds of face.
const (
	Needle  FaceKind = "needle"
	Digital FaceKind = "digital"
)

// Values lists every kind of face.
func (FaceKind) Values() []string { return values(Needle, Digital) }

// Ring is a verdict as it is drawn.
type Ring string

// The four rings.
const (
	RingWhole  Ring = "whole"  // tight
	RingDotted Ring = "dotted" // no call yet
	RingNicked Ring = "nicked" // losing, within what is allowed
	RingCut    Ring = "cut"    // leaking
)

// Values lists every ring.
func (Ring) Values() []string { return values(RingWhole, RingDotted, RingNicked, RingCut) }

func values[T ~string](all ...T) []string {
	out := make([]string, len(all))
	for i, v := range all {
		out[i] = string(v)
	}
	return out
}
