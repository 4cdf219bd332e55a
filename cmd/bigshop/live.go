package main

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/demo"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/shop"
)

// mostPosted is as many readings as a gauge may post at once.
const mostPosted = 10000

// hand is a clock that is set by hand.
type hand struct{ now time.Time }

func (h *hand) Now() time.Time { return h.now }
func (*hand) Speed() float64   { return 0.001 } // the shop's own loop hardly runs

// hold ends what the demo shop left running, and begins the long holds: their gauges post one reading a second until a
// moment, some on sound circuits and some on leaking ones.
func hold(ctx context.Context, o options, until time.Time) error {
	book, err := logbook.Open(ctx, o.Out)
	if err != nil {
		return err
	}
	defer book.Close()
	ambient, err := demo.AmbientPa()
	if err != nil {
		return err
	}
	clock := &hand{until.Add(-time.Duration(o.Most+300) * time.Second)}
	s, err := shop.New(ctx, book, clock, shop.Options{AmbientPa: ambient, Demo: true})
	if err != nil {
		return err
	}
	defer s.Close()
	writes := 0
	write := func() desk.Write {
		writes++
		return desk.Write{ID: fmt.Sprintf("bigshop-%06d", writes), By: "Ilse", Device: "bench"}
	}
	for _, h := range s.Holds.Running() {
		if _, err := s.Holds.Event(ctx, h.ID, holds.HoldEvent{Write: write(), Kind: trace.Release}); err != nil {
			return err
		}
	}
	open, err := book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, 100)
	if err != nil {
		return err
	}
	for _, j := range open {
		if _, err := s.Jobs.End(ctx, j.ID, jobs.CloseJob{Write: write(), Abandon: true}); err != nil {
			return err
		}
	}
	r := rand.New(rand.NewPCG(3, 4))
	face := runsheet.Gauge{Kind: terms.Digital, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
	for n := range o.Live {
		face.Name = fmt.Sprintf("Logger %d", n+1)
		g, err := s.Kit.AddGauge(ctx, write(), kit.NewGauge{Gauge: face, Posted: true})
		if err != nil {
			return err
		}
		long := o.Least
		if o.Live > 1 {
			long += (o.Most - o.Least) * n / (o.Live - 1)
		}
		clock.now = until.Add(-time.Duration(long+60) * time.Second)
		begun, err := s.Jobs.Begin(ctx, jobs.StartJob{Write: write(), Machine: fmt.Sprintf("Bin carrier %d", 70+n), Complaint: "loses coolant overnight", Mark: "110 kPa"})
		if err != nil {
			return err
		}
		if err := rigUp(ctx, s, begun.Of, write); err != nil {
			return err
		}
		if _, err := s.Jobs.SetPlan(ctx, begun.Of, jobs.Plan{Write: write(), School: "exactly", Gauge: g.ID, Allowance: "house"}); err != nil {
			return err
		}
		if _, err := s.Jobs.SkipProof(ctx, begun.Of, write()); err != nil {
			return err
		}
		h, err := s.Jobs.Start(ctx, begun.Of, jobs.StartHold{Write: write(), Purpose: terms.Test})
		if err != nil {
			return err
		}
		if err := overnight(ctx, s, clock, h.Of, g.ID, long, r, write); err != nil {
			return fmt.Errorf("hold %d: %w", n+1, err)
		}
	}
	return nil
}

// rigUp ticks what comes before a hold.
func rigUp(ctx context.Context, s *shop.Shop, job string, write func() desk.Write) error {
	for _, item := range []string{runsheet.LookedRound.ID, "cold", "still", "eyes-on", "adapter", "overflow", "shut", "heater-hot", "wiped", "filled"} {
		if _, err := s.Jobs.Tick(ctx, job, jobs.Tick{Write: write(), Item: item, On: true}); err != nil {
			return err
		}
	}
	return nil
}

// overnight plays so many readings of a hold: it settles, the air of the shed cools and warms it, and every third loses.
func overnight(ctx context.Context, s *shop.Shop, clock *hand, holdID, gaugeID string, long int, r *rand.Rand, write func() desk.Write) error {
	began, leak := clock.now, 0.0
	if r.IntN(3) == 0 {
		leak = 0.5 + r.Float64() // kPa/h
	}
	pressure := func(atS float64) float64 {
		return 110 - 0.8*(1-math.Exp(-atS/400)) - leak*atS/3600 + 0.6*math.Sin(atS/9000) + 0.05*r.NormFloat64()
	}
	post := func(from, to int) error {
		in := holds.Posted{Write: write()}
		for i := from; i < to; i++ {
			at := began.Add(time.Duration(i+1) * time.Second)
			in.Readings = append(in.Readings, holds.PostedReading{Value: pressure(float64(i)), At: &at})
		}
		clock.now = began.Add(time.Duration(to) * time.Second)
		_, err := s.Holds.Post(ctx, gaugeID, func() (string, error) { return "", fmt.Errorf("no hold runs") }, in)
		return err
	}
	if err := post(0, 3); err != nil {
		return err
	}
	if _, err := s.Holds.Event(ctx, holdID, holds.HoldEvent{Write: write(), Kind: trace.Isolate}); err != nil {
		return err
	}
	for from := 3; from < long; from += mostPosted {
		if err := post(from, min(from+mostPosted, long)); err != nil {
			return err
		}
	}
	s.Holds.Quiet(ctx)
	return nil
}
