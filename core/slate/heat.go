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
		{ID: "holds", Label: "Pressure the cap really holds", Kind: Kind(quantity.Pressure), Unit: "kPa", Optional: true, Help: "to get the margin lost"},
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
			f := inUnit(id, label, k, "°C", quantity.Warmth)
			f.Text = quantity.Fixed(f.Value, 1) + " °C"
			return f, nil
		}
		at, err := celsius("boils_c", "Boils under the cap at", "cap", in.SI("cap"))
		if err != nil {
			return Answer{}, err
		}
		open, err := celsius("boils_open_c", "Boils without a cap at", "cap", 0)
		if err != nil {
			return Answer{}, err
		}
		a := Answer{Sentence: fmt.Sprintf("It boils at %s under the cap, %s K higher than without a cap.", at.Text, quantity.Fixed(at.Value-open.Value, 1)), Figures: []Figure{at, open}}
		if in.Given("holds") {
			held, err := celsius("boils_held_c", "Boils at the pressure held", "holds", in.SI("holds"))
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
	ID: "temperature", Title: "Temperature change", Formula: "dry: p ∝ T; with liquid: dp/dT = p·(V_g/T + β·V_l)/V, β = 4.2·10⁻⁴ /K",
	Fields: []Field{
		atField,
		{ID: "from", Label: "From", Kind: Kind(quantity.Warmth), Unit: "°C", Help: "such as 20 °C"},
		{ID: "to", Label: "To", Kind: Kind(quantity.Warmth), Unit: "°C", Help: "such as 25 °C"},
		{ID: "gas", Label: "Trapped air", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "needed if there is liquid"},
		{ID: "liquid", Label: "Liquid", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "such as 7 L; empty for a dry system"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		if in.Given("liquid") && !in.Given("gas") {
			return Answer{}, wrong("gas", "with liquid in the circuit, type the trapped air too")
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
		a := Answer{Sentence: fmt.Sprintf("The temperature alone: the pressure %s by %s kPa (%s kPa per K).", way, quantity.Significant(math.Abs(d)/1e3, 2), quantity.Significant(perK/1e3, 2)),
			Figures: []Figure{inUnit("change_kpa", "Change", d, "kPa", quantity.Pressure), plain("kpa_per_k", "A kelvin", perK/1e3, "kPa")}}
		if in.Given("liquid") && in.SI("to") > 343 {
			a.Notes = append(a.Notes, "Hot coolant adds vapour pressure, about 2 kPa per K near 90 °C. On a hot system look for the place of the leak; do not judge the fall.")
		}
		return a, nil
	},
}

var precharge = Calculator{
	ID: "precharge", Title: "Precharge at this temperature", Formula: "to 60 bar p(T) = p₂₀·T/293.15, absolute, and Δm = Δp·V/(296.8·T); above by two virial coefficients",
	Fields: []Field{
		{ID: "at20", Label: "Precharge at 20 °C", Kind: Kind(quantity.Pressure), Unit: "bar", Help: "such as 30 bar"}, warmthField,
		{ID: "found", Label: "Found", Kind: Kind(quantity.Pressure), Unit: "bar", Optional: true, Help: "to get the nitrogen to add"},
		{ID: "volume", Label: "Gas volume", Kind: Kind(quantity.Volume), Unit: "L", Optional: true},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		t := in.SI("temperature")
		p := physics.Precharge(in.SI("at20"), t, in.ambient)
		a := Answer{Sentence: fmt.Sprintf("The gauge should show %s bar at this temperature.", quantity.Significant(p/1e5, 3)), Figures: []Figure{inUnit("precharge_bar", "Should show", p, "bar", quantity.Pressure)},
			Notes: []string{"Dry nitrogen only. Charging warms the gas: let it settle and read again."}}
		if in.Given("found") && in.Given("volume") {
			kg := physics.NitrogenMass(in.SI("found"), p, in.SI("volume"), t, in.ambient)
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
		{ID: "gas", Label: "Gas volume", Kind: Kind(quantity.Volume), Unit: "L", Optional: true, Help: "the air only, without the liquid"},
		{ID: "diameter", Label: "Diameter of the plug or plate", Kind: Kind(quantity.Length), Unit: "mm", Optional: true},
		{ID: "area", Label: "Or its area", Kind: Kind(quantity.Area), Unit: "cm²", Optional: true},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		p := in.SI("at")
		if p <= 0 {
			return Answer{}, wrong("at", "type a pressure above zero: this does not work for vacuum")
		}
		var a Answer
		if in.Given("gas") {
			whole, less := physics.StoredEnergy(p, in.SI("gas"), in.ambient)
			a.Sentence = fmt.Sprintf("If it bursts, it releases %s J", quantity.Significant(whole, 2))
			if blows := whole / physics.HammerBlowJ; blows >= 1.5 {
				a.Sentence += fmt.Sprintf(", as much as %s hard hammer blows", quantity.Significant(blows, 2))
			}
			a.Sentence += ". "
			a.Figures = append(a.Figures, plain("energy_j", "Stored energy", whole, "J"), plain("energy_less_atmosphere_j", "Without the work on the outside air", less, "J"))
			if whole > physics.HammerBlowJ {
				a.Notes = append(a.Notes, "Fill it with liquid to leave little air, use a shield, or use less pressure.")
			}
		}
		if in.Given("diameter") || in.Given("area") {
			area := in.SI("area")
			if in.Given("diameter") {
				area = physics.Circle(in.SI("diameter"))
			}
			n := physics.Thrust(p, area)
			a.Sentence += fmt.Sprintf("It pushes with %s N (%s kg). Stand clear of it.", quantity.Significant(n, 3), quantity.Significant(n/9.80665, 2))
			a.Figures = append(a.Figures, plain("thrust_n", "Thrust", n, "N"))
		}
		if len(a.Figures) == 0 {
			return a, wrong("gas", "type the gas volume to get the energy, or the size of a plug or plate to get the thrust")
		}
		return a, nil
	},
}
