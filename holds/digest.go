package holds

import (
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// picture is a hold as others see it: a value, never changed once it is published.
type picture struct {
	record
	report    *judge.Report // nil while pumping
	judgedS   float64       // the moment of the last reading in it
	unjudged  string        // why it cannot be judged; "" where it can
	fork      []steps.ForkAt
	trail     []steps.ForkAt
	tapDue    bool
	tapUntilS *float64
	air       *Air
	faults    []FaultView
	foreign   [2]bool // the gauge of that side speaks another unit just now
	kept      *digest // of a hold whose readings were not read; else nil
}

// digest is what a sheet shows of a hold's readings and events. It is kept with a hold
// that has ended, so that a sheet reads no trace.
type digest struct {
	Near         runsheet.Standing `json:"near"` // the last that is believed
	Far          runsheet.Standing `json:"far"`
	HighestPa    float64           `json:"highest_pa"` // from ambient
	FirstHeardPa *float64          `json:"first_heard_pa"`
	Strokes      int               `json:"strokes"`
	LastSeq      int               `json:"last_seq"`
	Readings     int               `json:"readings"`
	Air          *Air              `json:"air"`
}

// digest works it out, or gives the one that was kept.
func (p *picture) digest() digest {
	if p.kept != nil {
		return *p.kept
	}
	d := digest{Near: p.last(Near), Far: p.last(Far), HighestPa: p.side(Near).highest, LastSeq: p.lastSeq(Near), Readings: len(p.near()), Air: p.air}
	for _, e := range p.events {
		switch e.Kind {
		case trace.Stroke:
			d.Strokes++
		case trace.FirstHiss:
			if d.FirstHeardPa == nil {
				d.FirstHeardPa = e.PressurePa
			}
		}
	}
	return d
}

// said is what is shown of a hold: its last call, else what is made of it so far. A
// call stands although the next reading alone would not have made it; its figures go on.
func (p *picture) said() *judge.Report {
	n := len(p.calls)
	if n == 0 {
		return p.report
	}
	if p.report != nil && p.hold.State == terms.Holding {
		return p.calls[n-1].report.GoingOn(p.report)
	}
	return &p.calls[n-1].report
}

// airView is the trapped air that a hold's strokes show; nil where they do not.
func airView(rec *record) *Air {
	a, ok := rec.air()
	if !ok {
		return nil
	}
	return &Air{Litres: a.M3 * 1e3, Low: a.LowM3 * 1e3, High: a.HighM3 * 1e3, Bent: a.Bent, Says: a.Says(), Points: a.Points}
}

// stopShare is the share of the ceiling at which an engine that runs with the cap off
// must be stopped: nothing relieves the loop, and heat goes on after it stops. Shop
// practice.
const stopShare = 0.9

// alarm is what must be done at once.
func (p *picture) alarm() terms.Alarm {
	if p.over() {
		return terms.OverLimit
	}
	at := p.last(Near)
	if at.Seen && p.hold.State == terms.Holding && p.engineRuns() && p.rig.sign()*at.Pa > stopShare*p.rig.ceiling() {
		return terms.StopEngine
	}
	return terms.NoAlarm
}

// over reports whether the pressure is above the limit, by either gauge and at once: an
// alarm does not wait until a gauge is believed. Only one that speaks another unit is
// known to mean something else.
func (p *picture) over() bool {
	if p.hold.State == terms.Ended {
		return false
	}
	gauges := p.rig.gauges()
	for i := range p.sides {
		all := p.sides[i].all
		for k := len(all) - 1; k >= 0; k-- {
			if all[k].Struck() && !(i < len(gauges) && gauges[i].ByItself()) {
				continue // a wrong press
			}
			if !p.foreign[i] && p.rig.sign()*all[k].GaugePa > p.rig.ceiling() {
				return true
			}
			break
		}
	}
	return false
}

// stage is where a hold is looked at now: in a job of several steps at its own.
func (p *picture) stage() terms.Stage {
	switch {
	case p.proof():
		return terms.ProveRig
	case len(p.circuit.Tests()) > 1:
		return terms.StepStage(p.step.ID)
	case p.hold.State == terms.Pumping:
		return terms.Pressurise
	case len(p.calls) > 0:
		return terms.CallStage
	}
	return terms.HoldStage
}

// part is what of a hold is wanted: everything, or what is new since so many readings.
type part struct {
	whole     bool
	brief     bool // without report, fork and calls
	summary   bool // without the trace
	near, far int
}
