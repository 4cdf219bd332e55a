package eye

import (
	"context"
	"math"

	"idlehiss/gauges"
)

// NeedleView is where a drawn needle stands: the demo's gauge that a page draws in place of a camera's picture.
type NeedleView struct {
	There bool    `json:"there"` // this hold has one
	Value float64 `json:"value"` // in the gauge's unit
}

// drawn is one of them: the pressure behind it, and a train that rubs.
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
	tapsForS    = 30.0
)

// Needle is where the drawn needle of a hold stands now.
func (r *Room) Needle(_ context.Context, holdID string) (NeedleView, error) {
	stand, nowS, err := r.holds.Needle(holdID)
	if err != nil || stand == nil {
		return NeedleView{}, err
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	hold, err := r.hold(holdID)
	if err != nil {
		delete(r.drawn, holdID) // it has ended
		return NeedleView{}, err
	}
	ring, u := hold.Gauge.Ring()
	d := r.drawn[holdID]
	if d == nil || d.done != stand.Done() { // something was done: it is played again with that
		d = &drawn{stand: stand, done: stand.Done()}
		r.drawn[holdID] = d
	}
	d.play(nowS, u.SI(ring.Division))
	return NeedleView{true, u.Of(d.pa)}, nil
}

// play lets time pass for the needle.
func (d *drawn) play(nowS, division float64) {
	for ; d.atS < nowS; d.atS += drawnStepS {
		p := d.stand.Pressure(d.atS)
		if math.Abs(d.pa-p) > drawnSticks*division {
			d.pa = p + math.Copysign(drawnKeeps*division, d.pa-p)
		}
		if d.stand.Since(gauges.Tap, d.atS) < tapsForS && math.Mod(d.atS, tapEveryS) < drawnStepS {
			d.taps++
			d.pa = p + drawnTapped*division*math.Sin(float64(d.taps)*2.4)
		}
	}
}
