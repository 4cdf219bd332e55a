package runsheet

import (
	"math"
	"slices"
)

// Pump squeezes the air in, or draws it out.
type Pump struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	StrokeM3 float64 `json:"stroke_m3"`
	StrokeSE float64 `json:"stroke_se_m3"`
	From     string  `json:"from,omitempty"`  // how the stroke is known
	Draws    bool    `json:"draws,omitempty"` // a vacuum, too
}

// A pump wants so many strokes to get there: fewer tell nothing of the air, more
// tire. Between the two bounds the one last used stays. Shop practice.
const (
	fewStrokes  = 4.0
	goodStrokes = 20.0
	manyStrokes = 120.0
)

// PickPump finds the pump last used where it suits a room (m³) and a pressure (Pa
// gauge), else the one that suits best. all is not empty.
func PickPump(all []Pump, last string, roomM3, atPa, ambientPa float64) Pump {
	if atPa < 0 {
		drawing := slices.DeleteFunc(slices.Clone(all), func(p Pump) bool { return !p.Draws })
		if len(drawing) > 0 {
			all = drawing
		}
	}
	strokes := func(p Pump) float64 { return roomM3 * math.Abs(atPa) / ambientPa / p.StrokeM3 }
	if i := slices.IndexFunc(all, func(p Pump) bool { return p.ID == last }); i >= 0 {
		if n := strokes(all[i]); n == 0 || n > fewStrokes && n < manyStrokes {
			return all[i]
		}
	}
	best := all[0]
	if strokes(best) == 0 {
		return best
	}
	for _, p := range all {
		if math.Abs(math.Log(strokes(p)/goodStrokes)) < math.Abs(math.Log(strokes(best)/goodStrokes)) {
			best = p
		}
	}
	return best
}
