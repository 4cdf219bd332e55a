package terms

// Fitting is a way in which a rig is fitted at a port: a family of necks, threads and
// holes, and of the adapters that go on them.
type Fitting string

// The families of fitting.
const (
	ThreadInside    Fitting = "thread inside"
	ThreadOutside   Fitting = "thread outside"
	Bayonet         Fitting = "bayonet"
	DoubleRingPlug  Fitting = "double-ring plug"
	ExpandingRubber Fitting = "expanding rubber"
	Bladder         Fitting = "bladder"
	PlugStopper     Fitting = "plug stopper"
	RubberSheet     Fitting = "rubber sheet"
	LiddedCoupler   Fitting = "lidded coupler"
	TappedPlug      Fitting = "tapped plug"
	HoseNipple      Fitting = "hose nipple"
	ChargingValve   Fitting = "charging valve"
	TestPoint       Fitting = "test point"
	CouplingHead    Fitting = "coupling head"
)

// Values lists every family.
func (Fitting) Values() []string {
	return values(ThreadInside, ThreadOutside, Bayonet, DoubleRingPlug, ExpandingRubber, Bladder, PlugStopper, RubberSheet,
		LiddedCoupler, TappedPlug, HoseNipple, ChargingValve, TestPoint, CouplingHead)
}

// Sized reports whether a family comes in sizes, so that a neck's width chooses one.
func (f Fitting) Sized() bool {
	switch f {
	case ThreadInside, ThreadOutside, Bayonet, DoubleRingPlug, ExpandingRubber, Bladder, LiddedCoupler, HoseNipple:
		return true
	}
	return false
}

// Make tells necks of one family from each other.
type Make string

// The makes of a neck; empty where it was not said.
const (
	AnyMake Make = ""
	Shallow Make = "shallow"
	Deep    Make = "deep"
	Fine    Make = "fine"
	Coarse  Make = "coarse"
)

// Values lists every make.
func (Make) Values() []string { return values(AnyMake, Shallow, Deep, Fine, Coarse) }

// Against is the make that one excludes.
func (m Make) Against() Make {
	return map[Make]Make{Shallow: Deep, Deep: Shallow, Fine: Coarse, Coarse: Fine}[m]
}
