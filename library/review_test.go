package library

import (
	"fmt"
	"io/fs"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/runsheet"
)

func review(t *testing.T, about string, raw []byte) []FileFinding {
	t.Helper()
	_, found, err := Review(raw)
	if err != nil {
		t.Fatalf("%s: %v", about, err)
	}
	return found
}

func has(found []FileFinding, rule circuit.Rule, of string) bool {
	return slices.ContainsFunc(found, func(f FileFinding) bool { return f.Rule == rule && f.Of == of && f.Line > 0 && f.Says != "" })
}

// What a reader of the trade found by hand in the files of 2026-11-26 is found by the rules.
func TestAReadersFindingsAreFoundByTheRules(t *testing.T) {
	found := map[string][]FileFinding{}
	names, err := fs.Glob(os.DirFS("testdata/before"), "*.yaml")
	if err != nil || len(names) != 17 {
		t.Fatal(names, err)
	}
	for _, name := range names {
		raw, err := os.ReadFile("testdata/before/" + name)
		if err != nil {
			t.Fatal(err)
		}
		found[strings.TrimSuffix(name, ".yaml")] = review(t, name, raw)
	}
	wanted := map[string]map[circuit.Rule][]string{
		"accumulator-small":     {"hazard": {"whip", "eyes", "zero"}, "fill": {""}},
		"accumulator-large":     {"hazard": {"whip"}, "must": {"eyes"}, "fill": {""}},
		"bare-radiator":         {"area": {"upper-stub", "neck"}, "eye": {"hold"}},
		"boosted-intake":        {"area": {"breather"}, "hazard": {"moves", "fan"}, "must": {"fan", "eyes"}, "fill": {""}, "cover": {"charge-cooler"}},
		"carburettor-bench":     {"eye": {"dry", "wetted", "cover"}, "direction": {"needle", "primer-valve"}, "hazard": {"flammable"}, "must": {"eyes"}, "fill": {""}},
		"carburettor-machine":   {"direction": {"needle", "primer-valve"}, "hazard": {"flammable"}, "must": {"eyes"}},
		"cooling-header-tank":   {"must": {"eyes", "fan", "zero"}, "hazard": {"scald", "fan"}, "cover": {"heater-core", "water-pump"}, "acts": {""}},
		"cooling-radiator-cap":  {"must": {"eyes", "fan", "zero"}, "hazard": {"scald"}, "acts": {""}},
		"cooling-second-loop":   {"must": {"eyes", "zero"}, "hazard": {"scald", "fan"}},
		"cylinder-head":         {"area": {"deck", "heater-outlet", "sender"}, "eye": {"first", "second"}, "must": {"eyes", "zero"}},
		"engine-block":          {"area": {"left-deck", "right-deck", "pump-flange"}, "eye": {"left", "right"}, "energy": {"energy"}},
		"lift-housing":          {"direction": {"check", "second-check"}, "dead-end": {"check", "second-check", "second-joint"}, "opening": {"ram-port"}, "eye": {"neutral", "ram", "flow", "second"}, "hazard": {"flammable"}, "area": {"second-coupling"}},
		"powered-hydraulic-set": {"asked": {"pressures"}, "hazard": {"falls", "eyes"}, "acts": {""}},
		"pressure-cap":          {"must": {"eyes"}, "fill": {""}},
		"train-brake":           {"direction": {"one-way", "reservoir-checks"}, "dead-end": {"reservoir-checks"}, "asked": {"one-way", "leak-brake", "leak-feed"}, "energy": {"energy"}, "hazard": {"whip", "moves"}, "must": {"eyes"}, "fill": {""}},
		"two-stroke-crankcase":  {"opening": {"plug-hole"}, "eye": {"pressure-first", "pressure", "turned"}, "hazard": {"flammable"}, "cover": {"flywheel-seal", "clutch-seal"}},
		"valve-block":           {"direction": {"load-check-a", "load-check-b"}, "eye": {"supply", "port-a", "port-b"}, "hazard": {"flammable"}},
	}
	n := 0
	for file, rules := range wanted {
		for rule, of := range rules {
			for _, id := range of {
				n++
				if !has(found[file], rule, id) {
					t.Errorf("%s: the rule %s says nothing of %q", file, rule, id)
				}
			}
		}
	}
	if n < 60 {
		t.Errorf("only %d findings are named", n)
	}
}

func TestAReaderFindsNothingInWhatShips(t *testing.T) {
	names, err := fs.Glob(files, "circuits/*.yaml")
	if err != nil || len(names) < 20 {
		t.Fatal(names, err)
	}
	for _, name := range names {
		raw, err := files.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range review(t, name, raw) {
			t.Errorf("%s:%d: %s: %s", name, f.Line, f.Rule, f.Says)
		}
	}
}

// Each rule speaks once the line that satisfies it is taken out or turned round.
func TestEachRuleSpeaksWithoutItsLine(t *testing.T) {
	spoke := map[circuit.Rule]bool{}
	for _, c := range []struct {
		rule           circuit.Rule
		file, from, to string
		of             string
	}{
		{"untried", "valve-block", "  - id: tank\n    title: Tank passage, for the lips\n    kind: hold\n", "  - id: tank\n    title: Tank passage, for the lips\n    kind: round\n    looks: [{id: lips, title: Dry}]\n", "end-cap"},
		{"untried", "train-brake", "    at: [brakes-on]\n    open: [brake-far]\n", "    at: [brakes-off]\n    open: [brake-far]\n", "brake-cylinders"},
		{"direction", "lift-housing", "kind: valve, both_ways: true,", "kind: valve,", "second-check"},
		{"direction", "train-brake", "between: [feed-pipe, reservoirs], kind: valve, one_way: true,", "between: [feed-pipe, reservoirs], kind: valve,", "reservoir-checks"},
		{"opens", "train-brake", "between: [brake-pipe, reservoirs], kind: valve", "between: [reservoirs, brake-pipe], kind: valve", "reservoir-checks"},
		{"opens", "pressure-cap", "between: [outside, spigot]", "between: [spigot, outside]", "inward"},
		{"opening", "lift-housing", ", close: its own plug}", "}", "ram-port"},
		{"opening", "two-stroke-crankcase", "fittings: [plug stopper], mouth: plug}", "fittings: [plug stopper]}", "plug-hole"},
		{"dead-end", "powered-hydraulic-set", "title: \"pump, towards the tank\", holds: liquid, open: true,", "title: \"pump, towards the tank\", holds: liquid, volume: 0.3 L, trapped_air: 2 mL,", "check"},
		{"position", "lift-housing", "    open: [check]\n    at: [lever-lift]\n", "    open: [check]\n", "flow"},
		{"stop", "lift-housing", " stop: ram-held,", "", "ram-seal"},
		{"hazard", "cooling-second-loop", "licensed hands only.\", of: [voltage]", "licensed hands only.\"", "voltage"},
		{"must", "cooling-header-tank", "{id: eyes-on, text: \"Eyes covered, yours and of anyone who watches\", must: true,", "{id: eyes-on, text: \"Eyes covered, yours and of anyone who watches\",", "eyes"},
		{"must", "cooling-radiator-cap", "of: [fan]}", "of: [moves]}", "fan"},
		{"fill", "train-brake", "fill: never\n", "", ""},
		{"area", "cylinder-head", "close: deck plate with its rubber, limit: 320 kPa, area: 600 cm²", "close: deck plate with its rubber, limit: 320 kPa", "deck"},
		{"asked", "powered-hydraulic-set", "    asked: true\n", "", "pressures"},
		{"asked", "train-brake", "at: 500 kPa, asked: true}", "at: 500 kPa}", "leak-brake"},
		{"cover", "two-stroke-crankcase", "covers:\n  - {id: flywheel, title: starter and flywheel, off: 9 min}\n  - {id: clutch, title: clutch, off: 8 min}\n", "", "flywheel-seal"},
		{"eye", "cylinder-head", "    after: [nip, nip-live]\n    eye: bubbles\n", "    after: [nip, nip-live]\n", "first"},
		{"eye", "engine-block", "    most: 320 kPa\n    allow: 1 kPa in 5 min\n", "    most: 320 kPa\n    allow: 3 kPa in 5 min\n", "left"},
		{"energy", "engine-block", "of: [energy, thrust]", "of: [thrust]", "energy"},
		{"reach", "lift-housing", "  - {id: second-joint,", "  - {id: second-ring, title: Ring of the second line, between: [second, sump], kind: seal, odds: 1, reach: 1 min, limit: 500 kPa, look: Soap, with: [outlet-valve]}\n  - {id: second-joint,", "second-ring"},
		{"hidden", "lift-housing", "  - {id: second-coupling, title: Coupling of the second outlet, between: [second, outside], kind: opening, opening: true, left_open: \"Air there is the second check. Put its cap on and off to see pressure behind it.\", with: [outlet-valve]}\n", "", "second-check"},
		{"alike", "lift-housing", "  - {id: bleed,", "  - {id: ring-1, title: First ring, between: [gallery, sump], kind: seal, odds: 1, reach: 1 min, limit: 500 kPa, look: Soap}\n  - {id: ring-2, title: Second ring, between: [gallery, sump], kind: seal, odds: 1, reach: 1 min, limit: 500 kPa, look: Soap}\n  - {id: bleed,", "ring-1"},
		{"acts", "fuel-line", "", "", ""},
	} {
		raw, err := files.ReadFile("circuits/" + c.file + ".yaml")
		if err != nil {
			t.Fatal(err)
		}
		text := string(raw)
		if c.rule == "acts" { // the whole list
			text = text[:strings.Index(text, "acts:\n")] + text[strings.Index(text, "imitators:\n"):]
		} else if text = strings.Replace(text, c.from, c.to, 1); text == string(raw) {
			t.Fatalf("%s: nothing was edited: %s", c.file, c.from)
		}
		about := fmt.Sprintf("%s with %q", c.file, c.to)
		found := review(t, about, []byte(text))
		spoke[c.rule] = true
		if !has(found, c.rule, c.of) {
			t.Errorf("%s: the rule %s says nothing of %q: %+v", about, c.rule, c.of, found)
		}
	}
	for _, rule := range append(slices.Concat(circuit.Rules(), passages.Rules()), runsheet.RuleEye, runsheet.RuleEnergy) {
		if !spoke[rule] {
			t.Errorf("no file was broken for the rule %s", rule)
		}
	}
}

// Every row of the page about the trade names a line that holds what it says.
func TestTheTradeTableNamesItsLines(t *testing.T) {
	raw, err := os.ReadFile("../docs/trade.md")
	if err != nil {
		t.Fatal(err)
	}
	rows := regexp.MustCompile("(?m)^\\| ([HM-]) \\| .* \\| (taken|a school|refused)[^|]* \\| `([^`:]+):(\\d+)` `([^`]+)` \\|$").FindAllStringSubmatch(string(raw), -1)
	graded := 0
	for _, r := range rows {
		if r[1] != "-" {
			graded++
		}
		text, err := os.ReadFile("../" + r[3])
		if err != nil {
			t.Fatal(err)
		}
		n, err := strconv.Atoi(r[4])
		if lines := strings.Split(string(text), "\n"); err != nil || n > len(lines) || !strings.Contains(lines[n-1], r[5]) {
			t.Errorf("%s:%s does not hold %q", r[3], r[4], r[5])
		}
	}
	if all := strings.Count(string(raw), "\n| H |") + strings.Count(string(raw), "\n| M |"); graded != all || graded < 40 {
		t.Errorf("%d of %d graded rows name a line", graded, all)
	}
}
