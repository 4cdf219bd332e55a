package runsheet

import "testing"

func TestAnAdapterIsFoundFromTheNeck(t *testing.T) {
	const rubber, blue, bladder = "Expanding rubber, 38 mm smooth necks of 36 to 41 mm", "Blue bayonet adapter bayonet neck, shallow", "Neck bladder, 40 mm"
	for _, x := range []struct {
		neck, about  string
		suits, known bool
		says         string
	}{
		{"38 mm", "smooth necks of 36 to 41 mm", true, true, "the size for 38 mm"},
		{"38", "smooth necks of 36 to 41 mm", true, true, "the size for 38 mm"},
		{"1.5 in", "smooth necks of 36 to 41 mm", true, true, "the size for 38 mm"},
		{"43 mm", "smooth necks of 36 to 41 mm", false, true, "2.0 mm too small"},
		{"33,5 mm smooth", "smooth necks of 36 to 41 mm", false, true, "2.5 mm too large"},
		{"40 mm", bladder, true, true, "the size for 40 mm"},
		{"42 mm", bladder, false, true, "1.3 mm too small"},
		{"bayonet, shallow", blue, true, true, "made for bayonet"},
		{"bayonet, deep", blue, false, true, "for a shallow one"},
		{"smooth", "smooth necks of 36 to 41 mm", true, true, "made for smooth"},
		{"38 mm", blue, false, false, ""},
		{"bayonet", "Grey reducer", false, false, ""},
		{"12 mm", "Plate 12", false, false, ""}, // a number without its unit is a name
	} {
		n, err := ParseNeck(x.neck)
		if err != nil {
			t.Errorf("%s: %v", x.neck, err)
			continue
		}
		if suits, known, says := n.Takes(x.about); suits != x.suits || known != x.known || says != x.says {
			t.Errorf("%s on %s: %v %v %q, want %v %v %q", x.about, x.neck, suits, known, says, x.suits, x.known, x.says)
		}
	}
	for _, bad := range []string{"36 to 41 mm", "900", "odd"} {
		if n, err := ParseNeck(bad); err == nil {
			t.Errorf("%q was read as %+v", bad, n)
		}
	}
}
