package runsheet

import (
	"math"

	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

// TrappedAir is the air that the pump strokes showed, m³, with the interval in which
// it lies and the points that show it (strokes, Pa).
type TrappedAir struct {
	M3, LowM3, HighM3 float64
	Bent              bool // the strokes do not lie on a line
	Points            [][2]float64
}

const (
	leastPoints = 3   // that tell a slope
	firstStroke = 2.5 // the strokes before it fill hose and gauge
)

// AirFromStrokes works out the trapped air from the strokes of a trace and the first
// reading after each, up to a moment (s; +Inf for all). ok is false where they do not
// tell it. What was bled off is not known, so nothing after it counts.
func AirFromStrokes(tr *trace.Trace, untilS float64, p Pump, ambientPa float64, draws bool) (air TrappedAir, ok bool) {
	var pts []physics.StrokePoint
	strokes, e := 0, 0
	for _, r := range tr.Readings {
		for ; e < len(tr.Events) && tr.Events[e].AtS <= r.AtS; e++ {
			switch tr.Events[e].Kind {
			case trace.Stroke:
				strokes++
			case trace.Bleed:
				untilS = math.Min(untilS, tr.Events[e].AtS)
			}
		}
		if r.AtS > untilS {
			break
		}
		if n := len(pts); n > 0 && pts[n-1].Stroke == float64(strokes) {
			continue // the reading nearest the stroke, before it cools
		}
		pts = append(pts, physics.StrokePoint{Stroke: float64(strokes), GaugePa: r.GaugePa})
	}
	if len(pts) < leastPoints || p.StrokeM3 <= 0 {
		return air, false
	}
	skip := 0
	for skip < len(pts) && pts[skip].Stroke < firstStroke {
		skip++
	}
	tell := physics.TrappedAirFromStrokes
	if draws {
		tell = physics.TrappedAirFromDraws
	}
	v, err := tell(pts, skip, p.StrokeM3, ambientPa)
	if err != nil {
		return air, false
	}
	// The pump's own stroke is known only so well.
	se := math.Hypot(v.SE, v.M3*p.StrokeSE/p.StrokeM3)
	air = TrappedAir{M3: v.M3, LowM3: math.Min(v.LowM3, v.M3-1.96*se), HighM3: math.Max(v.HighM3, v.M3+1.96*se), Bent: v.Bent}
	for _, x := range pts {
		air.Points = append(air.Points, [2]float64{x.Stroke, x.GaugePa})
	}
	return air, true
}

// SE is the standard error of the air, m³.
func (a TrappedAir) SE() float64 { return (a.HighM3 - a.LowM3) / (2 * 1.96) }
