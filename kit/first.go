package kit

import (
	"context"
	"encoding/json"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// New opens the kit. busy tells which gauges are on a hold now, and on whose machine.
// An empty shop is given its first kit.
func New(ctx context.Context, d *desk.Desk, busy func() map[string]string) (*Room, error) {
	r := &Room{desk: d, busy: busy}
	return r, r.stock(ctx)
}

// firstKit is what a new shop starts with: common faces for cooling, crankcases and
// shop air, simulated gauges to practise on, and pumps. All of it can be added to.
func firstKit() ([]Gauge, []runsheet.Pump) {
	needle := runsheet.Gauge{ID: "tester-two-rings", Name: "Hand tester, bar and psi", Kind: terms.Needle, Class: 1.6, RatingPa: 250e3, Rings: []runsheet.Ring{
		{Unit: "bar", From: 0, To: 2.5, Division: 0.05, Numbered: 0.5},
		{Unit: "psi", From: 0, To: 36, Division: 0.5, Numbered: 5},
	}, Read: 1}
	compound := runsheet.Gauge{ID: "compound", Name: "Compound tester, vacuum and pressure", Kind: terms.Needle, Class: 1.6, RatingPa: 100e3, Rings: []runsheet.Ring{
		{Unit: "kPa", From: -100, To: 100, Division: 2, Numbered: 20},
		{Unit: "inHg", From: -30, To: 0, Division: 0.5, Numbered: 5},
	}}
	shopAir := runsheet.Gauge{ID: "shop-air", Name: "Shop air gauge, to 10 bar", Kind: terms.Needle, Class: 1.6, RatingPa: 1000e3, Rings: []runsheet.Ring{
		{Unit: "bar", From: 0, To: 10, Division: 0.1, Numbered: 1},
		{Unit: "psi", From: 0, To: 145, Division: 2, Numbered: 20},
	}}
	face := func(id, name string, from, to, digit float64) runsheet.Gauge {
		return runsheet.Gauge{ID: id, Name: name, Kind: terms.Digital, RatingPa: to * 1e3, Simulated: true, Rings: []runsheet.Ring{{Unit: "kPa", From: from, To: to, Division: digit, Numbered: to / 5}}}
	}
	drawn := func(id, name string) runsheet.Gauge {
		g := needle
		g.ID, g.Name, g.Simulated, g.Rings, g.Read = id, name, true, needle.Rings[:1], 0
		return g
	}
	digital := func(id, name string) runsheet.Gauge { return face(id, name, 0, 250, 0.1) }
	sound := func(noisePa float64) *gauges.Spec { return &gauges.Spec{AirM3: 0.35e-3, NoisePa: noisePa} }
	weep := func(noisePa float64) *gauges.Spec {
		return &gauges.Spec{AirM3: 0.35e-3, NoisePa: noisePa, Part: "radiator", LeakM3PerS: 5e-6 / 60, RefPa: 110e3}
	}
	return []Gauge{
			{Gauge: needle},
			{Gauge: compound},
			{Gauge: shopAir},
			{Gauge: digital("sim-sound", "Simulated gauge on a sound loop"), StandIn: sound(60)},
			{Gauge: digital("sim-weep", "Simulated gauge on a weeping loop"), StandIn: weep(60)},
			{Gauge: face("sim-low-sound", "Simulated low gauge, sound", -100, 100, 0.05), StandIn: sound(30)},
			{Gauge: face("sim-low-weep", "Simulated low gauge, weeping", -100, 100, 0.05), StandIn: weep(30)},
			{Gauge: face("sim-high-sound", "Simulated high gauge, sound", 0, 1000, 0.2), StandIn: sound(120)},
			{Gauge: face("sim-high-weep", "Simulated high gauge, weeping", 0, 1000, 0.2), StandIn: weep(120)},
			{Gauge: drawn("drawn-sound", "Drawn needle gauge on a sound loop"), StandIn: sound(0)},
			{Gauge: drawn("drawn-weep", "Drawn needle gauge on a weeping loop"), StandIn: weep(0)},
		}, []runsheet.Pump{
			{ID: "hand-pump-20", Name: "Hand pump, 20 cm³ a stroke", StrokeM3: 20e-6, StrokeSE: 0.6e-6},
			{ID: "small-pump-1", Name: "Small pump, 1 cm³ a stroke", StrokeM3: 1e-6, StrokeSE: 0.05e-6},
			{ID: "vacuum-pump-8", Name: "Hand pump for pressure or vacuum, 8 cm³ a stroke", StrokeM3: 8e-6, StrokeSE: 0.3e-6, Draws: true},
			{ID: "works-air", Name: "Works air, a valve opened a moment, 20 L at a time", StrokeM3: 20e-3, StrokeSE: 2e-3},
			{ID: "foot-pump-300", Name: "Foot pump, 300 cm³ a stroke", StrokeM3: 300e-6, StrokeSE: 9e-6},
		}
}

// stock gives an empty shop its first kit.
func (r *Room) stock(ctx context.Context) error {
	have, err := r.desk.Book.Kit(ctx, terms.GaugeKit)
	if err != nil || len(have) > 0 {
		return err
	}
	gs, pumps := firstKit()
	return r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error {
		for _, g := range gs {
			if err := add(tx, r.desk.Stamp(desk.Write{ID: g.ID, By: "shop"}), terms.GaugeKit, g); err != nil {
				return err
			}
		}
		for _, p := range pumps {
			if err := add(tx, r.desk.Stamp(desk.Write{ID: p.ID, By: "shop"}), terms.PumpKit, p); err != nil {
				return err
			}
		}
		return nil
	})
}

// add takes a piece into the book.
func add(tx *logbook.Tx, st logbook.Stamp, kind terms.KitKind, body any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return tx.AddKit(logbook.Kit{Stamp: st, Kind: kind, Body: raw})
}
