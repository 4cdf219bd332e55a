// Package demo makes the demo shop from a small readable file, by playing it
// through the shop itself on simulated gauges and a clock set back.
package demo

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"sync"
	"time"

	"github.com/goccy/go-yaml"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/shop"
	"idlehiss/trail"
)

//go:embed demo.yaml
var story []byte

type file struct {
	AltitudeM float64 `yaml:"altitude_m"`
	Gauges    []struct {
		ID, Name string
		Air      quantity.M3
		Leak     struct{ Part, Flow string }
	}
	Kit      pieces
	Finished []job
	Mended   []job     // likewise, told after the tests: their writes are numbered by themselves
	Head     shop.Head // of the papers
	Tests    []stepped // of the other circuits, days ago
	Running  []job
	Record   outliving
}

type job struct {
	Machine, Complaint, Mark, Gauge, By, Seen, Note string
	Escape                                          terms.Escape // how the leak was noticed, if it was
	Days                                            int
	Proof                                           bool
	Hold, Shut                                      quantity.S
	Parties                                         trail.Parties // whose machine it is
	Mend                                            *mended       // what was done about what was seen
	Again                                           string        // the gauge with which it was held again
	step, under                                     string        // of a circuit of several
}

// AmbientPa is the air pressure at the demo shop's altitude.
func AmbientPa() (float64, error) {
	f, err := read()
	return physics.Ambient(f.AltitudeM), err
}

func read() (file, error) {
	var f file
	err := yaml.UnmarshalWithOptions(story, &f, yaml.Strict())
	return f, err
}

// past is a clock that is set by hand.
type past struct {
	mu  sync.Mutex
	now time.Time
}

func (p *past) Now() time.Time {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.now
}

func (p *past) set(now time.Time) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.now = now
}

func (p *past) Speed() float64 { return 0.001 } // the shop's own loop hardly runs; the story reads the gauges

// Fill plays the story into an empty book, ending at clock's now: what is long
// over first, so that the running holds end as close to it as can be.
func Fill(ctx context.Context, book *logbook.Book, wall desk.Clock) error {
	now := wall.Now()
	f, err := read()
	if err != nil {
		return err
	}
	clock := &past{now: now.AddDate(0, 0, -60)}
	s, err := shop.New(ctx, book, clock, shop.Options{AmbientPa: physics.Ambient(f.AltitudeM), Demo: true})
	if err != nil {
		return err
	}
	defer s.Close()
	// A gauge that hides a circuit is not described on a screen, so it goes
	// straight into the kit.
	for _, g := range f.Gauges {
		spec := gauges.Spec{AirM3: float64(g.Air), NoisePa: 60, RefPa: 110e3, Part: g.Leak.Part}
		if g.Leak.Flow != "" {
			v, err := quantity.Parse(g.Leak.Flow, quantity.Flow, quantity.MustNamed("cm3/min", quantity.Flow), 0)
			if err != nil {
				return err
			}
			spec.LeakM3PerS = v.Low
		}
		face := runsheet.Gauge{ID: g.ID, Name: g.Name, Kind: terms.Digital, Simulated: true, RatingPa: 250e3, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
		raw, err := json.Marshal(kit.Gauge{Gauge: face, StandIn: &spec})
		if err != nil {
			return err
		}
		k := logbook.Kit{Stamp: logbook.Stamp{ID: g.ID, At: clock.Now(), By: "shop"}, Kind: terms.GaugeKit, Body: raw}
		if err := book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddKit(k) }); err != nil {
			return err
		}
	}
	if err := stock(ctx, s.Kit, clock, now, f.Kit); err != nil {
		return fmt.Errorf("the kit: %w", err)
	}
	p := player{ctx, s, clock, "demo", new(int)}
	if _, err := s.SetHead(ctx, shop.SetHead{Write: desk.Write{ID: "demo-head", By: "shop", Device: "bench"}, Head: f.Head}); err != nil {
		return err
	}
	for _, j := range f.Finished {
		clock.set(time.Date(now.Year(), now.Month(), now.Day()-j.Days, 9, 12, 0, 0, time.UTC))
		if err := p.play(j, 0); err != nil {
			return fmt.Errorf("%s: %w", j.Machine, err)
		}
	}
	for _, j := range f.Tests {
		clock.set(time.Date(now.Year(), now.Month(), now.Day()-j.Days, 8, 40, 0, 0, time.UTC))
		if err := p.steps(j); err != nil {
			return fmt.Errorf("%s: %w", j.Machine, err)
		}
	}
	after := player{ctx, s, clock, "mended", new(int)}
	for _, j := range f.Mended {
		clock.set(time.Date(now.Year(), now.Month(), now.Day()-j.Days, 10, 25, 0, 0, time.UTC))
		if err := after.play(j, 0); err != nil {
			return fmt.Errorf("%s: %w", j.Machine, err)
		}
	}
	if err := f.Record.outlive(ctx, s, clock, now); err != nil {
		return fmt.Errorf("the record: %w", err)
	}
	now = wall.Now()
	for _, j := range f.Running {
		if err := p.rehearse(j, now); err != nil {
			return fmt.Errorf("%s: %w", j.Machine, err)
		}
	}
	clock.set(wall.Now())
	s.Holds.ReadGauges(ctx)
	return nil
}

type player struct {
	ctx   context.Context
	shop  *shop.Shop
	clock *past

	name   string // of its writes
	writes *int   // so far
}

func (p player) wait(d time.Duration) {
	p.clock.set(p.clock.Now().Add(d))
	p.shop.Holds.ReadGauges(p.ctx)
}

// looked ends the first look of a job. Its write has no number of its own: a hold's noise comes from its number,
// and the stories are told with the holds that they have.
func (p player) looked(job, by string) error {
	_, err := p.shop.Jobs.Tick(p.ctx, job, jobs.Tick{Write: desk.Write{ID: job + "-looked", By: by, Device: "bench"}, Item: runsheet.LookedRound.ID, On: true})
	return err
}

// write numbers the story's writes: told again it is the same to the last figure.
func (p player) write(by string) desk.Write {
	*p.writes++
	return desk.Write{ID: fmt.Sprintf("%s-%06d", p.name, *p.writes), By: by, Device: "bench"}
}

// rehearse plays a job whose hold is still running at the end. How long getting
// there takes is known after a first pass of the same steps: 1 s a stroke.
func (p player) rehearse(j job, end time.Time) error {
	p.clock.set(end.Add(-time.Duration(float64(j.Shut)*float64(time.Second)) - 4*time.Minute))
	return p.play(j, 4*time.Minute)
}

// play goes through the order of work. With lead the supply is shut exactly that
// long after the beginning and the hold is left running.
func (p player) play(j job, lead time.Duration) error {
	begun := p.clock.Now()
	ctx, s := p.ctx, p.shop
	begunJob, err := s.Jobs.Begin(ctx, jobs.StartJob{Write: p.write(j.By), Machine: j.Machine, Complaint: j.Complaint, Mark: j.Mark})
	if err != nil {
		return err
	}
	id := begunJob.Of
	step := func(err error) error { p.wait(2 * time.Second); return err }
	tick := func(items ...string) error {
		for _, i := range items {
			_, err := s.Jobs.Tick(ctx, id, jobs.Tick{Write: p.write(j.By), Item: i, On: true})
			if step(err) != nil {
				return err
			}
		}
		return nil
	}
	if err := p.looked(id, j.By); err != nil {
		return err
	}
	if err := p.parties(id, j.By, j.Parties); err != nil {
		return err
	}
	if err := tick("cold", "still", "eyes-on"); err != nil {
		return err
	}
	_, err = s.Jobs.SetPlan(ctx, id, jobs.Plan{Write: p.write(j.By), School: "exactly", Gauge: j.Gauge, Allowance: "house"})
	if step(err) != nil {
		return err
	}
	if err := tick("adapter", "overflow", "shut", "heater-hot", "wiped", "filled"); err != nil {
		return err
	}
	if j.Proof {
		if _, err := p.hold(id, j, terms.RigProof, 70*time.Second, nil); err != nil {
			return err
		}
	} else if _, err := s.Jobs.SkipProof(ctx, id, p.write(j.By)); err != nil {
		return err
	}
	if lead > 0 {
		shut := begun.Add(lead)
		_, err = p.hold(id, j, terms.Test, 0, &shut)
		return err
	}
	h, err := p.hold(id, j, terms.Test, time.Duration(float64(j.Hold)*float64(time.Second)), nil)
	if err != nil {
		return err
	}
	if j.Seen != "" {
		if _, err := s.Jobs.Look(ctx, id, jobs.Look{Write: p.write(j.By), Part: "top-hose", Method: "soap", Seen: false}); step(err) != nil {
			return err
		}
		if _, err := s.Jobs.Look(ctx, id, jobs.Look{Write: p.write(j.By), Part: j.Seen, Method: "eyes", Seen: true, Class: terms.Fault, Note: j.Note}); step(err) != nil {
			return err
		}
	}
	if j.Escape != "" {
		if _, err := s.Jobs.Escape(ctx, id, jobs.Escape{Write: p.write(j.By), How: j.Escape}); step(err) != nil {
			return err
		}
	}
	if _, err := s.Holds.Event(ctx, h.ID, holds.HoldEvent{Write: p.write(j.By), Kind: trace.Release}); step(err) != nil {
		return err
	}
	if err := p.mend(id, j); err != nil {
		return err
	}
	if err := tick("saw-zero", "adapter-off", "plugs-out", "cap-back", "level"); err != nil {
		return err
	}
	_, err = s.Jobs.End(ctx, id, jobs.CloseJob{Write: p.write(j.By)})
	return err
}

// parties says whose machine it is. Like the end of a first look its write has no number.
func (p player) parties(jobID, by string, x trail.Parties) error {
	if x == (trail.Parties{}) {
		return nil
	}
	_, err := p.shop.Jobs.SetParties(p.ctx, jobID, jobs.SetParties{Write: desk.Write{ID: jobID + "-parties", By: by, Device: "bench"}, Parties: x})
	return err
}

// mend puts right what was seen, and holds it again.
func (p player) mend(jobID string, j job) error {
	if j.Mend == nil {
		return nil
	}
	if err := p.mended(jobID, j.By, j.Mend); err != nil {
		return err
	}
	if _, err := p.shop.Jobs.SetPlan(p.ctx, jobID, jobs.Plan{Write: p.write(j.By), School: "exactly", Gauge: j.Again, Allowance: "house"}); err != nil {
		return err
	}
	p.wait(time.Minute)
	h, err := p.hold(jobID, j, terms.Test, time.Duration(float64(j.Hold)*float64(time.Second)), nil)
	if err != nil {
		return err
	}
	_, err = p.shop.Holds.Event(p.ctx, h.ID, holds.HoldEvent{Write: p.write(j.By), Kind: trace.Release})
	return err
}

// mended takes a repair down, and what made the part fail.
func (p player) mended(jobID, by string, m *mended) error {
	p.wait(20 * time.Minute)
	if _, err := p.shop.Jobs.Mend(p.ctx, jobID, jobs.Mend{Write: p.write(by), Part: m.Part, Repair: m.Repair, Note: m.Note}); err != nil || m.Cause == "" {
		return err
	}
	_, err := p.shop.Jobs.Cause(p.ctx, jobID, jobs.Caused{Write: desk.Write{ID: jobID + "-cause", By: by, Device: "bench"}, Part: m.Part, Cause: m.Cause})
	return err
}

// hold pumps up, shuts the supply, and holds: for a time and at least until a
// call, or leaves it running when the moment of shutting is given.
func (p player) hold(jobID string, j job, purpose terms.Purpose, held time.Duration, shut *time.Time) (holds.HoldView, error) {
	begun, err := p.shop.Jobs.Start(p.ctx, jobID, jobs.StartHold{Write: p.write(j.By), Purpose: purpose, Step: j.step, Condition: terms.Condition{Under: j.under}})
	if err != nil {
		return holds.HoldView{}, err
	}
	h, err := p.shop.Holds.Hold(p.ctx, begun.Of)
	if err != nil {
		return h, err
	}
	event := func(kind string) error {
		if _, err := p.shop.Holds.Event(p.ctx, h.ID, holds.HoldEvent{Write: p.write(j.By), Kind: kind}); err != nil {
			return err
		}
		p.shop.Holds.Quiet(p.ctx)
		h, err = p.shop.Holds.Hold(p.ctx, h.ID)
		return err
	}
	if shut != nil {
		// About one stroke a second, so as to be at pressure just in time.
		p.wait(shut.Sub(p.clock.Now()) - 32*time.Second)
	}
	// Until the next stroke would go further past the target than it is short of it, or
	// past the limit.
	want, most, last := math.Abs(h.Target.Pa), math.Abs(h.Target.Weakest.CeilingPa), 0.0
	at := func() float64 {
		if h.Value == nil {
			return 0
		}
		return math.Abs(h.Value.Pa)
	}
	for now := 0.0; want-now > (now-last)/2 && 2*now-last <= most; {
		p.wait(time.Second)
		if err := event(trace.Stroke); err != nil {
			return h, err
		}
		if h.Strokes > 160 {
			return h, fmt.Errorf("160 strokes and still at %v", h.Value)
		}
		last, now = now, at()
	}
	p.wait(time.Second)
	if err := event(trace.Isolate); err != nil {
		return h, err
	}
	if shut != nil {
		return h, nil
	}
	for gone := time.Duration(0); gone < held || (h.Report != nil && h.Report.Call == judge.NotYet && gone < 40*time.Minute); gone += 10 * time.Second {
		p.wait(10 * time.Second)
		if h, err = p.shop.Holds.Hold(p.ctx, h.ID); err != nil {
			return h, err
		}
	}
	if purpose == terms.RigProof {
		err = event(trace.Release)
		p.wait(5 * time.Second)
	}
	return h, err
}
