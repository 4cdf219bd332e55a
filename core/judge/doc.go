// Package judge says of a held pressure what it does and whether that is too much: it fits
// the shapes that a trace can have, finds the steady loss at test pressure with its
// interval, and calls it tight, leaking, or not yet. [Judge] takes a whole trace, [Live]
// the same reading by reading.
//
// # What is asked
//
// A [Question] holds the allowance (a steady loss, Pa/s, at test pressure), how the gauge
// can be read, the air pressure around, and what is known beside it: trapped air, the
// rig's own loss, liquid, temperature. Everything is linear in pressure about the test
// pressure, so the data are falls since the first reading, Pa, against seconds.
//
// # Likelihood
//
// Readings are gathered into bins that widen with time (running.go), so that a new reading
// costs the same after an hour as after a minute; each keeps its weight, mean time and mean
// fall. A needle reading errs by a person's eye and by rounding to a quarter of a division;
// a crossing of a printed mark is an exact pressure with an error in time, turned into
// pressure by the slope. A digital gauge that repeats a figure has told one inequality: the
// pressure lay within half a digit. Such bins enter through sites (sites.go): each bin's
// interval likelihood is replaced by the Gaussian that moment matching gives it against what
// all other bins say, over and over until they agree. That is expectation propagation
// (Minka 2001) with as many factors as bins. Where the figures flicker by more than about
// half a digit the plain mean is as good, and is used. The gauge's class is a span error
// that all readings share: it scales the rate, and is added to its interval at the end.
//
// # Shapes
//
// A node (shapes.go) is a set of columns fitted linearly: a level; one or two settlings,
// exponentials whose times stand on a logarithmic grid, each with its derivative by time so
// that a node stands for the times about it, or a logarithm as long hoses creep; what later
// settling may be unseen yet (settle.go); losses at an instant, seen by a reading or found looking
// back, with what comes back after them (steps.go, lookback.go); and a leak, the
// loss integrated along the pressures that were seen, under the laminar law, the orifice's,
// or that of liquid leaving from below the gas. Temperature, where it was read, is taken out
// first (warmth.go). A floor is looked for beside these (floor.go).
//
// # Prior
//
// Linear parameters have Gaussian priors: the level flat, settling as large as a few per cent
// of the pressure, the leak flat while nodes are fitted, so that the likelihood of every rate
// can be read off; its own prior, wide and centred on nothing, is laid over that afterwards
// (rate.go). Settling that runs upwards without an overshoot, which air and rubber do not do,
// counts less.
//
// # From nodes to a rate
//
// Every node is solved exactly (solve.go); those near the best have their times moved from the
// grid to where the readings want them (polish.go). The evidence of each node, by Laplace's
// formula, weighs it: a mixture of Gaussians for the rate. Evidence is taken to a power below
// one, a power posterior, since real hoses settle with more times than the library has, and
// the node that imitates them best must not outweigh all others. The interval is that of the
// mixture; the rig's loss, with its doubt, is subtracted in it (own.go).
//
// # The call
//
// Two clocks run (call.go). A whole hold is looked at once: it is leaking where the probability of
// a loss beyond the allowance passes 95 %, tight where that of less does, and likewise where the
// whole interval lies on one side. A live hold is looked at after every reading, and its bounds
// are set so that fewer than one in twenty of all holds, looked at each time, is ever called
// wrongly; what is called while watching is what the whole says too. What set each number is the
// study (core/judge/study, docs/judge.md), played on simulated circuits whose settling the library
// does not hold, and on those of another model. Between 0.8 and 1.25 of the allowance nothing is
// promised. Where the interval lies on one side and no call is made, the report says what holds it
// back (HoldBacks): a fall of more than settling takes, settling that goes on, a volume that is
// not well known. A fall of a third is a leak whatever fits it. The fork (fork.go) is found by
// asking what one more reading at a later moment would have to be for the call to be made, and a
// time is promised by which it will probably have come.
//
// # What a report says
//
// A [Report] carries figures, and [Reason] values, each a code with its figures: rules and pages
// go by the codes. words.go alone puts them into sentences.
//
// # What is approximate
//
// The loss is linear over the hold but for its law; volume does not change but by liquid
// leaving; bins stand at their mean time; the mixture keeps the nodes that matter; moment
// matching treats each bin's interval as Gaussian given the others. Logarithmic creep is one
// shape of three times; a leak whose law changes within a hold is not among the shapes. Holds
// are judged one by one: nothing is learned from a machine's earlier ones.
package judge
