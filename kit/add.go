package kit

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/slate"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// NewGauge is a gauge as its face is described, and how it speaks, if by itself.
type NewGauge struct {
	runsheet.Gauge
	Rating  string // the pressure it is good for; "" the end of its scale
	Address string // of one on the wire
	MapID   string // its register map
	Posted  bool
	Case    string // the borrowed case in which it came; "" none
}

// AddGauge takes a gauge into the kit.
func (r *Room) AddGauge(ctx context.Context, w desk.Write, g NewGauge) (Gauge, error) {
	k := Gauge{Gauge: g.Gauge, Posted: g.Posted}
	k.ID, k.Simulated = w.ID, false
	if k.Name == "" {
		return Gauge{}, desk.Refuse("name", "a gauge needs a name to be picked by, such as 'brass tester'")
	}
	if err := k.Gauge.Faults(); err != nil {
		return Gauge{}, desk.Refuse("rings", "%v", err)
	}
	if g.Address != "" {
		m, err := r.mapOf(g.MapID)
		if err != nil {
			return Gauge{}, err
		}
		k.Wire = &gauges.Wire{Address: strings.TrimSpace(g.Address), Map: m}
		if err := k.Wire.Faults(); err != nil {
			return Gauge{}, desk.Refuse("address", "%v", err)
		}
		if _, err := r.desk.GaugesAt.Place(ctx, k.Wire.Address); err != nil {
			return Gauge{}, desk.Refuse("address", "%v", err)
		}
	}
	if k.Kind == terms.Needle && (k.Wire != nil || k.Posted) {
		return Gauge{}, desk.Refuse("kind", "a gauge that speaks by itself has digits, not a needle")
	}
	ring, u := k.Ring()
	k.RatingPa = u.SI(ring.To)
	if g.Rating != "" {
		v, err := quantity.Parse(g.Rating, quantity.Pressure, u, r.desk.AmbientPa)
		switch {
		case err != nil:
			return Gauge{}, desk.Refuse("rating", "%v", err)
		case v.Low <= 0:
			return Gauge{}, desk.Refuse("rating", "what it is good for lies above ambient, such as %s", u.Show(k.RatingPa, k.DivisionPa()))
		}
		k.RatingPa = v.Low
	}
	return k, r.keep(ctx, w, k, g.Case, terms.GaugeKit, k)
}

// mapOf finds a register map by its id.
func (r *Room) mapOf(id string) (gauges.RegisterMap, error) {
	maps, wrong, err := r.maps()
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
	return gauges.RegisterMap{}, desk.Refuse("map", "there is no register map %q; there is %s", id, strings.Join(have, ", "))
}

// NewPump is a pump, its stroke told in one of three ways.
type NewPump struct {
	desk.Write
	Name    string `json:"name" maxLength:"60"`
	Stroke  string `json:"stroke,omitempty" maxLength:"40" doc:"such as 20 cm³ ± 0.6 cm³"`
	Drawn   string `json:"drawn,omitempty" maxLength:"40" doc:"liquid drawn off, such as 400 mL"`
	Strokes string `json:"strokes,omitempty" maxLength:"10" doc:"in so many strokes"`
	Bore    string `json:"bore,omitempty" maxLength:"20" doc:"such as 22 mm"`
	Length  string `json:"length,omitempty" maxLength:"20" doc:"of a stroke, such as 80 mm"`
	Draws   bool   `json:"draws,omitempty" doc:"it draws a vacuum, too"`
	Case    string `json:"case,omitempty" doc:"the borrowed case in which it came"`
}

// AddPump takes a pump into the kit.
func (r *Room) AddPump(ctx context.Context, in NewPump) (desk.Receipt, error) {
	p := runsheet.Pump{ID: in.ID, Name: strings.TrimSpace(in.Name), Draws: in.Draws}
	if p.Name == "" {
		return desk.Receipt{}, desk.Refuse("name", "a pump needs a name to be picked by, such as 'long hand pump'")
	}
	if in.Stroke != "" {
		v, err := quantity.Parse(in.Stroke, quantity.Volume, quantity.MustNamed("cm³", quantity.Volume), r.desk.AmbientPa)
		if err != nil {
			return desk.Receipt{}, desk.Refuse("stroke", "%v", err)
		}
		p.StrokeM3, p.StrokeSE, p.From = v.Mid(), v.SE, "as typed"
		if p.StrokeSE == 0 {
			p.StrokeSE = math.Max(v.Digit/2, 0.03*p.StrokeM3)
		}
	} else {
		typed := map[string]string{}
		for name, text := range map[string]string{"drawn": in.Drawn, "strokes": in.Strokes, "bore": in.Bore, "length": in.Length} {
			if text != "" {
				typed[name] = text
			}
		}
		c, err := slate.Named("stroke")
		if err != nil {
			return desk.Receipt{}, err
		}
		a, err := c.Work(typed, true)
		if err != nil {
			return desk.Receipt{}, desk.AtInput(err)
		}
		f := a.Figures[0]
		p.StrokeM3, p.From = f.Value*1e-6, map[bool]string{true: "from liquid drawn off", false: "from its bore and stroke"}[in.Drawn != ""]
		p.StrokeSE = (*f.High - f.Value) * 1e-6 / 1.96
	}
	if p.StrokeM3 < 1e-8 || p.StrokeM3 > 1e-2 {
		return desk.Receipt{}, desk.Refuse("stroke", "a stroke of %s cm³ is no hand pump's: 1 to 1000 cm³ is usual", quantity.Significant(p.StrokeM3*1e6, 3))
	}
	return desk.Received(in.Write, p.ID, "kit"), r.keep(ctx, in.Write, in, in.Case, terms.PumpKit, p)
}

// NewFitting is an adapter or a plug.
type NewFitting struct {
	desk.Write
	Kind     terms.KitKind   `json:"kind" enum:"adapter,plug"`
	Name     string          `json:"name" maxLength:"60"`
	Families []terms.Fitting `json:"families,omitempty" maxItems:"6" doc:"necks, threads and holes that it fits"`
	Width    string          `json:"width,omitempty" maxLength:"40" doc:"of the neck or hole, such as 38 mm or 36 to 41 mm"`
	Make     terms.Make      `json:"make,omitempty" doc:"of the neck, where that matters"`
	OwnAir   bool            `json:"own_air,omitempty" doc:"it has an air channel of its own: inflated first, deflated last"`
	Fits     string          `json:"fits,omitempty" maxLength:"120" doc:"a note for people"`
	Rating   string          `json:"rating,omitempty" maxLength:"40" doc:"the pressure it is good for, such as 250 kPa"`
	Case     string          `json:"case,omitempty" doc:"the borrowed case in which it came"`
}

// AddFitting takes an adapter or a plug into the kit.
func (r *Room) AddFitting(ctx context.Context, in NewFitting) (desk.Receipt, error) {
	f := Piece{Name: strings.TrimSpace(in.Name), Note: strings.TrimSpace(in.Fits), Fit: runsheet.Fit{Families: in.Families, Make: in.Make, OwnAir: in.OwnAir}}
	if f.Name == "" {
		return desk.Receipt{}, desk.Refuse("name", "a piece of kit needs a name to be picked by, such as 'blue bayonet adapter'")
	}
	var err error
	if f.FromM, f.ToM, err = runsheet.Width(in.Width); err != nil {
		return desk.Receipt{}, desk.Refuse("width", "%v", err)
	}
	if in.Rating != "" {
		v, err := quantity.Parse(in.Rating, quantity.Pressure, quantity.MustNamed("kPa", quantity.Pressure), r.desk.AmbientPa)
		switch {
		case err != nil:
			return desk.Receipt{}, desk.Refuse("rating", "%v", err)
		case v.Low <= 0:
			return desk.Receipt{}, desk.Refuse("rating", "what it is good for lies above ambient, such as 250 kPa")
		}
		f.RatingPa = v.Low
	}
	return desk.Received(in.Write, in.ID, "kit"), r.keep(ctx, in.Write, in, in.Case, in.Kind, f)
}

// keep writes a piece of kit once, and the case in which it came.
func (r *Room) keep(ctx context.Context, w desk.Write, content any, inCase string, kind terms.KitKind, body any) error {
	came, err := r.inCase(ctx, inCase)
	if err != nil {
		return err
	}
	_, ran, err := desk.Put(ctx, r.desk, w, content, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		return desk.Received(w, w.ID, "kit"), errors.Join(add(tx, st, kind, body), came(tx, st))
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: w.ID, Changed: []string{"kit"}})
	}
	return err
}
