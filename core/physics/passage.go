package physics

import "math"

// PassageStandardFlow is the standard flow (m³/s) of gas of viscosity mu (Pa·s)
// at a temperature (K) through a narrow round passage of diameter d and length
// l (m), laminar and isothermal, from p1 to p2 (Pa absolute).
func PassageStandardFlow(p1, p2, d, l, mu, tempK float64) float64 {
	return math.Pi * math.Pow(d, 4) * (p1*p1 - p2*p2) / (256 * mu * l * StandardPa) * StandardK / tempK
}

// PassageHolds reports whether the laminar law holds: slow enough flow (Reynolds
// number below 2000) and a passage long beside its entrance.
func PassageHolds(standardFlow, d, l, mu float64) (reynolds float64, holds bool) {
	mass := standardFlow * StandardPa / (gasAir * StandardK)
	reynolds = 4 * mass / (math.Pi * d * mu)
	return reynolds, reynolds < 2000 && l > 0.06*reynolds*d
}

// LiquidOrificeFlow is the flow (m³/s) of a liquid of density rho (kg/m³)
// through a round hole of diameter d (m) at a pressure difference dp (Pa).
func LiquidOrificeFlow(dp, d, rho, cd float64) float64 {
	return cd * Circle(d) * math.Sqrt(2*dp/rho)
}

// LiquidPassageFlow is the flow (m³/s) of a liquid of viscosity mu (Pa·s)
// through a narrow round passage, laminar.
func LiquidPassageFlow(dp, d, l, mu float64) float64 {
	return math.Pi * math.Pow(d, 4) * dp / (128 * mu * l)
}

// BubbleFlow is the flow (m³/s) of so many bubbles of a diameter (m) a second.
func BubbleFlow(d, perSecond float64) float64 { return perSecond * math.Pi / 6 * d * d * d }
