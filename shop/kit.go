package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// KitGauge is a gauge of the shop; a simulated one hides a circuit.
type KitGauge struct {
	runsheet.Gauge
	StandIn *gauges.Spec `json:"stand_in,omitempty"`
	Wire    *gauges.Wire `json:"wire,omitempty"`   // asked over Modbus TCP
	Posted  bool         `json:"posted,omitempty"` // its readings are posted over HTTP
}

// firstKit is what a new shop starts with: common faces for cooling, crankcases and
// shop air, simulated gauges to practise on, and pumps. All of it can be added to.
func firstKit() ([]KitGauge, []Pump) {
	needle := runsheet.Gauge{ID: "tester-two-rings", Name: "Hand tester, bar and psi", Kind: "needle", Class: 1.6, RatingPa: 250e3, Rings: []runsheet.Ring{
		{Unit: "bar", From: 0, To: 2.5, Division: 0.05, Numbered: 0.5},
		{Unit: "psi", From: 0, To: 36, Division: 0.5, Numbered: 5},
	}, Read: 1}
	compound := runsheet.Gauge{ID: "compound", Name: "Compound tester, vacuum and pressure", Kind: "needle", Class: 1.6, RatingPa: 100e3, Rings: []runsheet.Ring{
		{Unit: "kPa", From: -100, To: 100, Division: 2, Numbered: 20},
		{Unit: "inHg", From: -30, To: 0, Division: 0.5, Numbered: 5},
	}}
	shopAir := runsheet.Gauge{ID: "shop-air", Name: "Shop air gauge, to 10 bar", Kind: "needle", Class: 1.6, RatingPa: 1000e3, Rings: []runsheet.Ring{
		{Unit: "bar", From: 0, To: 10, Division: 0.1, Numbered: 1},
		{Unit: "psi", From: 0, To: 145, Division: 2, Numbered: 20},
	}}
	face := func(id, name string, from, to, digit float64) runsheet.Gauge {
		return runsheet.Gauge{ID: id, Name: name, Kind: "digital", RatingPa: to * 1e3, Simulated: true, Rings: []runsheet.Ring{{Unit: "kPa", From: from, To: to, Division: digit, Numbered: to / 5}}}
	}
	digital := func(id, name string) runsheet.Gauge { return face(id, name, 0, 250, 0.1) }
	sound := func(noisePa float64) *gauges.Spec { return &gauges.Spec{AirM3: 0.35e-3, NoisePa: noisePa} }
	weep := func(noisePa float64) *gauges.Spec {
		return &gauges.Spec{AirM3: 0.35e-3, NoisePa: noisePa, Part: "radiator", LeakM3PeS: 5e-6 / 60, RefPa: 110e3}
	}
	return []KitGauge{
			{Gauge: needle},
			{Gauge: compound},
			{Gauge: shopAir},
			{Gauge: digital("sim-sound", "Simulated gauge on a sound loop"), StandIn: sound(60)},
			{Gauge: digital("sim-weep", "Simulated gauge on a weeping loop"), StandIn: weep(60)},
			{Gauge: face("sim-low-sound", "Simulated low gauge, sound", -100, 100, 0.05), StandIn: sound(30)},
			{Gauge: face("sim-low-weep", "Simulated low gauge, weeping", -100, 100, 0.05), StandIn: weep(30)},
			{Gauge: face("sim-high-sound", "Simulated high gauge, sound", 0, 1000, 0.2), StandIn: sound(120)},
			{Gauge: face("sim-high-weep", "Simulated high gauge, weeping", 0, 1000, 0.2), StandIn: weep(120)},
		}, []Pump{
			{ID: "hand-pump-20", Name: "Hand pump, 20 cm³ a stroke", StrokeM3: 20e-6, StrokeSE: 0.6e-6},
			{ID: "small-pump-1", Name: "Small pump, 1 cm³ a stroke", StrokeM3: 1e-6, StrokeSE: 0.05e-6},
			{ID: "vacuum-pump-8", Name: "Hand pump for pressure or vacuum, 8 cm³ a stroke", StrokeM3: 8e-6, StrokeSE: 0.3e-6, Draws: true},
			{ID: "works-air", Name: "Works air, a valve opened a moment, 20 L at a time", StrokeM3: 20e-3, StrokeSE: 2e-3},
			{ID: "foot-pump-300", Name: "Foot pump, 300 cm³ a stroke", StrokeM3: 300e-6, StrokeSE: 9e-6},
		}
}

// stock gives an empty shop its first kit.
func (s *Shop) stock(ctx context.Context) error {
	have, err := s.book.Kit(ctx, "gauge")
	if err != nil || len(have) > 0 {
		return err
	}
	gs, pumps := firstKit()
	return s.book.Batch(ctx, func(tx *logbook.Tx) error {
		for _, g := range gs {
			if err := addKit(tx, s.stamp(Write{ID: g.ID, By: "shop"}), "gauge", g); err != nil {
				return err
			}
		}
		for _, p := range pumps {
			if err := addKit(tx, s.stamp(Write{ID: p.ID, By: "shop"}), "pump", p); err != nil {
				return err
			}
		}
		return nil
	})
}

func addKit(tx *logbook.Tx, st logbook.Stamp, kind string, body any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return tx.AddKit(logbook.Kit{Stamp: st, Kind: kind, Body: raw})
}

// Gauges lists the shop's gauges that are in use.
func (s *Shop) Gauges(ctx context.Context) ([]KitGauge, error) {
	return kitOf[KitGauge](ctx, s, "gauge", false)
}

// Pumps lists the shop's pumps that are in use.
func (s *Shop) Pumps(ctx context.Context) ([]Pump, error) { return kitOf[Pump](ctx, s, "pump", false) }

// kitOf lists the pieces of a kind; those that are no longer used only for past,
// since jobs of the past were done with them.
func kitOf[T any](ctx context.Context, s *Shop, kind string, past bool) ([]T, error) {
	rows, err := s.book.Kit(ctx, kind)
	if err != nil {
		return nil, err
	}
	notes, err := s.book.KitNotes(ctx)
	if err != nil {
		return nil, err
	}
	retired := map[string]bool{}
	for _, n := range notes {
		retired[n.KitID] = retired[n.KitID] || n.Kind == "retired"
	}
	out := make([]T, 0, len(rows))
	for _, r := range rows {
		if retired[r.ID] && !past {
			continue
		}
		var v T
		if err := json.Unmarshal(r.Body, &v); err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// NewGauge is a gauge as its face is described, and how it speaks, if by itself.
type NewGauge struct {
	runsheet.Gauge
	Rating  string // the pressure it is good for; "" the end of its scale
	Address string // of one on the wire
	MapID   string // its register map
	Posted  bool
}

// AddGauge takes a gauge into the kit.
func (s *Shop) AddGauge(ctx context.Context, w Write, g NewGauge) (KitGauge, error) {
	k := KitGauge{Gauge: g.Gauge, Posted: g.Posted}
	k.ID, k.Simulated = w.ID, false
	if k.Name == "" {
		return KitGauge{}, refuse("name", "a gauge needs a name to be picked by, such as 'brass tester'")
	}
	if err := k.Gauge.Faults(); err != nil {
		return KitGauge{}, refuse("rings", "%v", err)
	}
	if g.Address != "" {
		m, err := s.mapOf(g.MapID)
		if err != nil {
			return KitGauge{}, err
		}
		k.Wire = &gauges.Wire{Address: strings.TrimSpace(g.Address), Map: m}
		if err := k.Wire.Faults(); err != nil {
			return KitGauge{}, refuse("address", "%v", err)
		}
	}
	if k.Kind == "needle" && (k.Wire != nil || k.Posted) {
		return KitGauge{}, refuse("kind", "a gauge that speaks by itself has digits, not a needle")
	}
	r, u := k.Ring()
	k.RatingPa = u.SI(r.To)
	if g.Rating != "" {
		v, err := quantity.Parse(g.Rating, quantity.Pressure, u, s.ambient)
		switch {
		case err != nil:
			return KitGauge{}, refuse("rating", "%v", err)
		case v.Low <= 0:
			return KitGauge{}, refuse("rating", "what it is good for lies above ambient, such as %s", u.Show(k.RatingPa, k.DivisionPa()))
		}
		k.RatingPa = v.Low
	}
	got, _, err := put(ctx, s, w, k, func(tx *logbook.Tx, st logbook.Stamp) (KitGauge, error) {
		return k, addKit(tx, st, "gauge", k)
	})
	return got, err
}

// mapOf finds a register map by its id.
func (s *Shop) mapOf(id string) (gauges.RegisterMap, error) {
	maps, wrong, err := s.maps()
	if err != nil {
		return gauges.RegisterMap{}, err
	}
	var have []string
	for _, m := range maps {
		if m.ID == id {
			return m, nil
		}
		have = append(have, m.ID)
	}
	for file, says := range wrong {
		have = append(have, fmt.Sprintf("(and %s, which is wrong: %s)", file, says))
	}
	return gauges.RegisterMap{}, refuse("map", "there is no register map %q; there is %s", id, strings.Join(have, ", "))
}

func (s *Shop) gauge(ctx context.Context, id string) (KitGauge, error) {
	all, err := kitOf[KitGauge](ctx, s, "gauge", true)
	if err != nil {
		return KitGauge{}, err
	}
	for _, g := range all {
		if g.ID == id {
			return g, nil
		}
	}
	return KitGauge{}, refuse("gauge", "there is no gauge %q in the kit", id)
}
