package judge

import "math"

// In one hold a floor has exactly the form of settling. After a top-up they part:
// settling comes back smaller and ends higher, a floor ends where it ended.

// segment is one hold between two top-ups, as far as a floor needs it.
type segment struct {
	bins []bin
	y0   float64 // signed gauge Pa
}

// segment leaves out the readings in which the topping up itself is seen: the
// event comes when the supply is shut again.
func (r *running) segment() segment {
	bins := r.bins
	rise := 4 * r.gauge.readSigma()
	for n := len(bins); n > 1 && (bins[n-1].meanY > bins[n-2].meanY+rise || n < len(r.bins) && bins[n-1].meanY > bins[n-2].meanY+rise/8); n-- {
		bins = bins[:n-1]
	}
	if cut := len(bins); cut < len(r.bins) && cut > leastBins {
		bins = bins[:cut-1]
	}
	return segment{bins, r.y0}
}

const (
	middleFrom = 0.45 // share of a segment's time at which its middle begins
	lateFrom   = 0.75 // and its end
	seenFall   = 4.0  // errors of reading that a fall must exceed to be one
	nearFloor  = 0.05 // of the fall: how far apart two ends of one floor may lie,
	nearSteps  = 2.0  // and steps of reading beside it
	leastBins  = 3    // that show an end
	mostPast   = 2    // top-ups that are looked back on
)

// end is where a segment came to rest and how far it fell; ok is false when it
// was still falling.
func (s segment) end(errorPa float64) (at, fall float64, ok bool) {
	n := len(s.bins)
	if n < leastBins {
		return 0, 0, false
	}
	last := s.bins[n-1].meanT
	mean := func(from, to float64) float64 {
		w, wy := 0.0, 0.0
		for _, b := range s.bins {
			if b.meanT >= from*last && b.meanT <= to*last {
				w += b.w
				wy += b.w * b.meanY
			}
		}
		return wy / w
	}
	at = mean(lateFrom, 1)
	fall = s.bins[0].meanY - at
	before := mean(middleFrom, lateFrom)
	return s.y0 + at, fall, fall > seenFall*errorPa && !(before-at > stillFalls*fall+errorPa)
}

// stillFalls is the share of its fall that a segment at rest may make between
// its middle and its end.
const stillFalls = 0.12

// floorOf reports whether every hold between top-ups came to rest at the same
// pressure, though each fell about as far: within two steps of reading, one per
// cent, and a twentieth of the fall.
func (r *running) floorOf(past []segment) (endPa float64, ok bool) {
	if len(past) > mostPast {
		past = past[len(past)-mostPast:]
	}
	errorPa := r.gauge.readSigma() * math.Min(1, math.Sqrt(r.noiseScale()))
	now, fall, ok := r.segment().end(errorPa)
	if !ok {
		return 0, false
	}
	sum := now
	for _, s := range past {
		at, f, rests := s.end(errorPa)
		if !rests || fall < againFalls*f || math.Abs(at-now) > nearSteps*r.gauge.StepPa()+nearFloor*f {
			return 0, false
		}
		sum += at
	}
	return sum / float64(len(past)+1), true
}

// againFalls is the least share of an earlier fall that a floor shows again.
const againFalls = 0.5

// floor says so in a report, where a top-up has shown one.
func (l *Live) floor(rep *Report) {
	if len(l.past) == 0 || rep.RateKPaPerMin == nil || rep.Shape == ShapeStep {
		return
	}
	end, ok := l.run.floorOf(l.past)
	if !ok {
		return
	}
	at := kpa(l.run.sign * end)
	rep.RunnerUp, rep.RunnerUpShare, rep.Shape, rep.FloorKPa, rep.SettleS = rep.Shape, rep.ShapeShare, ShapeFloor, &at, nil
	rep.sayFirst(FloorSeen, figureFloor, at)
}
