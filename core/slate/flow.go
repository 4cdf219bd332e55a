package slate

import (
	"fmt"
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// ends are the absolute pressures a leak flows between, from the higher.
func (in Inputs) ends() (p1, p2 float64) {
	p := in.SI("at") + in.ambient
	return math.Max(p, in.ambient), math.Min(p, in.ambient)
}

const um, mlPerHour = 1e6, 3600e6

// drops is how a small loss is seen: a drop is about a twentieth of a mL.
func drops(m3PerS float64) string {
	switch every := 0.05e-6 / m3PerS; {
	case m3PerS <= 0 || every > 86400:
		return "less than a drop a day"
	case every > 5400:
		return fmt.Sprintf("about a drop in %s hours", quantity.Significant(every/3600, 2))
	case every > 90:
		return fmt.Sprintf("about a drop in %s minutes", quantity.Significant(every/60, 2))
	case every > 1.5:
		return fmt.Sprintf("about a drop in %s seconds", quantity.Significant(every, 2))
	}
	return "a trickle"
}

var flow = Calculator{
	ID: "flow", Title: "From a fall to the leak", Formula: "Q = (V/p_std)·(T_std/T)·fall; hole by isentropic flow, C_d 0.65; liquid: q = Q·2·p_std·ΔP·µ_gas/((p₁² − p₂²)·µ_liq) behind air, q = V·fall/p below the liquid",
	Fields: []Field{
		{ID: "fall", Label: "Steady fall", Kind: Rate, Help: "such as 1 kPa in 5 min, after settling"}, gasField, atField, warmthField, ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		if in.SI("at") == 0 {
			return Answer{}, wrong("at", "the pressure is zero: type the test pressure, such as 110 kPa")
		}
		q := physics.StandardFlow(in.SI("fall"), in.SI("gas"), in.SI("temperature"))
		p1, p2 := in.ends()
		doubt := in.share("gas")
		hole := physics.EquivalentHole(q, p1, p2, in.SI("temperature"))
		a := Answer{
			Sentence: fmt.Sprintf("The leak is %s cm³ of air a minute, as through a hole of %s µm.", quantity.Significant(q*60e6, 3), quantity.Significant(hole*um, 2)),
			Figures: []Figure{inUnit("flow_cm3_per_min", "Flow", q, "cm³/min", quantity.Flow).between(doubt),
				inUnit("hole_um", "Equivalent hole", hole, "µm", quantity.Length).between(doubt / 2)},
		}
		if in.SI("at") > 0 {
			hot := physics.LiquidOfGas(q, p1, p2, in.SI("at"), physics.MuCoolantHot)
			a.Figures = append(a.Figures,
				inUnit("coolant_hot_ml_per_h", "Through the same leak: hot coolant, at most", hot, "mL/h", quantity.Flow).between(doubt),
				inUnit("coolant_cold_ml_per_h", "Through the same leak: cold coolant", hot*physics.MuCoolantHot/physics.MuCoolantCold, "mL/h", quantity.Flow).between(doubt),
				inUnit("weep_ml_per_h", "If the leak is below the liquid line", in.SI("gas")*in.SI("fall")/(in.SI("at")+in.ambient), "mL/h", quantity.Flow).between(doubt))
			a.Notes = []string{"Hot coolant: " + drops(hot) + ". This is an upper figure: very fine pores hold liquid back."}
		}
		return a, nil
	},
}

var hole = Calculator{
	ID: "hole", Title: "Hole and flow of gas", Formula: "ṁ = C_d·A·p₁·ψ(p₂/p₁), choked below 0.5283; narrow passage of length L: Q = π·d⁴·(p₁² − p₂²)/(256·µ·L·p_std)",
	Fields: []Field{
		{ID: "flow", Label: "Flow", Kind: Kind(quantity.Flow), Unit: "cm³/min", Optional: true, Help: "to get the hole; or"},
		{ID: "diameter", Label: "Diameter", Kind: Kind(quantity.Length), Unit: "µm", Optional: true, Help: "to get the flow"},
		{ID: "length", Label: "Length of a narrow passage", Kind: Kind(quantity.Length), Unit: "mm", Optional: true, Help: "leave empty for a plain hole"},
		atField,
		{ID: "cd", Label: "Discharge coefficient", Kind: Number, Default: "0.65"},
		warmthField, ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		p1, p2 := in.ends()
		t, cd := in.SI("temperature"), in.SI("cd")
		long := in.Given("length")
		of := func(d float64) float64 {
			if long {
				return physics.PassageStandardFlow(p1, p2, d, in.SI("length"), physics.MuAir, t)
			}
			return physics.OrificeStandardFlow(p1, p2, d, cd, t)
		}
		var d, q float64
		switch {
		case in.Given("flow") == in.Given("diameter"):
			return Answer{}, wrong("flow", "type the flow to get the hole, or the diameter to get the flow")
		case in.Given("diameter"):
			d = in.SI("diameter")
			q = of(d)
		case of(1) <= 0:
			return Answer{}, wrong("at", "the pressure is zero: type the test pressure, such as 110 kPa")
		case long:
			q = in.SI("flow")
			d = math.Pow(q/of(1), 0.25)
		default:
			q = in.SI("flow")
			d = physics.EquivalentHoleOf(q, p1, p2, cd, t)
		}
		a := Answer{Figures: []Figure{inUnit("flow_cm3_per_min", "Flow", q, "cm³/min", quantity.Flow), inUnit("diameter_um", "Diameter", d, "µm", quantity.Length)},
			Sentence: fmt.Sprintf("A hole of %s µm passes %s cm³ a minute.", quantity.Significant(d*um, 3), quantity.Significant(q*60e6, 3))}
		if long && in.SI("length") > 0 {
			re, holds := physics.PassageHolds(q, d, in.SI("length"), physics.MuAir)
			a.Figures = append(a.Figures, plain("reynolds", "Reynolds number", re, ""))
			if !holds {
				a.Notes = append(a.Notes, "The passage is too short or the flow too fast for this formula: less will pass.")
			}
		}
		if !long && q > 0 && p2/p1 <= 0.5283 {
			a.Notes = append(a.Notes, "Choked flow: only the inner pressure changes it.")
		}
		return a, nil
	},
}

var liquid = Calculator{
	ID: "liquid", Title: "Hole and flow of liquid", Formula: "hole: q = C_d·A·√(2·ΔP/ρ); narrow passage: q = π·d⁴·ΔP/(128·µ·L)",
	Fields: []Field{
		{ID: "diameter", Label: "Diameter", Kind: Kind(quantity.Length), Unit: "µm", Help: "such as 100 µm"},
		{ID: "length", Label: "Length of a narrow passage", Kind: Kind(quantity.Length), Unit: "mm", Optional: true, Help: "leave empty for a plain hole"},
		atField,
		{ID: "density", Label: "Density, kg/m³", Kind: Number, Default: "1030", Help: "coolant 1070 cold, 1030 hot; oil 870"},
		{ID: "viscosity", Label: "Viscosity, mPa·s", Kind: Number, Default: "0.8", Help: "coolant 3.9 cold, 0.8 hot; oil 30"},
		{ID: "cd", Label: "Discharge coefficient", Kind: Number, Default: "0.65"},
	},
	work: func(in Inputs) (Answer, error) {
		dp := in.SI("at")
		if dp <= 0 || in.SI("density") <= 0 || in.SI("viscosity") <= 0 {
			return Answer{}, wrong("at", "pressure, density and viscosity must be above zero")
		}
		q := physics.LiquidOrificeFlow(dp, in.SI("diameter"), in.SI("density"), in.SI("cd"))
		if in.Given("length") {
			q = physics.LiquidPassageFlow(dp, in.SI("diameter"), in.SI("length"), in.SI("viscosity")*1e-3)
		}
		return Answer{Sentence: fmt.Sprintf("%s mL an hour: %s.", quantity.Significant(q*mlPerHour, 3), drops(q)),
			Figures: []Figure{inUnit("liquid_ml_per_h", "Loss", q, "mL/h", quantity.Flow), plain("liquid_m3_per_s", "Loss, SI", q, "m³/s")}}, nil
	},
}

var loss = Calculator{
	ID: "loss", Title: "From gas lost to liquid lost", Formula: "q = Q·2·p_std·ΔP·µ_gas/((p₁² − p₂²)·µ_liq), the same narrow passage",
	Fields: []Field{
		{ID: "flow", Label: "Gas lost in the test", Kind: Kind(quantity.Flow), Unit: "cm³/min", Help: "such as 3 cm³/min"}, atField,
		{ID: "running", Label: "Pressure when running", Kind: Kind(quantity.Pressure), Unit: "kPa", Optional: true, Help: "empty: as in the test"},
		{ID: "viscosity", Label: "Viscosity, mPa·s", Kind: Number, Default: "0.8", Help: "coolant 3.9 cold, 0.8 hot"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		if in.SI("at") <= 0 || in.SI("viscosity") <= 0 {
			return Answer{}, wrong("at", "the test pressure and the viscosity must be above zero")
		}
		p1, p2 := in.ends()
		dp := in.SI("at")
		if in.Given("running") {
			dp = in.SI("running")
		}
		q := physics.LiquidOfGas(in.SI("flow"), p1, p2, dp, in.SI("viscosity")*1e-3)
		return Answer{Sentence: fmt.Sprintf("At most %s mL an hour: %s.", quantity.Significant(q*mlPerHour, 3), drops(q)),
			Figures: []Figure{inUnit("liquid_ml_per_h", "Loss, at most", q, "mL/h", quantity.Flow)},
			Notes:   []string{"Surface tension can hold a liquid back altogether in pores below some µm."}}, nil
	},
}

var explain = Calculator{
	ID: "explain", Title: "Does the leak explain the loss?", Formula: "mL an hour × hours under pressure, against what was topped up",
	Fields: []Field{
		{ID: "loss", Label: "Leak when running", Kind: Kind(quantity.Flow), Unit: "mL/h", Help: "such as 3 mL/h"},
		{ID: "added", Label: "Topped up", Kind: Kind(quantity.Volume), Unit: "L", Help: "such as 0.5 L"},
		{ID: "within", Label: "Within", Kind: Kind(quantity.Time), Unit: "d", Help: "such as 14 d"},
		{ID: "running", Label: "Hours a day under pressure", Kind: Number, Default: "8"},
	},
	work: func(in Inputs) (Answer, error) {
		hours := in.SI("running")
		if hours <= 0 || hours > 24 || in.SI("within") <= 0 {
			return Answer{}, wrong("running", "type 0 to 24 hours a day, and a period such as 14 d")
		}
		lost := in.SI("loss") * in.SI("within") * hours / 24
		share := lost / in.SI("added")
		return Answer{Sentence: judge.ExplainsLoss(share), Figures: []Figure{inUnit("lost_ml", "This leak loses in that time", lost, "mL", quantity.Volume), plain("share", "Share of what was topped up", 100*share, "%")}}, nil
	},
}

var bubbles = Calculator{
	ID: "bubbles", Title: "From bubbles to flow", Formula: "Q = f·π·b³/6",
	Fields: []Field{
		{ID: "diameter", Label: "Bubble diameter", Kind: Kind(quantity.Length), Unit: "mm", Help: "such as 3 mm"},
		{ID: "per-second", Label: "Bubbles per second", Kind: Number, Help: "such as 2, or 0.1 for one bubble in 10 s"},
	},
	work: func(in Inputs) (Answer, error) {
		q := physics.BubbleFlow(in.SI("diameter"), in.SI("per-second"))
		return Answer{Sentence: fmt.Sprintf("%s cm³ of gas a minute.", quantity.Significant(q*60e6, 3)),
			Figures: []Figure{inUnit("flow_cm3_per_min", "Flow", q, "cm³/min", quantity.Flow)}, Notes: []string{"10 % more diameter is 33 % more flow: measure with a ruler."}}, nil
	},
}
