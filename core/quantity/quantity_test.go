package quantity

import (
	"encoding/json"
	"errors"
	"math"
	"os"
	"strings"
	"testing"
)

type unitCase struct {
	Text        string   `json:"text"`
	DefaultUnit string   `json:"default_unit"`
	Quantity    Kind     `json:"quantity"`
	Gauge       *float64 `json:"pa_gauge"`
	Abs         *float64 `json:"pa_abs_at_101325"`
	Low         *float64 `json:"pa_gauge_low"`
	High        *float64 `json:"pa_gauge_high"`
	M3          *float64 `json:"m3"`
	NM          *float64 `json:"newton_metre"`
	Error       bool     `json:"error"`
}

func TestUnitsReferenceValues(t *testing.T) {
	raw, err := os.ReadFile("testdata/units.json")
	if err != nil {
		t.Fatal(err)
	}
	var file struct{ Cases []unitCase }
	if err := json.Unmarshal(raw, &file); err != nil {
		t.Fatal(err)
	}
	if len(file.Cases) < 40 {
		t.Fatalf("only %d cases", len(file.Cases))
	}
	for _, c := range file.Cases {
		kind := c.Quantity
		def, err := Named(c.DefaultUnit, kind)
		if err != nil {
			t.Fatalf("%q: %v", c.DefaultUnit, err)
		}
		v, err := Parse(c.Text, kind, def, StandardAtmosphere)
		if c.Error {
			if err == nil {
				t.Errorf("%q was accepted as %v", c.Text, v)
			}
			continue
		}
		if err != nil {
			t.Errorf("%q: %v", c.Text, err)
			continue
		}
		same := func(what string, want *float64, got float64) {
			if want != nil && math.Abs(got-*want) > 1e-9*math.Abs(*want) {
				t.Errorf("%q %s: %v, want %v", c.Text, what, got, *want)
			}
		}
		same("gauge", c.Gauge, v.Low)
		same("gauge", c.Gauge, v.High)
		same("absolute", c.Abs, v.Low+StandardAtmosphere)
		same("low", c.Low, v.Low)
		same("high", c.High, v.High)
		same("volume", c.M3, v.Low)
		same("torque", c.NM, v.Low)
	}
}

func TestCommaThatMayBeAThousandIsRefused(t *testing.T) {
	psi := MustNamed("psi", Pressure)
	if _, err := Parse("1,234 kPa", Pressure, psi, StandardAtmosphere); !errors.Is(err, ErrAmbiguous) || !strings.Contains(err.Error(), "1.234") || !strings.Contains(err.Error(), "1234") {
		t.Errorf("1,234 kPa: %v", err)
	}
	for text, want := range map[string]float64{"0,234 bar": 23400, "1,23 bar": 123000, "1.234 bar": 123400} {
		if v, err := Parse(text, Pressure, psi, StandardAtmosphere); err != nil || math.Abs(v.Low-want) > 1e-6 {
			t.Errorf("%s: %v %v", text, v.Low, err)
		}
	}
	v, err := Parse("0.45L ± 0.03L", Volume, MustNamed("L", Volume), 0)
	if err != nil || math.Abs(v.SE-0.03e-3) > 1e-12 {
		t.Errorf("doubt: %v %v", v.SE, err)
	}
}

func TestDecodeMark(t *testing.T) {
	cases := []struct {
		text   string
		unit   string
		kpa    float64 // of the likely reading, upper figure
		halfPa float64
		others int
		doubt  string // must be said
	}{
		{"1.1", "bar", 110, 5000, 1, "kgf/cm²"},
		{"0,9", "bar", 90, 5000, 1, "kgf/cm²"},
		{"16", "psi", 110.316, 3447.4, 0, ""},
		{"7", "psi", 48.263, 3447.4, 0, "low for a cap"},
		{"30", "psi", 206.843, 3447.4, 1, "high for a cap"},
		{"110 kPa", "kPa", 110, 500, 0, ""},
		{"88", "kPa", 88, 500, 0, ""},
		{"13-15", "psi", 103.421, 3447.4, 0, ""},
		{"20", "psi", 137.895, 3447.4, 1, "could also be kPa"},
	}
	for _, c := range cases {
		m, err := DecodeMark(c.text, CapMarks)
		if err != nil {
			t.Errorf("%s: %v", c.text, err)
			continue
		}
		r := m.Readings[0]
		if r.Unit.Symbol != c.unit || math.Abs(r.LimitPa()/1e3-c.kpa) > 1e-2 || math.Abs(r.HalfDigitPa-c.halfPa) > 1 || len(m.Readings) != c.others+1 {
			t.Errorf("%s: %s %.3f kPa ± %.1f, %d readings", c.text, r.Unit.Symbol, r.LimitPa()/1e3, r.HalfDigitPa, len(m.Readings))
		}
		if (c.doubt == "") != (m.Doubt == "") || !strings.Contains(m.Doubt, c.doubt) {
			t.Errorf("%s: doubt %q, want %q", c.text, m.Doubt, c.doubt)
		}
	}
	for text, wants := range map[string]string{"banana": "not a number", "-3": "above ambient", "400": "20 to 250 kPa", "400 kPa": "20 to 250 kPa", "": "nothing was typed"} {
		if m, err := DecodeMark(text, CapMarks); err == nil || !strings.Contains(err.Error(), wants) {
			t.Errorf("%q: %+v %v", text, m, err)
		}
	}
}

func TestShow(t *testing.T) {
	psi := MustNamed("psi", Pressure)
	for want, got := range map[string]string{
		"16.0 psi": psi.Show(110316.1, 0.5*6894.757),
		"0":        Fixed(-0.001, 0),
		"−0.5":     Fixed(-0.5, 1),
		"1230":     Significant(1234, 3),
		"0.0123":   Significant(0.01234, 3),
		"4:10":     Clock(250),
		"1:02:03":  Clock(3723),
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

func TestWrittenQuantitiesReadBack(t *testing.T) {
	for _, v := range []M3{0, 0.6e-3, 8e-6, 7e-3, 1.5e-9} {
		text, err := v.MarshalText()
		if err != nil {
			t.Fatal(err)
		}
		back := M3(-1)
		if err := back.UnmarshalText(text); err != nil || math.Abs(float64(back-v)) > 1e-9*float64(v) {
			t.Errorf("%v was written %q and read back as %v: %v", v, text, back, err)
		}
	}
	var p Pa
	for _, bad := range []string{"7", "7-9 kPa", "7 L"} {
		if err := p.UnmarshalText([]byte(bad)); err == nil {
			t.Errorf("%q was taken as a pressure", bad)
		}
	}
}

func TestARateWithItsDoubt(t *testing.T) {
	var none Unit
	rate, fall, over, err := ParseRate("0.3kPa/min ± 0.06 kPa in 2 min", none, StandardAtmosphere)
	if err != nil || math.Abs(rate-5) > 1e-12 || math.Abs(fall.SE/over.Low-0.5) > 1e-12 || fall.Bare {
		t.Errorf("%v ± %v Pa/s, %v", rate, fall.SE/over.Low, err)
	}
	for _, bad := range []string{"0.3kPa/min ± soon/min", "± 0.1kPa/min", "0.3kPa/min ± 0.1kPa/parsec"} {
		if _, _, _, err := ParseRate(bad, none, StandardAtmosphere); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}

func TestTimesAsAShopSaysThem(t *testing.T) {
	for text, want := range map[string]float64{"1:25": 85, "0:05": 5, "1:02:03": 3723, "90 s": 90, "2 min": 120} {
		if v, err := Parse(text, Time, MustNamed("s", Time), 0); err != nil || v.Mid() != want || v.Bare {
			t.Errorf("%s: %v %v", text, v, err)
		}
	}
	for _, bad := range []string{"1:5", "1:75", "-1:20", ":20", "1:20.5", "1:2:3:4", "1:xx"} {
		if v, err := Parse(bad, Time, MustNamed("s", Time), 0); err == nil {
			t.Errorf("%s was read as %v", bad, v)
		}
	}
}

// A figure that no test can meet is refused in every kind and unit, and so are those
// beyond every figure.
func TestAFigureThatCannotBeIsRefused(t *testing.T) {
	for kind, limit := range most {
		for _, u := range UnitsOf(kind) {
			over := 10 * math.Abs(u.Of(limit))
			for _, text := range []string{Significant(over, 3), "1" + strings.Repeat("0", 300), "1" + strings.Repeat("0", 400)} {
				for _, sign := range []string{"", "-"} {
					if v, err := Parse(sign+text+" "+u.Symbol, kind, Unit{}, StandardAtmosphere); err == nil {
						t.Errorf("%s%s %s of %s is taken as %+v", sign, text, u.Symbol, kind, v)
					}
				}
			}
		}
	}
}
