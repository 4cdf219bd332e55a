package runsheet

import (
	"encoding/json"
	"regexp"
	"strings"

	"idlehiss/core/terms"
)

// AddFit adds what an adapter goes on to the JSON of a piece from before that was data: it is read from the words of its
// name, once. Everything else stays as it is.
func AddFit(body []byte) ([]byte, error) {
	var piece map[string]any
	if err := json.Unmarshal(body, &piece); err != nil {
		return nil, err
	}
	name, _ := piece["name"].(string)
	fits, _ := piece["fits"].(string)
	about := strings.ToLower(name + " " + fits)
	var f Fit
	for _, known := range terms.Fitting("").Values() {
		if strings.Contains(about, known) {
			f.Families = append(f.Families, terms.Fitting(known))
		}
	}
	for _, m := range []terms.Make{terms.Shallow, terms.Deep, terms.Fine, terms.Coarse} {
		if strings.Contains(about, string(m)) {
			f.Make = m
		}
	}
	f.OwnAir = strings.Contains(about, string(terms.Bladder))
	// A number without its unit was a name, such as "Plate 12".
	if width := oldWidth.FindString(strings.ToLower(fits + " " + name)); width != "" {
		if from, to, err := Width(width); err == nil {
			f.FromM, f.ToM = from, to
		}
	}
	raw, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	var data map[string]any
	if err := json.Unmarshal(raw, &data); err != nil {
		return nil, err
	}
	for k, v := range data {
		piece[k] = v
	}
	return json.Marshal(piece)
}

var oldWidth = regexp.MustCompile(`[0-9]+(?:[.,][0-9]+)?(?:\s*(?:to|-|–)\s*[0-9]+(?:[.,][0-9]+)?)?\s*(?:mm|cm|inch|in)\b`)
