package trail

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// Parties are whose machine it is and how it is told from others: what the paper has at its head.
type Parties struct {
	Owner   string `json:"owner" maxLength:"80" doc:"the customer"`
	Contact string `json:"contact" maxLength:"80" doc:"how to reach them"`
	Plate   string `json:"plate" maxLength:"40" doc:"number plate or serial number"`
	Meter   string `json:"meter" maxLength:"40" doc:"what its meter shows at this visit: 84,200 km or 1,240 h"`
}

// Says is it as a sentence.
func (x Parties) Says() string {
	var out []string
	for _, s := range []struct{ format, text string }{{"Customer: %s", x.Owner}, {"reached by %s", x.Contact}, {"plate %s", x.Plate}, {"meter %s", x.Meter}} {
		if s.text != "" {
			out = append(out, fmt.Sprintf(s.format, s.text))
		}
	}
	if len(out) == 0 {
		return "No customer noted."
	}
	text := strings.Join(out, ", ")
	return strings.ToUpper(text[:1]) + text[1:] + "."
}

// Words are those by which its job is found.
func (x Parties) Words() []string {
	return slices.DeleteFunc([]string{x.Owner, x.Plate}, func(w string) bool { return w == "" })
}

// PartiesIn are those that stand in facts.
func PartiesIn(facts logbook.Facts) (x Parties) {
	if f, ok := facts.Standing(terms.AboutParties, ""); ok {
		_ = json.Unmarshal(f.Value, &x) // of a later version: its sentence stands on the sheet
	}
	return x
}
