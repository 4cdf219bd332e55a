package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"
)

// values is one case of a file of reference values.
type values map[string]any

func (v values) f(key string) float64 { x, _ := v[key].(float64); return x }

func (v values) s(key string) string { x, _ := v[key].(string); return x }

// in writes a figure with its unit, to the last digit a float64 has.
func (v values) in(key, unit string) string { return written(v.f(key)) + unit }

func written(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }

func gaugeOf(p1, p2 float64) string { return written(p1-p2) + "Pa" }

// Every file of reference values that a calculator answers for, through the
// command line: what to ask, which figure is told, its value and its tolerance.
func TestCalculatorsGiveTheReferenceValues(t *testing.T) {
	const physics293 = 293.15 // K, at which a precharge is told
	const physics, quantity = "../../core/physics/testdata/", "../../core/quantity/testdata/"
	for file, ask := range map[string]func(c values) (args []string, figure string, want, relative, absolute float64){
		physics + "ambient.json": func(c values) ([]string, string, float64, float64, float64) {
			return []string{"ambient", "--altitude=" + c.in("altitude_m", "m")}, "ambient_kpa", c.f("pa") / 1e3, 1e-6, 0
		},
		physics + "boiling.json": func(c values) ([]string, string, float64, float64, float64) {
			coolant := map[string]string{"water": "water", "eg": "ethylene glycol", "pg": "propylene glycol"}[c.s("coolant")]
			tolerance := 0.02
			if coolant == "water" {
				tolerance = 0.001
			}
			return []string{"boiling", "--cap=" + c.in("p_abs_pa", "Pa abs"), "--coolant=" + coolant, "--glycol=" + written(100*c.f("glycol_volume_fraction"))}, "boils_c", c.f("t_c"), 0, tolerance
		},
		physics + "energy.json": func(c values) ([]string, string, float64, float64, float64) {
			return []string{"energy", "--at=" + c.in("gauge_pa", "Pa"), "--gas=" + c.in("gas_m3", "m3"), "--ambient=" + c.in("ambient_pa", "Pa")}, "energy_j", c.f("joule"), 1e-9, 0
		},
		physics + "liquid.json": func(c values) ([]string, string, float64, float64, float64) {
			args := []string{"liquid", "--at=" + c.in("dp_pa", "Pa"), "--diameter=" + c.in("d_m", "m")}
			if c.s("kind") == "laminar" {
				args = append(args, "--length="+c.in("length_m", "m"), "--viscosity="+written(1e3*c.f("mu_pa_s")))
			} else {
				args = append(args, "--density="+c.in("rho_kg_m3", ""), "--cd="+c.in("cd", ""))
			}
			return args, "liquid_ml_per_h", c.f("ml_per_h"), 1e-9, 0
		},
		physics + "gas_laminar.json": func(c values) ([]string, string, float64, float64, float64) {
			return []string{"hole", "--at=" + gaugeOf(c.f("p1_pa"), c.f("p2_pa")), "--ambient=" + c.in("p2_pa", "Pa"), "--diameter=" + c.in("d_m", "m"), "--length=" + c.in("length_m", "m")}, "flow_cm3_per_min", c.f("std_cm3_per_min"), 1e-9, 0
		},
		physics + "gas_orifice.json": func(c values) ([]string, string, float64, float64, float64) {
			args := []string{"hole", "--at=" + gaugeOf(c.f("p1_pa"), c.f("p2_pa")), "--ambient=" + c.in("p2_pa", "Pa"), "--cd=" + c.in("cd", ""), "--temperature=" + c.in("t_k", "K")}
			if c["inverse"] == true {
				return append(args, "--flow="+c.in("std_cm3_per_min", "cm3/min")), "diameter_um", c.f("d_m") * 1e6, 1e-9, 0
			}
			return append(args, "--diameter="+c.in("d_m", "m")), "flow_cm3_per_min", c.f("std_cm3_per_min"), 1e-9, 0
		},
		physics + "gas_to_liquid.json": func(c values) ([]string, string, float64, float64, float64) {
			return []string{"loss", "--flow=" + c.in("gas_std_cm3_per_min", "cm3/min"), "--at=" + gaugeOf(c.f("p1_pa"), c.f("p2_pa")), "--ambient=" + c.in("p2_pa", "Pa"),
				"--running=" + c.in("liquid_dp_pa", "Pa"), "--viscosity=" + written(1e3*c.f("liquid_mu_pa_s"))}, "liquid_ml_per_h", c.f("liquid_ml_per_h"), 1e-9, 0
		},
		physics + "decay.json": func(c values) ([]string, string, float64, float64, float64) {
			return []string{"flow", "--fall=" + written(math.Abs(c.f("initial_rate_pa_per_s"))) + "Pa in 1s", "--gas=" + c.in("volume_m3", "m3"), "--at=" + c.in("gauge_pa", "Pa"), "--ambient=" + c.in("ambient_pa", "Pa")}, "flow_cm3_per_min", c.f("std_cm3_per_min_at_start"), 1e-7, 0
		},
		physics + "volume_from_strokes.json": func(c values) ([]string, string, float64, float64, float64) {
			readings := strings.Trim(fmt.Sprintf("%.9g", c["gauge_pa"]), "[]") + " Pa"
			return []string{"volume", "--stroke=" + c.in("stroke_m3", "m3"), "--readings=" + readings, "--skip=" + c.in("skip_first", ""), "--ambient=" + c.in("ambient_pa", "Pa")}, "gas_l", c.f("v_eff_m3") * 1e3, 1e-6, 0
		},
		physics + "precharge.json": func(c values) ([]string, string, float64, float64, float64) {
			if kg := c.f("nitrogen_kg"); kg != 0 {
				// The charge found is none, so that what it should be is what is to be added.
				return []string{"precharge", "--at20=" + written(c.f("dp_pa")*physics293/(c.f("t_c")+273.15)) + "Pa", "--ambient=0.000000001Pa", "--found=0Pa", "--temperature=" + c.in("t_c", "C"), "--volume=" + c.in("volume_m3", "m3")}, "nitrogen_g", kg * 1e3, 1e-9, 0
			}
			return []string{"precharge", "--at20=" + c.in("gauge_pa_at_20c", "Pa"), "--temperature=" + c.in("t_c", "C"), "--ambient=" + c.in("ambient_pa", "Pa")}, "precharge_bar", c.f("gauge_pa") / 1e5, 1e-9, 0
		},
		quantity + "units.json": func(c values) ([]string, string, float64, float64, float64) {
			text := c.s("text")
			args := []string{"convert", "--value=" + text}
			switch {
			case c["error"] == true || strings.ContainsAny(text[len(text)-1:], "0123456789") || c["pa_gauge"] == nil && c["m3"] == nil && c["newton_metre"] == nil:
				return args, "", 0, 0, 0 // refused, bare, or a band: the parser's own test has them
			case c.s("quantity") == "volume":
				return args, "m3", c.f("m3"), 1e-9, 0
			case c.s("quantity") == "torque":
				return args, "n_m", c.f("newton_metre"), 1e-9, 0
			}
			return args, "pa", c.f("pa_gauge"), 1e-9, 0
		},
	} {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		var f struct{ Cases []values }
		if err := json.Unmarshal(raw, &f); err != nil {
			t.Fatal(err)
		}
		asked := 0
		for _, c := range f.Cases {
			args, figure, want, relative, absolute := ask(c)
			if figure == "" {
				continue
			}
			asked++
			code, out, errs := idlehiss("", append(append([]string{"calc"}, args...), "--json")...)
			if code != 0 {
				t.Errorf("calc %v: exit %d: %s", args, code, errs)
				continue
			}
			var doc calculated
			if err := json.Unmarshal([]byte(out), &doc); err != nil {
				t.Errorf("calc %v: %v", args, err)
				continue
			}
			if got, ok := doc.Figures[figure]; !ok || math.Abs(got-want) > relative*math.Abs(want)+absolute {
				t.Errorf("calc %v: %s is %v, want %v", args, figure, got, want)
			}
		}
		if asked < 6 {
			t.Errorf("%s: only %d cases were asked", file, asked)
		}
	}
}

func TestCalculatorsRefuseWhatHasNoAnswer(t *testing.T) {
	for says, args := range map[string][]string{
		"no calculator":                         {"weather"},
		"--cap: \"110\" has no":                 {"boiling", "--cap=110"},
		"missing flags":                         {"boiling"},
		"--glycol":                              {"boiling", "--cap=110kPa", "--glycol=95"},
		"--flow: type the flow to get the hole": {"hole", "--at=110kPa"},
		"--gas: with liquid":                    {"temperature", "--at=110kPa", "--from=20C", "--to=30C", "--liquid=7L"},
		"--altitude":                            {"ambient", "--altitude=20000m"},
		"--value: \"16\" has":                   {"convert", "--value=16"},
		"--after":                               {"volume-drawn", "--drawn=0.5L", "--before=5kPa", "--after=6kPa"},
		"unknown flag":                          {"stroke", "--weight=3kg"},
	} {
		code, out, errs := idlehiss("", append([]string{"calc"}, args...)...)
		if code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("calc %v: exit %d, %q %q; it should say %q", args, code, out, errs, says)
		}
	}
	if code, out, _ := idlehiss("", "calc", "boiling", "--help"); code != 0 || !strings.Contains(out, "--cap") {
		t.Errorf("help: exit %d: %s", code, out)
	}
}
