package main

import (
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/quantity"
	"idlehiss/library"
)

// hunted is the document.
type hunted struct {
	Version         int             `json:"version"`
	Circuit         string          `json:"circuit"`
	Flow            *huntedFlow     `json:"flow_cm3_per_min"`
	Suspects        []huntedSuspect `json:"suspects"`
	Rig             float64         `json:"rig"`
	TwoLeaks        float64         `json:"two_leaks"`
	Elsewhere       float64         `json:"elsewhere"`
	Next            *huntedCheck    `json:"next"`
	Then            []huntedCheck   `json:"then"`
	Struck          []huntedStruck  `json:"struck"`
	ExpectedMinutes *float64        `json:"expected_minutes"` // null: nothing that is offered would show it
	Named           *huntedNamed    `json:"named"`
}

type huntedFlow struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

type huntedSuspect struct {
	Part   string   `json:"part"`
	Title  string   `json:"title"`
	Odds   float64  `json:"odds"`
	Looked []string `json:"looked"`
}

type huntedCheck struct {
	Kind           string   `json:"kind" enum:"look,act,isolate,condition,mend,confirm"`
	Part           *string  `json:"part"`
	Method         *string  `json:"method"`
	Act            *string  `json:"act"`
	Condition      *string  `json:"condition"`
	Opens          *string  `json:"opens"`
	Tries          []string `json:"tries"`
	Minutes        float64  `json:"minutes"`
	HandsOnMinutes float64  `json:"hands_on_minutes"`
	IfThere        float64  `json:"if_there"`
	Chance         float64  `json:"chance"`
	Says           string   `json:"says"`
	Why            string   `json:"why"`
}

type huntedStruck struct {
	Method string `json:"method"`
	Why    string `json:"why"`
}

type huntedNamed struct {
	Part    string   `json:"part"`
	Odds    float64  `json:"odds"`
	Seen    bool     `json:"seen"`
	Repairs []string `json:"repairs"`
}

func (h *hunting) document() hunted {
	b := hunt.Believe(h.shares, h.found)
	doc := hunted{Version: 1, Circuit: h.Circuit.ID, Flow: h.flow, Suspects: []huntedSuspect{}, TwoLeaks: b.Two, Elsewhere: b.Elsewhere, Then: []huntedCheck{}, Struck: []huntedStruck{}}
	order := make([]int, len(h.Suspects))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, k int) int {
		switch {
		case b.Odds[i] > b.Odds[k]:
			return -1
		case b.Odds[i] < b.Odds[k]:
			return 1
		}
		return 0
	})
	for _, i := range order {
		s := h.Suspects[i]
		if s.OfRig {
			doc.Rig += b.Odds[i]
		}
		doc.Suspects = append(doc.Suspects, huntedSuspect{s.ID, s.Title, b.Odds[i], append([]string{}, h.looked[s.ID]...)})
	}
	plan := h.Next(b, h.done, mostChecks+1)
	first := order[0]
	named, ok := b.Named()
	if seen := h.seen[h.Suspects[first].ID]; ok || seen && b.Odds[first] > 0.5 {
		if !ok {
			named = first
		}
		doc.Named = &huntedNamed{h.Suspects[named].ID, b.Odds[named], h.seen[h.Suspects[named].ID], h.ladder(h.Suspects[named])}
	}
	for _, c := range plan.Checks {
		doc.Then = append(doc.Then, h.check(c, doc.Named))
	}
	if len(doc.Then) > 0 {
		doc.Next, doc.Then = &doc.Then[0], doc.Then[1:]
	}
	if !math.IsInf(plan.Minutes, 1) {
		doc.ExpectedMinutes = &plan.Minutes
	}
	for _, s := range plan.Struck {
		doc.Struck = append(doc.Struck, huntedStruck{s.Method.ID, h.strikes(s)})
	}
	return doc
}

// ladder are the repairs of a part, the smallest honest one first.
func (h *hunting) ladder(s hunt.Suspect) []string {
	out := []string{}
	all := h.Circuit.Repairs
	if len(all) == 0 {
		all, _ = library.Repairs() // none: the list stays empty
	}
	for _, r := range (circuit.RepairSchool{First: circuit.Scopes[0]}).Ladder(all, s.Kind) {
		out = append(out, r.Title)
	}
	return out
}

func (h *hunting) check(c hunt.Check, named *huntedNamed) huntedCheck {
	out := huntedCheck{Kind: "look", Tries: []string{}, Minutes: c.Minutes(), HandsOnMinutes: c.HandsS / 60, IfThere: c.IfThere, Chance: c.Chance}
	for _, i := range c.Tries {
		out.Tries = append(out.Tries, h.Suspects[i].ID)
	}
	if c.Act != nil {
		out.Kind, out.Act = "act", &c.Act.ID
		out.Says = fmt.Sprintf("%s: %s.", c.Act.Title, minutes(c.Minutes()))
		out.Why = fmt.Sprintf("It tells %d of them from the rest under pressure, before anything comes off.", len(c.Tries))
		return out
	}
	p := h.Suspects[c.Part]
	out.Part, out.Method = &p.ID, &c.Method.ID
	out.Says = fmt.Sprintf("%s. %s: %s, %s.", p.Title, c.Method.Title, minutes(c.Minutes()), aboutOneIn(c.Chance))
	out.Why = p.Look
	if c.Cover != nil {
		out.Opens = &c.Cover.ID
		out.Minutes += float64(c.Cover.Off) / 60
		out.Says = fmt.Sprintf("%s. %s off first, %s; then %s: %s, %s.", p.Title, c.Cover.Title, minutes(float64(c.Cover.Off)/60), quantity.Lower(c.Method.Title), minutes(c.Minutes()), aboutOneIn(c.Chance))
		if p.Within != "" {
			out.Why = p.Within
		}
	}
	if named != nil && named.Part == p.ID && !named.Seen {
		out.Kind = "confirm"
	}
	return out
}

// minutes says how long it takes.
func minutes(m float64) string {
	switch {
	case m >= 90:
		return fmt.Sprintf("%.2g h", m/60)
	case m >= 1.5:
		return fmt.Sprintf("%.0f min", m)
	}
	return fmt.Sprintf("%.0f s", m*60)
}

// aboutOneIn is a chance as it is said.
func aboutOneIn(p float64) string {
	if p >= 0.5 {
		return fmt.Sprintf("about %d in 10", int(math.Round(p*10)))
	}
	return fmt.Sprintf("about 1 in %s", quantity.Significant(1/math.Max(p, 1e-6), 1))
}

// strikes says why a method is not offered.
func (h *hunting) strikes(s hunt.Struck) string {
	switch {
	case s.Needs > 0 && s.Liquid:
		return fmt.Sprintf("too little liquid comes out for it: it wants some %s mL/h", quantity.Significant(s.Needs*3.6e9, 2))
	case s.Needs > 0:
		return fmt.Sprintf("a leak of this size does not show by it: it wants some %s cm³/min", quantity.Significant(s.Needs*60e6, 2))
	case s.Unsuited.Needs:
		return "it is for another kind of place"
	case s.Unsuited.MostPa > 0:
		return fmt.Sprintf("only up to %g kPa", s.Unsuited.MostPa/1e3)
	}
	return map[hunt.Place]string{
		hunt.UnderVacuum: "air is drawn in: it would be sucked off", hunt.Inside: "it does not reach inside",
		hunt.Electrics: "not beside plugs and sensors", hunt.OnMachine: "it cannot be dipped where it is",
		hunt.OilPressure: "not near oil under pressure: a jet goes through skin", hunt.NearBelts: "not near belts and fans",
		hunt.NearFuel: "not near fuel", hunt.Combustion: "not where burnt gas may be",
	}[s.Unsuited.Place]
}

func (d *hunted) print(w io.Writer, x *circuit.Circuit) {
	if d.Flow != nil {
		fmt.Fprintf(w, "%s: %s cm³/min (%s to %s)\n", x.Title, quantity.Significant(d.Flow.Value, 2), quantity.Significant(d.Flow.Low, 2), quantity.Significant(d.Flow.High, 2))
	} else {
		fmt.Fprintf(w, "%s: how much is lost is not known\n", x.Title)
	}
	if d.Named != nil {
		how := "by the odds; not seen yet"
		if d.Named.Seen {
			how = "seen"
		}
		fmt.Fprintf(w, "Named: %s, %.0f %%, %s\n", d.Named.Part, 100*d.Named.Odds, how)
		for _, r := range d.Named.Repairs {
			fmt.Fprintf(w, "  %s\n", r)
		}
	}
	for _, s := range d.Suspects {
		if s.Odds < 0.005 {
			continue
		}
		looked := ""
		if len(s.Looked) > 0 {
			looked = "  (" + strings.Join(s.Looked, ", ") + ")"
		}
		fmt.Fprintf(w, "%4.0f %%  %s%s\n", 100*s.Odds, s.Title, looked)
	}
	fmt.Fprintf(w, "%4.0f %%  at none of these; two at once %.0f %%\n", 100*d.Elsewhere, 100*d.TwoLeaks)
	if d.Next == nil {
		fmt.Fprintln(w, "Next: nothing that is offered would show it from outside.")
	} else {
		fmt.Fprintf(w, "Next: %s\n      %s\n", d.Next.Says, d.Next.Why)
	}
	for _, c := range d.Then {
		fmt.Fprintf(w, "then: %s\n", c.Says)
	}
	if d.ExpectedMinutes != nil {
		fmt.Fprintf(w, "About %s until it is seen.\n", minutes(*d.ExpectedMinutes))
	}
	for _, s := range d.Struck {
		fmt.Fprintf(w, "Not %s: %s.\n", s.Method, s.Why)
	}
}
