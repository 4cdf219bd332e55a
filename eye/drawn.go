package eye

import (
	"math"
	"sync"

	"idlehiss/core/judge"
	"idlehiss/gauges"
)

// drawn is a drawn needle: the pressure behind it, and a train that rubs.
type drawn struct {
	stand *gauges.StandIn
	done  int     // actions it has lived
	atS   float64 // it is played up to
	pa    float64 // the needle
	taps  int
}

// Its train, shares of a division: held back by so much, it jumps to within so much of the pressure; taps leave so much.
const (
	drawnSticks = 0.25
	drawnKeeps  = 0.1
	drawnTapped = 0.02
	drawnStepS  = 0.2
	tapEveryS   = 1.0
)

// drawings are those of all holds.
type drawings struct {
	mu sync.Mutex // guards of
	of map[string]*drawn
}

// stands is where a hold's needle stands, Pa.
func (d *drawings) stands(holdID string, stand *gauges.StandIn, nowS, division float64) float64 {
	d.mu.Lock()
	defer d.mu.Unlock()
	one := d.of[holdID]
	if one == nil || one.done != stand.Done() { // something was done: it is played again with that
		one = &drawn{stand: stand, done: stand.Done()}
		d.of[holdID] = one
	}
	one.play(nowS, division)
	return one.pa
}

// forget lets go of one.
func (d *drawings) forget(holdID string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.of, holdID)
}

// play lets time pass for the needle.
func (d *drawn) play(nowS, division float64) {
	for ; d.atS < nowS; d.atS += drawnStepS {
		p := d.stand.Pressure(d.atS)
		if math.Abs(d.pa-p) > drawnSticks*division {
			d.pa = p + math.Copysign(drawnKeeps*division, d.pa-p)
		}
		if d.stand.Since(gauges.Tap, d.atS) < judge.TapRunS && math.Mod(d.atS, tapEveryS) < drawnStepS {
			d.taps++
			d.pa = p + drawnTapped*division*math.Sin(float64(d.taps)*2.4)
		}
	}
}
