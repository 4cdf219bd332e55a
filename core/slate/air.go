package slate

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

func airAnswer(m3, low, high, se float64, says string) Answer {
	f := inUnit("gas_l", "Trapped air", m3, "L", quantity.Volume)
	if high > low {
		l, h := low*1e3, high*1e3
		f.Low, f.High = &l, &h
	}
	return Answer{Sentence: says, Figures: []Figure{f}, Air: &FoundAir{M3: m3, SE: se}}
}

// airOf answers for a volume that one formula gives, with the doubt of what was typed.
func airOf(in Inputs, field string, formula func(Inputs) (float64, error)) (Answer, error) {
	v, err := formula(in)
	if err != nil {
		return Answer{}, FieldError{field, err}
	}
	se := in.doubt(func(in Inputs) float64 {
		v, err := formula(in)
		if err != nil {
			return math.NaN()
		}
		return v
	})
	return airAnswer(v, math.Max(0, v-1.96*se), v+1.96*se, se, fmt.Sprintf("There is %s L of air.", quantity.Significant(v*1e3, 3))), nil
}

var strokeField = Field{ID: "stroke", Label: "A stroke of the pump", Kind: Kind(quantity.Volume), Unit: "cm³", Help: "such as 30 cm³ ± 1.5 cm³"}

var lastWord = regexp.MustCompile(`^(.*?[\d.,])\s*([^\d\s.,;].*)$`)

var volume = Calculator{
	ID: "volume", Title: "Trapped air from strokes", Formula: "V = p_a·V_s·Δn/ΔP, least squares over the strokes",
	Fields: []Field{
		strokeField,
		{ID: "readings", Label: "Pressure before the first stroke and after each", Kind: Text, Help: "such as 0 6.5 13 20 26.5 33 kPa"},
		{ID: "skip", Label: "Readings to skip at the start", Kind: Number, Default: "2"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		text := strings.TrimSpace(in.texts["readings"])
		unit := ""
		if m := lastWord.FindStringSubmatch(text); m != nil {
			text, unit = m[1], m[2]
		}
		if unit == "" && in.bare {
			unit = "kPa"
		}
		var pts []physics.StrokePoint
		for i, word := range strings.Fields(strings.ReplaceAll(text, ";", " ")) {
			v, err := quantity.Parse(word+" "+unit, quantity.Pressure, quantity.Unit{}, in.ambient)
			if err != nil {
				return Answer{}, FieldError{"readings", err}
			}
			if v.Bare {
				return Answer{}, wrong("readings", "the readings have no unit; type it after the last one, as in 0 6.5 13 kPa")
			}
			pts = append(pts, physics.StrokePoint{Stroke: float64(i), GaugePa: v.Low})
		}
		air, err := physics.TrappedAirFromStrokes(pts, int(in.SI("skip")), in.SI("stroke"), in.ambient)
		if err != nil {
			return Answer{}, FieldError{"readings", err}
		}
		se := math.Hypot(air.SE, air.M3*in.share("stroke"))
		low, high := math.Min(air.LowM3, air.M3-1.96*se), math.Max(air.HighM3, air.M3+1.96*se)
		a := airAnswer(air.M3, low, high, math.Max(se, (high-low)/3.92), fmt.Sprintf("Trapped air: about %s L.", quantity.Significant(air.M3*1e3, 3)))
		a.Air.ByStrokes = true
		a.Figures = append(a.Figures, inUnit("climb_kpa", "Rise per stroke", air.SlopePaPerPoint, "kPa", quantity.Pressure))
		if air.Bent {
			a.Notes = append(a.Notes, "The strokes do not lie on a line: soft hose, leaking pump valve, or a large leak.")
		}
		return a, nil
	},
}

var volumeDrawn = Calculator{
	ID: "volume-drawn", Title: "Trapped air from liquid drawn off", Formula: "V = ΔV/(slope₁/slope₂ − 1)",
	Fields: []Field{
		{ID: "drawn", Label: "Liquid drawn off", Kind: Kind(quantity.Volume), Unit: "mL", Help: "such as 500 mL"},
		{ID: "before", Label: "Rise per stroke before", Kind: Kind(quantity.Pressure), Unit: "kPa"},
		{ID: "after", Label: "Rise per stroke after", Kind: Kind(quantity.Pressure), Unit: "kPa"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		work := func(in Inputs) (air, stroke float64, err error) {
			return physics.TrappedAirFromDrawn(in.SI("drawn"), in.SI("before"), in.SI("after"), in.ambient)
		}
		a, err := airOf(in, "after", func(in Inputs) (float64, error) {
			v, _, err := work(in)
			return v, err
		})
		if err != nil {
			return a, err
		}
		_, stroke, err := work(in)
		if err != nil {
			return a, err
		}
		a.Air.ByStrokes = true
		a.Sentence = fmt.Sprintf("There was %s L of air, and a stroke of the pump is %s cm³.", quantity.Significant(a.Air.M3*1e3, 3), quantity.Significant(stroke*1e6, 3))
		a.Figures = append(a.Figures, inUnit("stroke_cm3", "A stroke of the pump", stroke, "cm³", quantity.Volume))
		a.Notes = []string{"This is the air before drawing off."}
		return a, nil
	},
}

var volumeVessel = Calculator{
	ID: "volume-vessel", Title: "Trapped air from a known vessel", Formula: "P₁·V = P₂·(V + V₂), gauge, the vessel standing at ambient",
	Fields: []Field{
		{ID: "vessel", Label: "Vessel", Kind: Kind(quantity.Volume), Unit: "L", Help: "such as 1 L"},
		{ID: "before", Label: "Pressure before the vessel was connected", Kind: Kind(quantity.Pressure), Unit: "kPa"},
		{ID: "after", Label: "Pressure after", Kind: Kind(quantity.Pressure), Unit: "kPa"},
	},
	work: func(in Inputs) (Answer, error) {
		return airOf(in, "after", func(in Inputs) (float64, error) {
			return physics.TrappedAirFromVessel(in.SI("before"), in.SI("after"), in.SI("vessel"))
		})
	},
}

var volumeLeak = Calculator{
	ID: "volume-leak", Title: "Trapped air from a known leak", Formula: "V = Q·p_std/(fall with − fall without)",
	Fields: []Field{
		{ID: "flow", Label: "Flow of the known leak", Kind: Kind(quantity.Flow), Unit: "cm³/min", Help: "such as 10 cm³/min"},
		{ID: "without", Label: "Fall without it", Kind: Rate, Help: "such as 1 kPa in 5 min"},
		{ID: "with", Label: "Fall with it", Kind: Rate, Help: "such as 8 kPa in 5 min"},
	},
	work: func(in Inputs) (Answer, error) {
		return airOf(in, "with", func(in Inputs) (float64, error) {
			return physics.TrappedAirFromLeak(in.SI("without"), in.SI("with"), in.SI("flow"))
		})
	},
}

var stroke = Calculator{
	ID: "stroke", Title: "Pump stroke", Formula: "V_s = π/4·bore²·stroke, ± 5 %; or liquid drawn off over the strokes it took",
	Fields: []Field{
		{ID: "drawn", Label: "Liquid drawn off", Kind: Kind(quantity.Volume), Unit: "mL", Optional: true, Help: "such as 400 mL, drawn from a measuring bottle"},
		{ID: "strokes", Label: "Number of strokes", Kind: Number, Optional: true, Help: "20 strokes or more"},
		{ID: "bore", Label: "Bore", Kind: Kind(quantity.Length), Unit: "mm", Optional: true, Help: "such as 22 mm, if no liquid was drawn off"},
		{ID: "length", Label: "Length of a stroke", Kind: Kind(quantity.Length), Unit: "mm", Optional: true, Help: "such as 80 mm"},
	},
	work: func(in Inputs) (Answer, error) {
		if in.Given("drawn") {
			n := in.SI("strokes")
			if !in.Given("strokes") || n < 1 {
				return Answer{}, wrong("strokes", "type the number of strokes that drew it off, such as 20")
			}
			v := in.SI("drawn") / n
			// What was drawn is read to about its last digit, and the strokes are not
			// all alike.
			share := math.Max(0.02, in.share("drawn"))
			return Answer{Sentence: fmt.Sprintf("A stroke moves %s cm³, measured with liquid.", quantity.Significant(v*1e6, 3)),
				Figures: []Figure{inUnit("stroke_cm3", "A stroke of the pump", v, "cm³", quantity.Volume).between(share)}, Notes: []string{}}, nil
		}
		for _, need := range []string{"bore", "length"} {
			if !in.Given(need) {
				return Answer{}, wrong(need, "type the liquid drawn off and the number of strokes, or the bore and the length of a stroke")
			}
		}
		v := physics.Circle(in.SI("bore")) * in.SI("length")
		f := inUnit("stroke_cm3", "A stroke of the pump", v, "cm³", quantity.Volume).between(0.05 / 1.96)
		return Answer{Sentence: fmt.Sprintf("A stroke moves %s cm³ (± 5 %%).", quantity.Significant(v*1e6, 3)), Figures: []Figure{f},
			Notes: []string{"Some air stays in the pump at the end of a stroke. Measuring with liquid is more exact."}}, nil
	},
}
