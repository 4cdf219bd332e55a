package shop

import (
	"fmt"
	"math"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// air works out the trapped air from the strokes and the last reading after each.
func (l *live) air() *Air {
	var pts []physics.StrokePoint
	strokes, e := 0, 0
	limit := math.Inf(1)
	if l.hold.IsolatedAt != nil {
		limit = l.axis(*l.hold.IsolatedAt)
	}
	for _, r := range l.readings {
		if r.Struck != "" || l.axis(r.At) > limit {
			continue
		}
		for ; e < len(l.events) && !l.events[e].At.After(r.At); e++ {
			switch l.events[e].Kind {
			case trace.Stroke:
				strokes++
			case trace.Bleed:
				// What was let out is not known: the strokes before it tell the air.
				limit = math.Min(limit, l.axis(l.events[e].At))
			}
		}
		if l.axis(r.At) > limit {
			break
		}
		p := physics.StrokePoint{Stroke: float64(strokes), GaugePa: l.traced(r).GaugePa}
		if n := len(pts); n > 0 && pts[n-1].Stroke == p.Stroke {
			continue // the reading nearest the stroke, before it cools
		}
		pts = append(pts, p)
	}
	if len(pts) < 3 {
		return nil
	}
	skip := 0
	for skip < len(pts) && pts[skip].Stroke < 2.5 {
		skip++
	}
	tell := physics.TrappedAirFromStrokes
	if l.draws() {
		tell = physics.TrappedAirFromDraws
	}
	v, err := tell(pts, skip, l.rig.Pump.StrokeM3, l.rig.AmbientPa)
	if err != nil {
		return nil
	}
	// The pump's own stroke is known only so well.
	pump := l.rig.Pump.StrokeSE / l.rig.Pump.StrokeM3
	se := math.Hypot(v.SE, v.M3*pump)
	a := &Air{Litres: v.M3 * 1e3, Low: math.Min(v.LowM3, v.M3-1.96*se) * 1e3, High: math.Max(v.HighM3, v.M3+1.96*se) * 1e3, Bent: v.Bent}
	for _, p := range pts {
		a.Points = append(a.Points, [2]float64{p.Stroke, p.GaugePa})
	}
	a.Says = fmt.Sprintf("About %s L of air is %s (%s to %s).", quantity.Significant(a.Litres, 2), map[bool]string{false: "being squeezed", true: "in there"}[l.draws()], quantity.Significant(a.Low, 2), quantity.Significant(a.High, 2))
	if v.Bent {
		a.Says += " The strokes lie on a curve: a soft hose, a passing pump valve or a leak that competes with the pump."
	}
	return a
}

// airSeen is air, worked out once when no more strokes can come.
func (l *live) airSeen() *Air {
	if l.hold.State == "pumping" {
		return l.air()
	}
	if l.shutAir == nil {
		l.shutAir = l.air()
	}
	return l.shutAir
}

// settle fixes what is judged once the supply is shut: the air is known now, and
// with it the allowance.
func (l *live) settle() {
	l.rig.GasM3, l.rig.GasSE, l.rig.ByStrokes = 0, 0, false
	if a := l.air(); a != nil {
		l.rig.GasM3, l.rig.GasSE, l.rig.ByStrokes = a.Litres*1e-3, (a.High-a.Low)/3.92*1e-3, true
	} else if g := l.rig.Given; g != nil {
		l.rig.GasM3, l.rig.GasSE, l.rig.ByStrokes = g.M3, g.SE, g.ByStrokes
	}
	l.rig.Allowance = l.allowance()
}
