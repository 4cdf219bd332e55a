package physics

import (
	"fmt"
	"math"
)

// Coolant is what fills a cooling loop: water with some share of a glycol.
type Coolant string

// The coolants known.
const (
	Water           Coolant = "water"
	EthyleneGlycol  Coolant = "ethylene glycol"
	PropyleneGlycol Coolant = "propylene glycol"
)

// Molar masses (kg/mol) and densities at 20 °C (kg/m³), PHYSICS §7.
const (
	molarWater, densityWater = 18.015e-3, 998.0
	mostGlycol               = 0.7 // Raoult's law is good to about 1 K up to 0.6
)

var glycols = map[Coolant]struct{ molar, density float64 }{
	EthyleneGlycol:  {62.07e-3, 1113},
	PropyleneGlycol: {76.09e-3, 1036},
}

// WaterShare is the mole fraction of water in a mix with a share of glycol by
// volume, mixed at 20 °C.
func WaterShare(c Coolant, glycol float64) (float64, error) {
	if c == Water || glycol == 0 {
		return 1, nil
	}
	g, ok := glycols[c]
	if !ok {
		return 0, fmt.Errorf("%q is no coolant known here; use %s, %s or %s", c, Water, EthyleneGlycol, PropyleneGlycol)
	}
	if !(glycol > 0 && glycol <= mostGlycol) {
		return 0, fmt.Errorf("%.0f %% of glycol: between 0 and %.0f %% can be worked out", 100*glycol, 100*mostGlycol)
	}
	water, solute := (1-glycol)*densityWater/molarWater, glycol*g.density/g.molar
	return water / (water + solute), nil
}

// BoilingPoint is the temperature (K) at which a coolant boils at an absolute
// pressure (Pa), by Raoult's law: x_w·p_sat(T) = p. Between 2 kPa and 2 MPa.
func BoilingPoint(c Coolant, glycol, absPa float64) (float64, error) {
	x, err := WaterShare(c, glycol)
	if err != nil {
		return 0, err
	}
	if !(absPa >= 2e3 && absPa <= 2e6) {
		return 0, fmt.Errorf("%.4g kPa absolute: between 2 and 2000 can be worked out", absPa/1e3)
	}
	return saturation(absPa / x), nil
}

// saturation is the saturation temperature (K) of water at a pressure (Pa):
// IAPWS-IF97, region 4, backward equation.
func saturation(pa float64) float64 {
	n := &if97
	b := math.Sqrt(math.Sqrt(pa / 1e6))
	e := b*b + n[2]*b + n[5]
	f := n[0]*b*b + n[3]*b + n[6]
	g := n[1]*b*b + n[4]*b + n[7]
	d := 2 * g / (-f - math.Sqrt(f*f-4*e*g))
	return (n[9] + d - math.Sqrt((n[9]+d)*(n[9]+d)-4*(n[8]+n[9]*d))) / 2
}

// if97 are the coefficients of region 4 of IAPWS-IF97.
var if97 = [...]float64{0.11670521452767e4, -0.72421316703206e6, -0.17073846940092e2, 0.12020824702470e5, -0.32325550322333e7,
	0.14915108613530e2, -0.48232657361591e4, 0.40511340542057e6, -0.23855557567849, 0.65017534844798e3}

// VapourPressure is the saturation pressure (Pa) over a coolant at a temperature
// (K), by Raoult's law: x_w·p_sat(T). Between 273 and 500 K.
func VapourPressure(c Coolant, glycol, tempK float64) (float64, error) {
	x, err := WaterShare(c, glycol)
	if err != nil {
		return 0, err
	}
	if !(tempK >= 273 && tempK <= 500) {
		return 0, fmt.Errorf("%.4g K: between 273 and 500 can be worked out", tempK)
	}
	return x * saturationPressure(tempK), nil
}

// saturationPressure is the saturation pressure (Pa) of water at a temperature
// (K): IAPWS-IF97, region 4.
func saturationPressure(t float64) float64 {
	v := t + if97[8]/(t-if97[9])
	a := v*v + if97[0]*v + if97[1]
	b := if97[2]*v*v + if97[3]*v + if97[4]
	c := if97[5]*v*v + if97[6]*v + if97[7]
	q := 2 * c / (-b + math.Sqrt(b*b-4*a*c))
	return q * q * q * q * 1e6
}
