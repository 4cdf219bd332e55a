package catalogue

import (
	"fmt"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// ActView is what may be done to a part under pressure, and what each answer means.
type ActView struct {
	ID      string       `json:"id"`
	Title   string       `json:"title"`
	Does    circuit.Deed `json:"does"`
	Minutes string       `json:"minutes"`
	Needs   string       `json:"needs"`
	Mind    string       `json:"mind"`
	Cuts    []string     `json:"cuts"` // titles of the parts that it takes away from the gauge
	Answers []AnswerView `json:"answers"`
}

// AnswerView is one answer of the gauge or of the eye.
type AnswerView struct {
	Seen   circuit.Noticed `json:"seen"`
	Says   string          `json:"says"`
	Points []string        `json:"points"` // titles of the parts that it points to
}

// Acts describes the acts of a circuit. What is cut off is that of the first step in which it is
// something.
func Acts(c *circuit.Circuit) []ActView {
	out := []ActView{}
	titles := func(ids []string) []string {
		list := []string{}
		for _, id := range ids {
			list = append(list, partTitle(c, id))
		}
		return list
	}
	for _, a := range c.Acts {
		v := ActView{ID: a.ID, Title: a.Title, Does: a.Does, Minutes: minutes(a.Takes), Needs: a.Needs, Mind: a.Mind, Cuts: []string{}}
		if a.Reached > 0 {
			v.Minutes += ", " + minutes(a.Reached) + " where something must come off first"
		}
		step := firstOf(c, a)
		v.Cuts = titles(c.CutOff(a, step))
		for _, x := range a.Answers {
			v.Answers = append(v.Answers, AnswerView{x.Seen, x.Says, titles(x.Points)})
		}
		out = append(out, v)
	}
	return out
}

// firstOf is the first step in which an act may be done.
func firstOf(c *circuit.Circuit, a circuit.Act) circuit.Step {
	for _, s := range c.Tests() {
		if slices.ContainsFunc(c.ActsOf(s), func(x circuit.Act) bool { return x.ID == a.ID }) {
			return s
		}
	}
	return c.Tests()[0]
}

func partTitle(c *circuit.Circuit, id string) string {
	for _, p := range c.Parts {
		if p.ID == id {
			return quantity.Lower(p.Title)
		}
	}
	return "the rig"
}

func minutes(s quantity.S) string { return quantity.Duration(float64(s)) }

// Behind is the cover that hides a part and what it costs; empty where nothing does.
func Behind(c *circuit.Circuit, p circuit.Part) string {
	cover, ok := c.CoverOf(p)
	switch {
	case !ok:
		return ""
	case cover.Off == 0:
		return "behind the " + cover.Title
	}
	return fmt.Sprintf("behind the %s, %s to take it off and put it back", cover.Title, minutes(cover.Off))
}

// Tells is what changes a part's leak, which way it opens and where it stands, in words.
func Tells(c *circuit.Circuit, p circuit.Part) []string {
	out := []string{}
	if p.OneWay {
		out = append(out, fmt.Sprintf("opens from %s to %s", chamberTitle(c, p.Between[0]), chamberTitle(c, p.Between[1])))
	}
	for _, change := range circuit.Changes {
		if times, ok := p.Changes[change]; ok {
			out = append(out, fmt.Sprintf("%s: %s times the leak", changeSays[change], quantity.Significant(times, 2)))
		}
	}
	if len(p.Below) > 0 {
		says := "wetted from above by"
		for i, id := range p.Below {
			if i > 0 {
				says += ","
			}
			says += " " + partTitle(c, id)
		}
		out = append(out, says)
	}
	return out
}

var changeSays = map[circuit.Change]string{
	circuit.WhenHot: "hot", circuit.WhenCold: "cold", circuit.WhenMoved: "when moved", circuit.WhenVacuum: "under vacuum",
	circuit.WhenPressure: "under pressure", circuit.WhenEngine: "engine running", circuit.WhenSettled: "after some minutes",
}

func chamberTitle(c *circuit.Circuit, id string) string {
	if ch, ok := c.Chamber(id); ok {
		return ch.Title
	}
	return "outside"
}
