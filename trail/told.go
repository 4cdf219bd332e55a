package trail

import (
	"encoding/json"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// Says is it in words, as a fact; what the circuit or the library does not have is refused.
func (g Ground) Says(c *circuit.Circuit, lib Library) (string, error) {
	var says []string
	for _, id := range g.Open {
		i := slices.IndexFunc(c.Covers, func(x circuit.Cover) bool { return x.ID == id })
		if i < 0 {
			return "", desk.Refuse("open", "%s has no cover %q", c.Title, id)
		}
		says = append(says, "off: "+quantity.Lower(c.Covers[i].Title))
	}
	for _, id := range g.Tools {
		i := slices.IndexFunc(lib.Methods, func(m hunt.Method) bool { return m.ID == id && m.Tool })
		if i < 0 {
			return "", desk.Refuse("tools", "there is no tool %q", id)
		}
		says = append(says, "here: "+quantity.Lower(lib.Methods[i].Title))
	}
	for _, id := range g.WorkedOn {
		i := slices.IndexFunc(c.Parts, func(p circuit.Part) bool { return p.ID == id })
		if i < 0 {
			return "", desk.Refuse("worked_on", "%s has no part %q", c.Title, id)
		}
		says = append(says, "worked on: "+quantity.Lower(c.Parts[i].Title))
	}
	if g.Noisy {
		says = append(says, "the shop is loud")
	}
	if len(says) == 0 {
		says = append(says, "all covers on, usual tools")
	}
	return quantity.Capital(strings.Join(says, "; ")) + ".", nil
}

// Says is it in words.
func (o CameOut) Says(c *circuit.Circuit) (string, error) {
	title, ok := PlaceTitle(c, o.Place)
	switch {
	case !ok:
		return "", desk.Refuse("place", "%s has no chamber, port or part %q", c.Title, o.Place)
	case !o.Seen:
		return "It did not come out at the " + quantity.Lower(title) + ".", nil
	}
	return cameSays(title), nil
}

// Says is it in words.
func (a Answered) Says(c *circuit.Circuit) (string, error) {
	i := slices.IndexFunc(c.Acts, func(x circuit.Act) bool { return x.ID == a.Act })
	if i < 0 {
		return "", desk.Refuse("act", "%s has no act %q", c.Title, a.Act)
	}
	if a.Seen == "" {
		return c.Acts[i].Title + ": taken back.", nil
	}
	k := slices.IndexFunc(c.Acts[i].Answers, func(x circuit.Answer) bool { return x.Seen == a.Seen })
	if k < 0 {
		return "", desk.Refuse("seen", "%q is no answer of this act", a.Seen)
	}
	return actSays(c.Acts[i].Title, c.Acts[i].Answers[k].Says), nil
}

// SignView is something that may be seen before any tool, and points to a part.
type SignView struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Seen  bool   `json:"seen"`
}

// SignViews are the signs of a circuit, with those that were seen.
func SignViews(c *circuit.Circuit, facts logbook.Facts) []SignView {
	out, seen := []SignView{}, Signs(facts)
	for _, id := range hunt.SignsOf(c) {
		out = append(out, SignView{id, c.SignTitle(id), seen[id]})
	}
	return out
}

// SignSays is a sign in words, seen or taken back.
func SignSays(c *circuit.Circuit, id string, seen bool) (string, error) {
	if !slices.Contains(hunt.Signs(hunt.Bounding(c)), id) {
		return "", desk.Refuse("sign", "%s has no sign %q: write it in words", c.Title, id)
	}
	if seen {
		return quantity.Capital(c.SignTitle(id)) + ": seen.", nil
	}
	return quantity.Capital(c.SignTitle(id)) + ": not so.", nil
}

// HunchSays is a guess in words; an empty part takes it back.
func HunchSays(c *circuit.Circuit, part string) (string, error) {
	if part == "" {
		return "The guess is taken back.", nil
	}
	parts := hunt.Bounding(c)
	i := slices.IndexFunc(parts, func(x circuit.Part) bool { return x.ID == part })
	if i < 0 {
		return "", desk.Refuse("part", "%s has no part %q", c.Title, part)
	}
	return "A guess: " + quantity.Lower(parts[i].Title) + ".", nil
}

// Photos are the parts of a job's photos, by the photos' ids.
func Photos(facts logbook.Facts) []PhotoView {
	out := []PhotoView{}
	for _, x := range facts {
		var part string
		if x.Subject == terms.AboutPhoto && json.Unmarshal(x.Value, &part) == nil {
			out = append(out, PhotoView{x.About, part, x.Sentence})
		}
	}
	return out
}

// PhotoView is a photo on a sheet; the picture is asked for by itself.
type PhotoView struct {
	ID   string `json:"id"`
	Part string `json:"part"`
	Says string `json:"says"`
}

// Accepted is what the fact of a leak of the rig keeps that is lived with: it speaks of one hold, and
// says nothing of a later one.
type Accepted struct {
	Hold  string   `json:"hold"`
	Names []string `json:"names"` // where it was seen; none: taken back
}

// Read takes what a job's facts and looks say; its holds, its rig's joints and its proof are put in
// by who knows them. A fact that cannot be read says nothing.
func Read(c *circuit.Circuit, facts logbook.Facts, looks []logbook.Observation) *Log {
	l := &Log{Circuit: c, Signs: Signs(facts), Hunch: Hunch(facts), Escape: Escape(facts), Looks: looks, Answers: map[string]circuit.Noticed{}}
	for _, x := range facts {
		if x.Subject == terms.AboutRepair {
			l.Repairs = append(l.Repairs, Repair{Part: x.About, At: x.At})
		}
	}
	for _, x := range facts.On(terms.AboutAccepted) {
		var kept Accepted
		if json.Unmarshal(x.Value, &kept) == nil && len(kept.Names) > 0 {
			l.Lived = append(l.Lived, Lived{kept.Hold, x.At})
		}
	}
	if x, ok := facts.Standing(terms.AboutGround, ""); ok {
		_ = json.Unmarshal(x.Value, &l.Ground)
	}
	for _, x := range facts.On(terms.AboutCameOut) {
		var out CameOut
		if json.Unmarshal(x.Value, &out) == nil && out.Seen {
			l.CameOut = append(l.CameOut, out)
		}
	}
	for _, x := range facts.On(terms.AboutTried) {
		var t Tried
		if json.Unmarshal(x.Value, &t) == nil && !t.Undone {
			l.Tried = append(l.Tried, TriedAt{t, x.At})
		}
	}
	l.Stand = StandOf(facts)
	if x, ok := facts.Standing(terms.AboutSetUp, ""); ok {
		l.StandAt = x.At
	}
	for _, x := range facts.On(terms.AboutAct) {
		var seen circuit.Noticed
		if json.Unmarshal(x.Value, &seen) == nil && seen != "" {
			l.Answers[x.About] = seen
		}
	}
	return l
}

// Signs are those that stand, by id.
func Signs(facts logbook.Facts) map[string]bool {
	out := map[string]bool{}
	for _, x := range facts.On(terms.AboutSign) {
		var seen bool
		out[x.About] = json.Unmarshal(x.Value, &seen) == nil && seen
	}
	return out
}

// Hunch is the part that somebody guesses; empty: none.
func Hunch(facts logbook.Facts) (part string) {
	if x, ok := facts.Standing(terms.AboutHunch, ""); ok {
		_ = json.Unmarshal(x.Value, &part) // what cannot be read is no hunch
	}
	return part
}

// Escape is how it was noticed, if it was.
func Escape(facts logbook.Facts) (how terms.Escape) {
	if x, ok := facts.Standing(terms.AboutEscape, ""); ok {
		_ = json.Unmarshal(x.Value, &how) // what cannot be read was not noticed
	}
	return how
}

// Counting are the looks that count: one that was taken back does not, and neither does the entry
// that takes it back.
func Counting(looks []logbook.Observation) []logbook.Observation {
	var out []logbook.Observation
	for _, o := range looks {
		if o.Class == terms.TakenBack {
			out = slices.DeleteFunc(out, func(x logbook.Observation) bool { return x.Part == o.Part && x.Method == o.Method })
			continue
		}
		out = append(out, o)
	}
	return out
}
