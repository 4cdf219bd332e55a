package physics

import "math"

// StoredEnergy is the work (J) that a gas at a gauge pressure (Pa) in a volume
// (m³) frees when it lets go and expands adiabatically to ambient (Pa absolute);
// less is the same without what pushing the air around away takes (PHYSICS §8).
// Nothing is stored in a vacuum's own gas: both are 0.
func StoredEnergy(gaugePa, gasM3, ambientPa float64) (whole, less float64) {
	if gaugePa <= 0 {
		return 0, 0
	}
	const g = gammaAir
	p := gaugePa + ambientPa
	whole = p * gasM3 / (g - 1) * (1 - math.Pow(ambientPa/p, (g-1)/g))
	expanded := gasM3 * math.Pow(p/ambientPa, 1/g)
	return whole, whole - ambientPa*(expanded-gasM3)
}

// HammerBlowJ is a hard blow with a hammer, to set an energy beside.
const HammerBlowJ = 100.0

// Thrust is the force (N) of a gauge pressure (Pa) on an area (m²).
func Thrust(gaugePa, areaM2 float64) float64 { return gaugePa * areaM2 }

// Circle is the area (m²) of a diameter (m).
func Circle(d float64) float64 { return math.Pi / 4 * d * d }
