package judge

import (
	"math"

	"idlehiss/core/trace"
)

// A camera sees a needle far better than the needle follows the pressure: its train rubs, so that it stands still and
// then moves at once, or follows always a little behind (PHYSICS §5). A thousand sights of a needle that rests are one
// inequality, not a thousand readings. So of what is filmed only that is handed on to the fit which says something new:
//
//   - where the needle stands while the gauge is tapped: it is free then, and at the pressure but for what taps leave,
//     which they show by how far they scatter;
//   - that it has moved by itself. Never tapped, it follows the pressure at one and the same distance, but for the height of
//     its jumps, and that distance cancels in a fall. Between taps, which leave it at the pressure, it is believed only
//     once it has moved by as much as its train may hold it back;
//   - that it rests since a good while: the pressure has not gone farther than friction hides, twice, since the needle may
//     have lain on one side of it and lie on the other now.
//
// How far the train may hold it back is not known: about the gauge's class at most. It is not learned from the needle: one
// that settling met half-way looks as if it did not stick, and was then believed while it hid a leak (study; eye).
const (
	filmedSigma = 0.014 // division: the error of a needle's place that is another in each picture, a fiftieth together with
	filmedDrift = 0.014 // division: that by which pictures drift within a minute (light, a prop that gives way)
	tapLeaves   = 0.1   // of the friction: what remains after a tap, one standard deviation, before taps have shown it
	tapLeavesN  = 2.0   // sights that this belief is worth
	tapRestS    = 0.5   // s after which a tapped needle can be read
	restShare   = 1.0 / 24
	restLeastS  = 1.0
	movedLeast  = 6.0 // standard errors of sight by which a needle has moved
)

// TapRunS is for how long a gauge is tapped, about once a second, once it is said to be, s.
const TapRunS = 30.0

// sticks follows a filmed needle. Pressures in Pa from ambient, signed as the gauge shows them.
type sticks struct {
	gauge   Gauge
	filmed  bool    // anything was
	startS  float64 // of the first sight
	tapped  bool    // it was, since the pressure was last made, last at:
	tapS    float64
	taps    int        // sights since then
	before  [2]float64 // the last two of them
	handed  bool       // something was, last:
	handedS float64
	movedY  float64 // where it was when it had last moved
	seenY   float64 // the last sight, and when
	seenS   float64
	sights  int     // in all
	runs    int     // for which it was tapped
	eyes    float64 // looks by eye beside it, and by how much they stood above it together, Pa
	above   float64
	jump    float64 // Pa: the farthest between two sights
	follows bool    // it was believed to follow: what taps show lies elsewhere
	rests   int     // sights of this rest that were handed on
	bends   float64 // Pa²: squared second differences of sights while it was tapped, and how many
	bendsN  float64
}

// freeSD is the standard error of a sight of the needle while it is tapped, Pa.
func (s *sticks) freeSD() float64 {
	leaves, sight := tapLeaves*s.gauge.friction(), s.sight()
	return math.Max(sight, math.Sqrt((tapLeavesN*(leaves*leaves+sight*sight)+s.bends/6)/(tapLeavesN+s.bendsN)))
}

// sight is the standard error of its place in a picture, Pa.
func (s *sticks) sight() float64 { return filmedSigma * s.gauge.DivisionPa }

// restart forgets where the needle was, and keeps what taps leave of its train's friction.
func (s *sticks) restart() { *s = sticks{gauge: s.gauge, bends: s.bends, bendsN: s.bendsN} }

// tap notes that it is tapped from now on.
func (s *sticks) tap(atS float64) {
	s.runs++
	s.tapS, s.taps, s.tapped = atS, 0, true
}

// tapping reports whether it is tapped at a moment.
func (s *sticks) tapping(atS float64) bool { return s.tapped && atS < s.tapS+TapRunS }

// look takes a sight in; ok where something is to be handed on, with its standard error.
func (s *sticks) look(r trace.Reading) (out trace.Reading, ok bool) {
	if !s.filmed {
		s.filmed, s.startS = true, r.AtS
	}
	was := s.seenY
	s.seenY, s.seenS = r.GaugePa, r.AtS
	s.sights++
	if s.tapping(r.AtS) {
		if r.AtS < s.tapS+tapRestS {
			return r, false
		}
		s.free(r.GaugePa)
		// Sights near each other share the picture's drift. In the first run that is the height from which the fall is reckoned, and
		// nobody asks for it; later the sights of a run add less and less, since they say where the needle is but once.
		shared := 1.0
		if s.runs > 1 {
			shared = float64(s.taps)
		}
		return s.hand(r, math.Hypot(s.freeSD(), filmedDrift*s.gauge.DivisionPa*math.Sqrt(shared))), true
	}
	f := s.gauge.friction()
	moves, sd := f, f/math.Sqrt(3)
	if !s.tapped && s.handed {
		s.jump = math.Max(s.jump, math.Abs(r.GaugePa-was))
		moves, sd = math.Min(s.jump, f), math.Min(s.jump, f)/math.Sqrt(3)
	}
	switch since := r.AtS - s.handedS; {
	case !s.handed:
		return s.hand(r, f), true
	case math.Abs(r.GaugePa-s.movedY) >= math.Max(moves, movedLeast*s.sight()):
		s.rests, s.movedY = 0, r.GaugePa
		s.follows = s.follows || !s.tapped
		return s.hand(r, sd), true
	case since >= restLeastS && since >= restShare*(r.AtS-s.startS):
		// All sights of one rest are one inequality: the later ones add little, and the less the more there are.
		s.rests++
		return s.hand(r, f*math.Sqrt(float64(s.rests))), true
	}
	return r, false
}

// beside compares a look by eye with what the camera saw a moment before: where there was such a sight the look checks the
// camera's marks, and is no reading of its own.
func (s *sticks) beside(r trace.Reading) bool {
	if !s.filmed || r.AtS-s.seenS > besideS {
		return false
	}
	s.eyes++
	s.above += r.GaugePa - s.seenY
	return true
}

// say tells how it was filmed.
func (s *sticks) say(rep *Report) {
	if !s.filmed {
		return
	}
	if s.runs > 0 {
		rep.say(FilmedTapped, figureReadings, float64(s.sights), figureTapped, TapRunS*float64(s.runs))
	} else {
		rep.say(FilmedUntapped, figureReadings, float64(s.sights), figureHidden, kpa(s.gauge.friction()))
	}
	if s.eyes == 0 {
		return
	}
	if off := s.above / s.eyes; math.Abs(off) > eyeDiffers*s.gauge.DivisionPa {
		rep.say(EyeDiffers, figureHigher, kpa(off))
	} else {
		rep.say(EyeAgrees)
	}
}

// A look by eye is beside a sight that is no older; half a division is more than an eye errs.
const (
	besideS    = 5.0 // s
	eyeDiffers = 0.5 // division
)

// free learns from a sight of the needle while it is tapped.
func (s *sticks) free(y float64) {
	if s.taps >= 2 {
		b := y - 2*s.before[0] + s.before[1]
		s.bends += b * b
		s.bendsN++
	}
	s.before[1], s.before[0] = s.before[0], y
	s.taps++
	s.rests = 0
}

func (s *sticks) hand(r trace.Reading, sd float64) trace.Reading {
	if !s.handed || s.tapping(r.AtS) {
		s.movedY = r.GaugePa
	}
	s.handed, s.handedS = true, r.AtS
	r.SDPa = math.Hypot(s.sight(), sd)
	return r
}

// due reports whether tapping it now would say something new: its train may hide what is asked.
func (s *sticks) due(atS float64) bool { return s.filmed && !s.tapping(atS) }

// Taps tells whether the gauge had best be tapped now (it is filmed, and its train may hide what is asked), and until when,
// s on the trace's own axis, it is taken to be tapped; nil: it is not.
func (l *Live) Taps(atS float64) (due bool, untilS *float64) {
	if l.needle.tapping(atS) {
		untilS = new(l.needle.tapS + TapRunS)
	}
	return !l.over && l.needle.due(atS), untilS
}
