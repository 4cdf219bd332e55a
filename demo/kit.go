package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
)

// pieces are what the shop has beside its simulated gauges.
type pieces struct {
	Pumps []struct {
		Name, Drawn, Strokes string
		Dated                `yaml:",inline"`
	}
	Fittings []struct {
		Kind                      terms.KitKind
		Name, Fits, Width, Rating string
		Families                  []terms.Fitting
		Make                      terms.Make
		Dated                     `yaml:",inline"`
	}
	Logger struct {
		Name  string
		Top   float64 // kPa
		Dated `yaml:",inline"`
	}
	Notes []struct {
		On, Shows, With, Text string
		Kind                  terms.NoteKind
		Beside                [][2]string
		Due                   int // in so many days from now
		Dated                 `yaml:",inline"`
	}
}

// Dated is how many days ago something was written, and by whom.
type Dated struct {
	Days int
	By   string
}

// stock takes the pieces into the kit, in the order of their days.
func stock(ctx context.Context, room *kit.Room, clock *past, now time.Time, k pieces) error {
	type step struct {
		days int
		do   func(w desk.Write) error
		by   string
	}
	var steps []step
	for _, p := range k.Pumps {
		steps = append(steps, step{p.Days, func(w desk.Write) error {
			_, err := room.AddPump(ctx, kit.NewPump{Write: w, Name: p.Name, Drawn: p.Drawn, Strokes: p.Strokes})
			return err
		}, p.By})
	}
	for _, f := range k.Fittings {
		steps = append(steps, step{f.Days, func(w desk.Write) error {
			_, err := room.AddFitting(ctx, kit.NewFitting{Write: w, Kind: f.Kind, Name: f.Name, Families: f.Families, Width: f.Width, Make: f.Make, Fits: f.Fits, Rating: f.Rating})
			return err
		}, f.By})
	}
	steps = append(steps, step{k.Logger.Days, func(w desk.Write) error {
		face := runsheet.Gauge{Name: k.Logger.Name, Kind: terms.Digital, Class: 0.5, Rings: []runsheet.Ring{{Unit: "kPa", To: k.Logger.Top, Division: 0.1, Numbered: 50}}}
		_, err := room.AddGauge(ctx, w, kit.NewGauge{Gauge: face, Posted: true})
		return err
	}, k.Logger.By})
	for _, n := range k.Notes {
		steps = append(steps, step{n.Days, func(w desk.Write) error {
			list, err := room.List(ctx)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(list.Items, func(it kit.ItemView) bool { return it.Name == n.On })
			if i < 0 {
				return fmt.Errorf("there is no piece %q", n.On)
			}
			in := kit.NewNote{Write: w, Kind: n.Kind, Shows: n.Shows, With: n.With, Text: n.Text}
			if n.Kind == terms.Lent {
				in.Due = now.AddDate(0, 0, n.Due).Format(time.DateOnly)
			}
			for _, b := range n.Beside {
				in.Beside = append(in.Beside, kit.BesideText{Read: b[0], True: b[1]})
			}
			_, err = room.Note(ctx, list.Items[i].ID, in)
			return err
		}, n.By})
	}
	slices.SortStableFunc(steps, func(a, b step) int { return b.days - a.days })
	for i, x := range steps {
		clock.set(time.Date(now.Year(), now.Month(), now.Day()-x.days, 8, 20+i, 0, 0, time.UTC))
		if err := x.do(desk.Write{ID: fmt.Sprintf("demo-kit-%02d", i), By: x.by, Device: "bench"}); err != nil {
			return err
		}
	}
	return nil
}
