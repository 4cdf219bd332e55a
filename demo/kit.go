package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/shop"
)

// pieces are what the shop has beside its simulated gauges.
type pieces struct {
	Pumps []struct {
		Name, Drawn, Strokes string
		Dated                `yaml:",inline"`
	}
	Fittings []struct {
		Kind, Name, Fits, Rating string
		Dated                    `yaml:",inline"`
	}
	Logger struct {
		Name  string
		Top   float64 // kPa
		Dated `yaml:",inline"`
	}
	Notes []struct {
		On, Kind, Shows, With, Text string
		Beside                      [][2]string
		Due                         int // in so many days from now
		Dated                       `yaml:",inline"`
	}
}

// Dated is how many days ago something was written, and by whom.
type Dated struct {
	Days int
	By   string
}

// kit takes the pieces into the shop's kit, in the order of their days.
func kit(ctx context.Context, s *shop.Shop, clock *past, now time.Time, k pieces) error {
	type step struct {
		days int
		do   func(w shop.Write) error
		by   string
	}
	var steps []step
	for _, p := range k.Pumps {
		steps = append(steps, step{p.Days, func(w shop.Write) error {
			_, err := s.AddPump(ctx, shop.NewPump{Write: w, Name: p.Name, Drawn: p.Drawn, Strokes: p.Strokes})
			return err
		}, p.By})
	}
	for _, f := range k.Fittings {
		steps = append(steps, step{f.Days, func(w shop.Write) error {
			_, err := s.AddFitting(ctx, shop.NewFitting{Write: w, Kind: f.Kind, Name: f.Name, Fits: f.Fits, Rating: f.Rating})
			return err
		}, f.By})
	}
	steps = append(steps, step{k.Logger.Days, func(w shop.Write) error {
		face := runsheet.Gauge{Name: k.Logger.Name, Kind: "digital", Class: 0.5, Rings: []runsheet.Ring{{Unit: "kPa", To: k.Logger.Top, Division: 0.1, Numbered: 50}}}
		_, err := s.AddGauge(ctx, w, shop.NewGauge{Gauge: face, Posted: true})
		return err
	}, k.Logger.By})
	for _, n := range k.Notes {
		steps = append(steps, step{n.Days, func(w shop.Write) error {
			list, err := s.KitList(ctx)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(list.Items, func(it shop.KitItem) bool { return it.Name == n.On })
			if i < 0 {
				return fmt.Errorf("there is no piece %q", n.On)
			}
			in := shop.NewNote{Write: w, Kind: n.Kind, Shows: n.Shows, With: n.With, Text: n.Text}
			if n.Kind == "lent" {
				in.Due = now.AddDate(0, 0, n.Due).Format(time.DateOnly)
			}
			for _, b := range n.Beside {
				in.Beside = append(in.Beside, shop.BesideText{Read: b[0], True: b[1]})
			}
			_, err = s.Note(ctx, list.Items[i].ID, in)
			return err
		}, n.By})
	}
	slices.SortStableFunc(steps, func(a, b step) int { return b.days - a.days })
	for i, x := range steps {
		clock.now = time.Date(now.Year(), now.Month(), now.Day()-x.days, 8, 20+i, 0, 0, time.UTC)
		if err := x.do(shop.Write{ID: fmt.Sprintf("demo-kit-%02d", i), By: x.by, Device: "bench"}); err != nil {
			return err
		}
	}
	return nil
}
