package holds

import (
	"context"
	"encoding/json"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/logbook"
	"idlehiss/snapshot"
)

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

// keepDigest keeps what a sheet shows of a hold that has ended.
func (r *Room) keepDigest(ctx context.Context, p *picture) error {
	raw, err := json.Marshal(p.digest())
	if err != nil {
		return err
	}
	return r.desk.Take(ctx, func(tx *logbook.Tx) error { return tx.SetDigest(p.hold.ID, raw) })
}

// Case is what a job hands over to see its holds: read once for all of them.
type Case struct {
	Machine string
	Basis   snapshot.Basis
	Holds   []logbook.Hold
	Calls   map[string][]logbook.Call // by hold
}

// Summaries are the holds of a job without their traces. Those that have ended are read
// from what was kept of them; where nothing was, the trace is read once and it is kept
// then.
func (r *Room) Summaries(ctx context.Context, c Case) ([]HoldView, error) {
	out := []HoldView{}
	for _, h := range c.Holds {
		p, err := r.summary(ctx, h, c)
		if err != nil {
			return nil, err
		}
		out = append(out, p.view(part{summary: true}, p.axis(r.desk.Clock.Now())))
	}
	return out, nil
}

func (r *Room) summary(ctx context.Context, h logbook.Hold, c Case) (*picture, error) {
	if k := r.running(h.ID); k != nil {
		return k.pic.Load(), nil
	}
	var kept digest
	if h.State != terms.Ended || h.Digest == nil || json.Unmarshal(h.Digest, &kept) != nil {
		p, err := r.fromBook(ctx, h)
		if err != nil {
			return r.unreadable(h, c, err), nil
		}
		if h.State == terms.Ended {
			// For the next time; that it could not be kept hides nothing.
			_ = r.keepDigest(ctx, p)
		}
		return p, nil
	}
	rec, err := begin(h, c.Machine, c.Basis)
	if err != nil {
		return r.unreadable(h, c, err), nil
	}
	rec.calls = decodeCalls(c.Calls[h.ID], rec.unit)
	p := &picture{record: rec, air: kept.Air, kept: &kept}
	if n := len(rec.calls); n > 0 {
		p.report = &rec.calls[n-1].report
	}
	return p, nil
}

// unreadable stands in for a hold that the book cannot give: one bad record does not
// take its sheet with it.
func (r *Room) unreadable(h logbook.Hold, c Case, err error) *picture {
	rec := record{hold: h, machine: c.Machine, circuit: &c.Basis.Circuit}
	rec.rig.Gauge = runsheet.Suitable(100e3)
	_, rec.unit = rec.rig.Gauge.Ring()
	return &picture{record: rec, unjudged: err.Error(), kept: &digest{}}
}

// Hold gives a hold with its whole trace, thinned for the screen.
func (r *Room) Hold(ctx context.Context, id string) (HoldView, error) {
	p, err := r.picture(ctx, id)
	if err != nil {
		return HoldView{}, err
	}
	return p.view(part{whole: true}, p.axis(r.desk.Clock.Now())), nil
}

// Running are the holds in progress, first begun first, with their traces.
func (r *Room) Running() []HoldView { return r.allRunning(part{whole: true}) }

// RunningSummaries are the same without their traces.
func (r *Room) RunningSummaries() []HoldView { return r.allRunning(part{summary: true}) }

func (r *Room) allRunning(want part) []HoldView {
	out := []HoldView{}
	for _, k := range r.keepers() {
		p := k.pic.Load()
		out = append(out, p.view(want, p.axis(r.desk.Clock.Now())))
	}
	return out
}
