package physics

import "math"

// Nitrogen in a vessel that is closed. Up to idealToPa it is taken as an ideal gas, which is within
// about one per cent between 0 and 50 °C; above that by two virial coefficients (docs/PHYSICS.md,
// Gas-charged accumulators): 200 bar at 20 °C is 181 bar at 0 °C, not 186.
const (
	idealToPa   = 6e6          // gauge
	gasConstant = 8.314462618  // J/(mol·K)
	molNitrogen = 28.0134e-3   // kg/mol
	gasNitrogen = 296.8        // J/(kg·K)
	densest     = 40e3         // mol/m³: beyond any vessel
	thirdAt300  = 1500 * 1e-12 // m⁶/mol², the third virial coefficient at 300 K
	thirdFalls  = 0.7          // and the power of the temperature with which it falls
)

// secondVirial is that of nitrogen, m³/mol, through the values of Dymond and Smith (The Virial
// Coefficients of Pure Gases and Mixtures) at 250, 300 and 350 K: −16.2, −4.5 and 3.1 cm³/mol.
func secondVirial(tempK float64) float64 {
	return (35.45 - 7347.5/tempK - 1391250/(tempK*tempK)) * 1e-6
}

// pressureOf is the absolute pressure (Pa) of so many mol in a m³.
func pressureOf(density, tempK float64) float64 {
	third := thirdAt300 * math.Pow(300/tempK, thirdFalls)
	return density * gasConstant * tempK * (1 + density*(secondVirial(tempK)+density*third))
}

// densityOf is the density (mol/m³) at an absolute pressure, Pa.
func densityOf(absPa, tempK float64) float64 {
	low, high := 0.0, densest
	for range 60 {
		mid := (low + high) / 2
		if pressureOf(mid, tempK) < absPa {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}

// NitrogenAt is the gauge pressure (Pa) at one temperature (K) of a closed vessel of nitrogen that
// shows gaugePa at another.
func NitrogenAt(gaugePa, fromK, toK, ambientPa float64) float64 {
	if gaugePa <= idealToPa {
		return (gaugePa+ambientPa)*toK/fromK - ambientPa
	}
	return pressureOf(densityOf(gaugePa+ambientPa, fromK), toK) - ambientPa
}

// Precharge is the gauge pressure (Pa) at a temperature (K) of a gas charge
// specified at 20 °C (PHYSICS §9).
func Precharge(gaugePa, tempK, ambientPa float64) float64 {
	return NitrogenAt(gaugePa, StandardK, tempK, ambientPa)
}

// NitrogenMass is the mass (kg) that brings a vessel (m³) from one gauge pressure to another.
func NitrogenMass(fromPa, toPa, volumeM3, tempK, ambientPa float64) float64 {
	if math.Max(fromPa, toPa) <= idealToPa {
		return (toPa - fromPa) * volumeM3 / (gasNitrogen * tempK)
	}
	return (densityOf(toPa+ambientPa, tempK) - densityOf(fromPa+ambientPa, tempK)) * molNitrogen * volumeM3
}
