package physics

import "math"

// Properties used by the flow laws (PHYSICS §3).
const (
	gammaAir = 1.4
	gasAir   = 287.05  // J/(kg·K)
	MuAir    = 1.82e-5 // Pa·s, air at 20 °C
	// DischargeCoefficient is used unless a better one is known.
	DischargeCoefficient = 0.65
)

// Coolant is what a cooling loop loses: water–glycol 50 %.
const (
	MuCoolantHot  = 0.8e-3 // Pa·s at 90 °C
	MuCoolantCold = 3.9e-3 // Pa·s at 20 °C
	// ExpansionCoolant is by how much it outgrows the metal around it, per K.
	ExpansionCoolant = 4.2e-4
)

// StandardFlow turns a loss of pressure (Pa/s, positive when losing) from an
// effective volume (m³) at a temperature (K) into standard flow (m³/s).
func StandardFlow(rate, vEff, tempK float64) float64 {
	return vEff / StandardPa * StandardK / tempK * rate
}

// RateOfFlow is the inverse of StandardFlow: Pa/s.
func RateOfFlow(flow, vEff, tempK float64) float64 {
	return flow * StandardPa / vEff * tempK / StandardK
}

// OrificeFlux is the isentropic mass flow of air per area and discharge
// coefficient, kg/(s·m²), from p1 to p2 (Pa absolute): choked below a ratio of 0.5283.
func OrificeFlux(p1, p2, tempK float64) float64 {
	if p1 <= p2 || p1 <= 0 {
		return 0
	}
	const g = gammaAir
	critical := math.Pow(2/(g+1), g/(g-1))
	if r := p2 / p1; r > critical {
		return p1 * math.Sqrt(2*g/((g-1)*gasAir*tempK)*(math.Pow(r, 2/g)-math.Pow(r, (g+1)/g)))
	}
	return p1 * math.Sqrt(g/(gasAir*tempK)) * math.Pow(2/(g+1), (g+1)/(2*(g-1)))
}

// OrificeStandardFlow is the standard flow (m³/s) through a round hole of
// diameter d (m).
func OrificeStandardFlow(p1, p2, d, cd, tempK float64) float64 {
	mass := cd * math.Pi / 4 * d * d * OrificeFlux(p1, p2, tempK)
	return mass * gasAir * StandardK / StandardPa
}

// EquivalentHole is the diameter (m) of the round hole that passes a standard
// flow (m³/s); 0 where nothing is lost.
func EquivalentHole(flow, p1, p2, tempK float64) float64 {
	return EquivalentHoleOf(flow, p1, p2, DischargeCoefficient, tempK)
}

// EquivalentHoleOf is EquivalentHole with a discharge coefficient of one's own.
func EquivalentHoleOf(flow, p1, p2, cd, tempK float64) float64 {
	one := OrificeStandardFlow(p1, p2, 1, cd, tempK)
	if flow <= 0 || one <= 0 {
		return 0
	}
	return math.Sqrt(flow / one)
}

// LiquidOfGas is the liquid flow (m³/s) that the narrow passage which passed a
// standard gas flow between p1 and p2 (Pa absolute) would pass at a liquid
// pressure difference dp: an upper figure, since surface tension can hold a
// liquid back in the finest pores.
func LiquidOfGas(gasFlow, p1, p2, dp, muLiquid float64) float64 {
	return gasFlow * liquidPerGas(p1, p2, dp, muLiquid)
}

// GasOfLiquid is the inverse of LiquidOfGas.
func GasOfLiquid(liquidFlow, p1, p2, dp, muLiquid float64) float64 {
	return liquidFlow / liquidPerGas(p1, p2, dp, muLiquid)
}

func liquidPerGas(p1, p2, dp, muLiquid float64) float64 {
	return 2 * StandardPa * dp * MuAir / ((p1*p1 - p2*p2) * muLiquid)
}

// Law is how a leak's flow depends on pressure.
type Law string

// Laws of a leak into the air.
const (
	Laminar Law = "laminar" // a crack or weep: flow ∝ p² − p_a²
	Orifice Law = "orifice" // a hole
	Liquid  Law = "liquid"  // liquid weeping from below the gas, which grows as it leaves
)

// Drive is the law's flow at a gauge pressure, relative: only ratios of it mean
// anything. It carries the sign of the gauge pressure.
func (l Law) Drive(gaugePa, ambientPa float64) float64 {
	p := math.Max(0, gaugePa+ambientPa)
	if l == Laminar {
		return p*p - ambientPa*ambientPa
	}
	if l == Liquid {
		// dp/dt = −p·q/V with p·V constant and, as weeps do, q ∝ ΔP (PHYSICS §3).
		return p * p * gaugePa
	}
	if gaugePa >= 0 {
		return OrificeFlux(p, ambientPa, StandardK)
	}
	return -OrificeFlux(ambientPa, p, StandardK)
}
