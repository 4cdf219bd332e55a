package terms

// Warmth is how warm a circuit is during a hold.
type Warmth string

// The degrees of warmth; empty where nobody said.
const (
	NotSaid Warmth = ""
	Cold    Warmth = "cold"
	Warm    Warmth = "warm"
	Hot     Warmth = "hot"
)

// Values lists every degree of warmth.
func (Warmth) Values() []string { return values(NotSaid, Cold, Warm, Hot) }

// Condition is under which circumstances a hold is done. The note is for people only.
type Condition struct {
	Under  string `json:"under,omitempty" maxLength:"60" doc:"id of one of the step's two conditions, where it has two"`
	Warmth Warmth `json:"warmth,omitempty"`
	Engine bool   `json:"engine,omitempty" doc:"the engine runs"`
	Note   string `json:"note,omitempty" maxLength:"120" doc:"for people: nothing is worked out from it"`
}

// Unsteady reports whether the circuit warms or cools during the hold, so that its
// pressure moves without a leak.
func (c Condition) Unsteady() bool { return c.Warmth == Warm || c.Warmth == Hot || c.Engine }
