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

// Precharge is the gauge pressure (Pa) at a temperature (K) of a gas charge
// specified at 20 °C (PHYSICS §9).
func Precharge(gaugePa, tempK, ambientPa float64) float64 {
	return (gaugePa+ambientPa)*tempK/StandardK - ambientPa
}

// NitrogenMass is the mass (kg) that changes the pressure of a vessel (m³) by dp.
func NitrogenMass(dp, volumeM3, tempK float64) float64 {
	const gasNitrogen = 296.8 // J/(kg·K)
	return dp * volumeM3 / (gasNitrogen * tempK)
}
