package judge

// Figures that several files share, and those of the fit. What another file alone uses is
// named there. Where no
// source is given, the figure is the project's own choice, and the study (docs/judge.md)
// measured what is called with it.
const (
	leastPressurePa = 500.0 // gauge: below, a hold has no pressure to lose
	leastFits       = 3     // readings, as many as a curve with a slope has figures

	// The normal distribution (docs/PHYSICS.md, The judge).
	z95    = 1.96     // standard errors on either side of what holds 95 in 100
	low95  = 0.025    // the share below such an interval
	high95 = 0.975    // and up to its upper end
	oneIn  = 1.0 / 12 // variance of a figure rounded to a step, in squares of the step

	cm3PerMin = 60e6   // of one m³/s
	mlPerHour = 3600e6 // of one m³/s

	nothing = 1e-300 // keeps a quotient finite whose parts vanish
)

// How far the parts of a curve may lie from nothing before anything is read, one standard
// deviation: wide enough that readings, not these, decide.
const (
	levelShare  = 0.02 // of the test pressure: the start is known that well
	levelErrors = 3.0  // and by the error of one reading
	settleShare = 0.04 // of the test pressure: what ordinary circuits settle by
	muchSettled = 0.1  // of the test pressure: of the fall seen, half up to this may be settling
	leakReach   = 30.0 // times the allowance and the mean fall together
	stepReach   = 10.0 // times what may settle: a sudden loss
)
