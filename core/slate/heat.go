package slate

import (
	"fmt"
	"math"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

var boiling = Calculator{
	ID: "boiling", Title: "Boiling point and margin", Formula: "x_w·p_sat(T) = p; p_sat by IAPWS-IF97, x_w the mole fraction of water",
	Fields: []Field{
		{ID: "cap", Label: "Cap", Kind: Kind(quantity.Pressure), Unit: "kPa", Help: "such as 110 kPa or 16 psi"},
		{ID: "holds", Label: "What it really holds", Kind: Kind(quantity.Pressure), Unit: "kPa", Optional: true, Help: "to see the margin lost"},
		{ID: "coolant", Label: "Coolant", Kind: Pick, Default: string(physics.EthyleneGlycol), Choices: []string{string(physics.Water), string(physics.EthyleneGlycol), string(physics.PropyleneGlycol)}},
		{ID: "glycol", Label: "Glycol by volume", Kind: Percent, Default: "50 %"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		c, share := physics.Coolant(in.texts["coolant"]), in.SI("glycol")
		if _, err := physics.WaterShare(c, share); err != nil {
			return Answer{}, FieldError{"glycol", err}
		}
		celsius := func(id, label, field string, gauge float64) (Figure, error) {
			k, err := physics.BoilingPoint(c, share, gauge+in.ambient)
			if err != nil {
				return Figure{}, FieldError{field, err}
			}
			f := told(id, label, k, "°C", quantity.Warmth)
			f.Text = quantity.Fixed(f.Value, 1) + " °C"
			return f, nil
		}
		at, err := celsius("boils_c", "Boils under the cap at", "cap", in.SI("cap"))
		if err != nil {
			return Answer{}, err
		}
		open, err := celsius("boils_open_c", "Boils open at", "cap", 0)
		if err != nil {
			return Answer{}, err
		}
		a := Answer{Sentence: fmt.Sprintf("It boils at %s under the cap, %s K above an open pot.", at.Text, quantity.Fixed(at.Value-open.Value, 1)), Figures: []Figure{at, open}}
		if in.Given("holds") {
			held, err := celsius("boils_held_c", "Boils at what it holds", "holds", in.SI("holds"))
			if err != nil {
				return Answer{}, err
			}
			lost := at.Value - held.Value
			a.Figures = append(a.Figures, held, Figure{ID: "margin_lost_k", Label: "Margin lost", Value: lost, Text: quantity.Fixed(lost, 1) + " K"})
			a.Sentence = fmt.Sprintf("It boils at %s instead of %s: %s K of margin is lost.", held.Text, at.Text, quantity.Fixed(lost, 1))
		}
		if c != physics.Water && share > 0.6 {
			a.Notes = append(a.Notes, "Beyond 60 % of glycol this is only a guide.")
		}
		return a, nil
	},
}

var temperature = Calculator{
	ID: "temperature", Title: "What a change of temperature does", Formula: "dry: p ∝ T; with liquid: dp/dT = p·(V_g/T + β·V_l)/V, β = 4.2·10⁻⁴ /K",
	Fields: []Field{
		atField,
		{ID: "from", Label: "From", Kind: Kind(quantity.Warmth), Unit: "°C", Help: "such as 20 °C"},
		{ID: "to", Label: "To", Kind: Kind(quantity.Warmth), Unit: "°C", Help: "such as 25 °C"},
		{ID: "gas", Label: "Trapped air", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "where there is liquid too"},
		{ID: "liquid", Label: "Liquid", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "such as 7 L; empty for a dry system"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		if in.Given("liquid") && !in.Given("gas") {
			return Answer{}, wrong("gas", "with liquid in it the trapped air is needed too")
		}
		d := physics.TemperatureEffect(in.SI("at")+in.ambient, in.SI("gas"), in.SI("liquid"), in.SI("from"), in.SI("to"))
		perK := d
		if k := in.SI("to") - in.SI("from"); k != 0 {
			perK = d / k
		}
		way := "rises"
		if d < 0 {
			way = "falls"
		}
		a := Answer{Sentence: fmt.Sprintf("The pressure %s by %s kPa from that alone: %s kPa a K.", way, quantity.Significant(math.Abs(d)/1e3, 2), quantity.Significant(perK/1e3, 2)),
			Figures: []Figure{told("change_kpa", "Change", d, "kPa", quantity.Pressure), plain("kpa_per_k", "A kelvin", perK/1e3, "kPa")}}
		if in.Given("liquid") && in.SI("to") > 343 {
			a.Notes = append(a.Notes, "Hot coolant adds vapour pressure, about 2 kPa a K near 90 °C: judge a hot one by place and rise.")
		}
		return a, nil
	},
}

var precharge = Calculator{
	ID: "precharge", Title: "Precharge at this temperature", Formula: "p(T) = p₂₀·T/293.15, absolute; Δm = Δp·V/(296.8·T)",
	Fields: []Field{
		{ID: "at20", Label: "Precharge at 20 °C", Kind: Kind(quantity.Pressure), Unit: "bar", Help: "such as 30 bar"}, warmthField,
		{ID: "found", Label: "Found", Kind: Kind(quantity.Pressure), Unit: "bar", Optional: true, Help: "to find the nitrogen to add"},
		{ID: "volume", Label: "Gas volume", Kind: Kind(quantity.Volume), Unit: "L", Optional: true},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		t := in.SI("temperature")
		p := physics.Precharge(in.SI("at20"), t, in.ambient)
		a := Answer{Sentence: fmt.Sprintf("It should show %s bar now.", quantity.Significant(p/1e5, 3)), Figures: []Figure{told("precharge_bar", "Should show", p, "bar", quantity.Pressure)},
			Notes: []string{"Only dry nitrogen. Charging warms it: read again when it has settled."}}
		if in.Given("found") && in.Given("volume") {
			kg := physics.NitrogenMass(p-in.SI("found"), in.SI("volume"), t)
			way := "add"
			if kg < 0 {
				way = "vent"
			}
			a.Figures = append(a.Figures, plain("nitrogen_g", "Nitrogen to "+way, kg*1e3, "g"))
		}
		return a, nil
	},
}

var energy = Calculator{
	ID: "energy", Title: "Stored energy and thrust", Formula: "E = p₁·V/(γ−1)·[1 − (p_a/p₁)^((γ−1)/γ)]; thrust = P·A",
	Fields: []Field{
		atField,
		{ID: "gas", Label: "Gas in it", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "air, not the water that fills the rest"},
		{ID: "diameter", Label: "Across the plug or plate", Kind: Kind(quantity.Length), Unit: "mm", Optional: true},
		{ID: "area", Label: "Or its area", Kind: Kind(quantity.Area), Unit: "cm²", Optional: true},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		p := in.SI("at")
		if p <= 0 {
			return Answer{}, wrong("at", "only pressure above ambient is worked out here")
		}
		var a Answer
		if in.Given("gas") {
			whole, less := physics.StoredEnergy(p, in.SI("gas"), in.ambient)
			a.Sentence = fmt.Sprintf("If it lets go it frees %s J", quantity.Significant(whole, 2))
			if blows := whole / physics.HammerBlowJ; blows >= 1.5 {
				a.Sentence += fmt.Sprintf(": %s hard hammer blows at once", quantity.Significant(blows, 2))
			}
			a.Sentence += ". "
			a.Figures = append(a.Figures, plain("energy_j", "Stored energy", whole, "J"), plain("energy_less_atmosphere_j", "Less pushing the air away", less, "J"))
			if whole > physics.HammerBlowJ {
				a.Notes = append(a.Notes, "Fill it with water but for a little air, put up a shield, or use less pressure.")
			}
		}
		if in.Given("diameter") || in.Given("area") {
			area := in.SI("area")
			if in.Given("diameter") {
				area = physics.Circle(in.SI("diameter"))
			}
			n := physics.Thrust(p, area)
			a.Sentence += fmt.Sprintf("It pushes with %s N, the weight of %s kg.", quantity.Significant(n, 3), quantity.Significant(n/9.80665, 2))
			a.Figures = append(a.Figures, plain("thrust_n", "Thrust", n, "N"))
		}
		if len(a.Figures) == 0 {
			return a, wrong("gas", "give the gas in it, for the energy, or the size of a plug or plate, for the thrust")
		}
		return a, nil
	},
}
