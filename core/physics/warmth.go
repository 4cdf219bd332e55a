package physics

import "math"

// TemperatureEffect is by how much a sealed system's pressure (Pa, absolute p at
// the first temperature) changes between two temperatures (K). Dry gas: p ∝ T;
// with liquid (m³) over the gas, dp/dT = p·(V_g/T + β·V_l)/V_eff, V_g taken as V_eff.
func TemperatureEffect(p, gasM3, liquidM3, fromK, toK float64) float64 {
	rise := 0.0
	if gasM3 > 0 {
		rise = ExpansionCoolant * liquidM3 / gasM3 * (toK - fromK)
	}
	return p*toK/fromK*math.Exp(rise) - p
}
