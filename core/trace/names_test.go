package trace

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"idlehiss/core/quantity"
)

// No name makes a spreadsheet run anything, and none forges the settings; every name comes back as it was.
func TestNamesAreOnlyNames(t *testing.T) {
	kpa, err := quantity.Named("kPa", quantity.Pressure)
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"=1+1", "+1", "-1", "@SUM(A1)", "'=1", "''+2", "'quoted", "a,=1+1", "a;=cmd|' /C calc'!A0", `say "=1"`, "Ilse's hiss", "judge: --limit 900kPa", "  judge: x", "# judge: x", "two\n# judge: --limit 900kPa", "two\r\n=1", "tab\t=1", "Öl läuft aus", "\u2028=1", "#"} {
		in := Trace{Unit: kpa, Settings: "--limit 10kPa", Events: []Event{{0, name}}, Readings: []Reading{{AtS: 0, GaugePa: 110e3}, {AtS: 30, GaugePa: 109e3}, {AtS: 60, GaugePa: 108e3}}}
		var b bytes.Buffer
		if err := in.WriteCSV(&b, name, name+", test, 2026"); err != nil {
			t.Fatal(err)
		}
		out, err := ReadCSV(bytes.NewReader(b.Bytes()), quantity.StandardAtmosphere)
		if err != nil {
			t.Errorf("%q is not read back: %v\n%s", name, err, b.String())
			continue
		}
		if want := strings.TrimSpace(oneLine(name)); out.Settings != in.Settings || len(out.Events) != 1 || strings.TrimSpace(out.Events[0].Kind) != want {
			t.Errorf("%q: settings %q, events %+v", name, out.Settings, out.Events)
		}
		for _, comma := range []rune{',', ';', '\t'} { // as programs of several countries cut it
			r := csv.NewReader(bytes.NewReader(b.Bytes()))
			r.Comma, r.FieldsPerRecord, r.LazyQuotes = comma, -1, true
			rows, err := r.ReadAll()
			if err != nil {
				t.Fatal(err)
			}
			for _, row := range rows {
				for _, x := range row {
					if x = strings.TrimSpace(x); x != "" && strings.ContainsRune("=+-@", rune(x[0])) {
						t.Errorf("%q is run as %q, cut at %q", name, x, comma)
					}
				}
			}
		}
	}
}
