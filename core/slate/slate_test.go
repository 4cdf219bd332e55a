package slate

import (
	"errors"
	"math"
	"strings"
	"testing"

	"idlehiss/core/quantity"
)

// typed is a good filling of every calculator, as a person in a shop would type
// it, and what must be told for it.
var typed = map[string]struct {
	fields map[string]string
	figure string
	want   float64
}{
	"mark":          {map[string]string{"text": "16"}, "kpa", 110.3},
	"convert":       {map[string]string{"value": "12 inHg vac"}, "kpa", -40.64},
	"ambient":       {map[string]string{"altitude": "640"}, "ambient_kpa", 93.87},
	"volume":        {map[string]string{"stroke": "30", "readings": "0 6.755 13.51 20.265 27.02 33.775"}, "gas_l", 0.45},
	"volume-drawn":  {map[string]string{"drawn": "500", "before": "6.755 kPa", "after": "3.2 kPa"}, "gas_l", 0.45},
	"volume-vessel": {map[string]string{"vessel": "1.2 L", "before": "90", "after": "30"}, "gas_l", 0.6},
	"volume-leak":   {map[string]string{"flow": "10", "without": "1 kPa in 5 min", "with": "8 kPa in 5 min"}, "gas_l", 0.724},
	"stroke":        {map[string]string{"bore": "22", "length": "80"}, "stroke_cm3", 30.41},
	"flow":          {map[string]string{"fall": "1 kPa in 5 min", "gas": "0.45 L ± 0.03 L", "at": "110"}, "flow_cm3_per_min", 0.888},
	"hole":          {map[string]string{"flow": "127", "at": "110 kPa"}, "diameter_um", 100},
	"liquid":        {map[string]string{"diameter": "100", "at": "110"}, "liquid_ml_per_h", 268.6},
	"loss":          {map[string]string{"flow": "3", "at": "110"}, "liquid_ml_per_h", 2.655},
	"explain":       {map[string]string{"loss": "3", "added": "0.5", "within": "14"}, "lost_ml", 336},
	"bubbles":       {map[string]string{"diameter": "3", "per-second": "2"}, "flow_cm3_per_min", 1.696},
	"boiling":       {map[string]string{"cap": "110", "glycol": "50 %"}, "boils_c", 131.15},
	"energy":        {map[string]string{"at": "300", "gas": "6"}, "energy_j", 1957},
	"temperature":   {map[string]string{"at": "110", "from": "20", "to": "21"}, "change_kpa", 0.721},
	"hold":          {map[string]string{"limit": "2 kPa in 1 min", "at": "110", "digital": "0.1"}, "tight_s", 0},
	"precharge":     {map[string]string{"at20": "30", "temperature": "5 °C", "found": "25", "volume": "4"}, "nitrogen_g", 16.6},
}

func TestEveryCalculatorAnswersWhatAShopTypes(t *testing.T) {
	for _, c := range All() {
		try, ok := typed[c.ID]
		if !ok {
			t.Errorf("%s is not tried", c.ID)
			continue
		}
		if c.Title == "" || c.Formula == "" {
			t.Errorf("%s shows no title or formula", c.ID)
		}
		a, err := c.Work(try.fields, true)
		if err != nil {
			t.Errorf("%s: %v", c.ID, err)
			continue
		}
		if s := strings.TrimSpace(a.Sentence); s == "" || !strings.HasSuffix(s, ".") {
			t.Errorf("%s says %q", c.ID, a.Sentence)
		}
		found := false
		for _, f := range a.Figures {
			if f.Label == "" || f.Text == "" {
				t.Errorf("%s: a figure without words: %+v", c.ID, f)
			}
			if f.Low != nil && !(*f.Low <= f.Value && f.Value <= *f.High) {
				t.Errorf("%s: %s is %v between %v and %v", c.ID, f.ID, f.Value, *f.Low, *f.High)
			}
			if f.ID == try.figure {
				found = true
				if try.want != 0 && math.Abs(f.Value/try.want-1) > 0.004 {
					t.Errorf("%s: %s is %v, should be %v", c.ID, f.ID, f.Value, try.want)
				}
			}
		}
		if !found {
			t.Errorf("%s tells no %s: %+v", c.ID, try.figure, a.Figures)
		}
		// What is needed is asked for by name; what is unknown is refused by name.
		for _, f := range c.Fields {
			if f.Default != "" || f.Optional {
				continue
			}
			without := map[string]string{}
			for k, v := range try.fields {
				if k != f.ID {
					without[k] = v
				}
			}
			var fe FieldError
			if _, err := c.Work(without, true); !errors.As(err, &fe) || fe.Field != f.ID {
				t.Errorf("%s without %s: %v", c.ID, f.ID, err)
			}
		}
		var fe FieldError
		if _, err := c.Work(map[string]string{"colour": "red"}, true); !errors.As(err, &fe) || fe.Field != "colour" {
			t.Errorf("%s takes a colour: %v", c.ID, err)
		}
	}
}

// On the command line a quantity carries its unit; on a page a bare one takes the
// field's own, and both come to the same.
func TestBareNumbersTakeTheFieldsUnit(t *testing.T) {
	c, err := Named("boiling")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := c.Work(map[string]string{"cap": "110"}, false); err == nil || !strings.Contains(err.Error(), "has no unit") {
		t.Errorf("a bare number where units are wanted: %v", err)
	}
	bare, _ := c.Work(map[string]string{"cap": "110"}, true)
	written, _ := c.Work(map[string]string{"cap": "1.1 bar"}, false)
	if bare.Figures[0].Value != written.Figures[0].Value {
		t.Errorf("%v and %v", bare.Figures[0], written.Figures[0])
	}
	// An absolute pressure is read against the air that was given, whatever the order.
	low, _ := c.Work(map[string]string{"cap": "200 kPa abs", "ambient": "80 kPa"}, false)
	high, _ := c.Work(map[string]string{"cap": "200 kPa abs"}, false)
	if math.Abs(low.Figures[0].Value-high.Figures[0].Value) > 1e-9 {
		t.Errorf("200 kPa absolute boils at %v and at %v", low.Figures[0].Value, high.Figures[0].Value)
	}
}

// Hole and flow undo each other, for a plain hole and a long passage, either sign.
func TestHoleAndFlowUndoEachOther(t *testing.T) {
	c, err := Named("hole")
	if err != nil {
		t.Fatal(err)
	}
	for _, at := range []string{"5 kPa", "110 kPa", "600 kPa", "-40 kPa"} {
		for _, length := range []string{"", "5 mm"} {
			fields := map[string]string{"diameter": "40 µm", "at": at, "length": length}
			there, err := c.Work(fields, false)
			if err != nil {
				t.Fatal(err)
			}
			u := quantity.MustNamed("cm3/min", quantity.Flow)
			back, err := c.Work(map[string]string{"flow": quantity.Fixed(there.Figures[0].Value, 12) + " " + u.Symbol, "at": at, "length": length}, false)
			if err != nil || math.Abs(back.Figures[1].Value-40) > 1e-6 {
				t.Errorf("at %s, length %q: %v µm (%v)", at, length, back.Figures, err)
			}
		}
	}
}

// A volume is as good as what was typed: to its ±, else to its last digit.
func TestTheDoubtOfAVolumeComesFromWhatWasTyped(t *testing.T) {
	c, err := Named("volume-vessel")
	if err != nil {
		t.Fatal(err)
	}
	se := func(vessel, before, after string) float64 {
		a, err := c.Work(map[string]string{"vessel": vessel, "before": before, "after": after}, false)
		if err != nil {
			t.Fatal(err)
		}
		return a.Air.SE / a.Air.M3
	}
	// V = V₂·P₂/(P₁ − P₂): 5 % of the vessel is 5 % of the air.
	if got := se("1.2 L ± 0.06 L", "90.000 kPa", "30.000 kPa"); math.Abs(got-0.05) > 0.001 {
		t.Errorf("5 %% of the vessel makes %.2f %%", 100*got)
	}
	if rough, fine := se("1.200 L", "90 kPa", "30 kPa"), se("1.200 L", "90.0 kPa", "30.0 kPa"); !(rough > 5*fine) {
		t.Errorf("to the kilopascal %v, to a tenth %v", rough, fine)
	}
}

func TestWhatExplainsALoss(t *testing.T) {
	c, err := Named("explain")
	if err != nil {
		t.Fatal(err)
	}
	for loss, says := range map[string]string{"0.5": "Too small to be the cause", "2.5": "56 %", "4.5": "It explains the loss", "40": "more than was missed"} {
		a, err := c.Work(map[string]string{"loss": loss, "added": "0.5", "within": "14"}, true)
		if err != nil || !strings.Contains(a.Sentence, says) {
			t.Errorf("%s mL an hour: %q (%v)", loss, a.Sentence, err)
		}
	}
}
