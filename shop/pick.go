package shop

import (
	"context"
	"math"
	"slices"

	"idlehiss/core/runsheet"
)

// A pump wants so many strokes to get there: fewer tell nothing of the air, more
// tire. Between the two bounds the one last used stays.
const (
	fewStrokes  = 4.0
	goodStrokes = 20.0
	manyStrokes = 120.0
)

// pickPump finds the pump asked for, else the one last used where it suits a room
// (m³) and a pressure, else the one that suits best.
func (s *Shop) pickPump(ctx context.Context, id string, room, atPa float64) (Pump, error) {
	if id != "" {
		all, err := kitOf[Pump](ctx, s, "pump", true)
		if err != nil {
			return Pump{}, err
		}
		for _, p := range all {
			if p.ID == id {
				return p, nil
			}
		}
		return Pump{}, refuse("pump", "there is no pump %q in the kit", id)
	}
	last, err := s.book.Setting(ctx, "last pump")
	if err != nil {
		return Pump{}, err
	}
	all, err := s.Pumps(ctx)
	if err != nil {
		return Pump{}, err
	}
	if drawing := slices.Clone(all); atPa < 0 {
		if drawing = slices.DeleteFunc(drawing, func(p Pump) bool { return !p.Draws }); len(drawing) > 0 {
			all = drawing
		}
	}
	strokes := func(p Pump) float64 { return room * math.Abs(atPa) / s.ambient / p.StrokeM3 }
	if i := slices.IndexFunc(all, func(p Pump) bool { return p.ID == last }); i >= 0 {
		if n := strokes(all[i]); n == 0 || n > fewStrokes && n < manyStrokes {
			return all[i], nil
		}
	}
	best := all[0] // the last one in use cannot be retired
	if strokes(best) == 0 {
		return best, nil
	}
	for _, p := range all {
		if math.Abs(math.Log(strokes(p)/goodStrokes)) < math.Abs(math.Log(strokes(best)/goodStrokes)) {
			best = p
		}
	}
	return best, nil
}

// pickGauge finds the gauge asked for, else one on which the pressure of a step can
// be read well; exact where it is a figure of the step's own, not one of a mark that
// is rounded anyway.
func (s *Shop) pickGauge(ctx context.Context, in *Plan, atPa float64, exact bool) (KitGauge, error) {
	if in.Gauge != "" {
		g, err := s.gauge(ctx, in.Gauge)
		if err == nil && in.Ring < len(g.Rings) {
			g.Read = in.Ring
		}
		return g, err
	}
	last, err := s.book.Setting(ctx, "last gauge")
	if err != nil {
		return KitGauge{}, err
	}
	all, err := s.Gauges(ctx)
	if err != nil {
		return KitGauge{}, err
	}
	if atPa == 0 {
		if i := slices.IndexFunc(all, func(g KitGauge) bool { return g.ID == last }); i >= 0 {
			return all[i], nil
		}
		return all[0], nil
	}
	// The last one, where the pressure stands in the middle of it; else another that
	// suits; else what can be read at all. Nobody measures with a simulated one by chance.
	best, least := all[0], math.Inf(1) // the last one in use cannot be retired; the plan says where it does not fit
	for _, g := range all {
		for i := range g.Rings {
			face := g
			face.Read = i
			if !readable(face.Gauge, atPa) {
				continue
			}
			rank := 1.0
			switch {
			case g.ID == last:
				rank = 0
			case g.StandIn != nil, g.Wire != nil, g.Posted: // it stands somewhere, or nowhere
				rank = 4
			}
			if fit := face.Fit(atPa, 0, 0); !fit.Fits {
				rank += 2
			}
			// The ring on which it stands at a printed mark, else the one usually read.
			if d := math.Mod(math.Abs(atPa), face.DivisionPa()) / face.DivisionPa(); exact && d > 0.02 && d < 0.98 {
				rank += 0.4
			}
			if i != g.Read {
				rank += 0.3
			}
			if rank < least {
				best, least = face, rank
			}
		}
	}
	return best, nil
}

// readable tells whether a pressure stands well on the ring that is read.
func readable(g runsheet.Gauge, pa float64) bool {
	r, u := g.Ring()
	low, high := u.SI(r.From), u.SI(r.To)
	return pa <= high && pa >= low && math.Abs(pa) >= 5*u.SI(r.Division) && (g.RatingPa == 0 || pa <= g.RatingPa)
}
