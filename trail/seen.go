package trail

import (
	"encoding/json"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// SeenAt names those of some parts at which a leak was seen, each once.
func SeenAt(looks []logbook.Observation, parts []circuit.Part) (names []string) {
	for _, o := range looks {
		if !o.Seen || o.Class == terms.Meant {
			continue
		}
		for _, p := range parts {
			if p.ID == o.Part && !slices.Contains(names, p.Title) {
				names = append(names, p.Title)
			}
		}
	}
	return names
}

// Unmended names those of some parts at which a leak was seen last, and not mended since.
func Unmended(looks []logbook.Observation, facts logbook.Facts, parts []circuit.Part) (names []string) {
	last := map[string]logbook.Observation{}
	for _, o := range looks {
		last[o.Part] = o
	}
	for _, x := range facts {
		if o, ok := last[x.About]; ok && x.Subject == terms.AboutRepair && !x.At.Before(o.At) {
			delete(last, x.About)
		}
	}
	for _, p := range parts {
		if o := last[p.ID]; o.Seen && o.Class.Faulty() {
			names = append(names, p.Title)
		}
	}
	return names
}

// Contradicts reports whether a later fact says otherwise than one before it. Who corrects an entry of their own
// contradicts nobody. What is found at a step grows cell by cell: only a cell that was changed says otherwise.
func Contradicts(was, now logbook.Fact) bool {
	if own := was.By == now.By && (was.By != "" || was.Device == now.Device); own || now.Subject != terms.AboutFound {
		return !own
	}
	var a, b steps.Entry
	if json.Unmarshal(was.Value, &a) != nil || json.Unmarshal(now.Value, &b) != nil {
		return true
	}
	return a.Contradicts(b)
}
