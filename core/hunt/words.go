package hunt

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// says is a check in one sentence, with its minutes and its chance.
func (h *Hunt) says(c Check) string {
	price := Minutes(c.Minutes())
	switch {
	case c.Act != nil:
		return fmt.Sprintf("%s: %s, %s.", c.Act.Title, price, aboutOneIn(c.Chance))
	case c.Step != nil:
		return fmt.Sprintf("Hold the step “%s”: %s.", quantity.Lower(c.Step.Title), price)
	case c.Change == circuit.WhenMoved:
		return fmt.Sprintf("Move hoses and joints, one after the other, and watch the gauge: %s.", price)
	case c.Change != "":
		return fmt.Sprintf("Hold it again hot: %s.", price)
	}
	at := strings.TrimPrefix(h.Suspects[c.Part].Title, "The ")
	do := fmt.Sprintf("%s %s: %s, %s.", c.Method.Does, quantity.Lower(at), price, aboutOneIn(c.Chance))
	if c.Cover == nil {
		return do
	}
	return fmt.Sprintf("Take off first: %s (%s). %s", quantity.Lower(c.Cover.Title), Minutes(float64(c.Cover.Off)/60), do)
}

// why says what speaks for a check.
func (h *Hunt) why(c Check) string {
	switch {
	case c.Act != nil:
		return fmt.Sprintf("It splits the suspects under pressure: %d of %d on one side. Nothing comes off.", len(c.Tries), len(h.Suspects))
	case c.Step != nil:
		return fmt.Sprintf("It tries %d of the %d suspects.", len(c.Tries), len(h.Suspects))
	case c.Change != "":
		return fmt.Sprintf("The leak of %d of the %d suspects grows with it.", len(c.Tries), len(h.Suspects))
	}
	p := h.Suspects[c.Part]
	if c.Cover != nil && p.Within != "" {
		return p.Within
	}
	return p.Look
}

// Minutes is a time in words.
func Minutes(m float64) string {
	switch {
	case m >= 48*60:
		return fmt.Sprintf("%.2g days", m/24/60)
	case m >= 90:
		return fmt.Sprintf("%.2g h", m/60)
	case m >= 1.5:
		return fmt.Sprintf("%.0f min", m)
	}
	return fmt.Sprintf("%.0f s", math.Max(10, 10*math.Round(m*6)))
}

// aboutOneIn is a chance in words.
func aboutOneIn(p float64) string {
	if p >= 0.5 {
		return fmt.Sprintf("about %d in 10", int(math.Round(p*10)))
	}
	return fmt.Sprintf("about 1 in %s", quantity.Significant(1/math.Max(p, 1e-6), 1))
}

// says is why a method is not offered.
func (s Struck) says() string {
	switch {
	case s.Missing:
		return "this shop does not have it"
	case s.Needs > 0 && s.Liquid:
		return fmt.Sprintf("too little liquid comes out: it needs about %s mL/h", quantity.Significant(s.Needs*3.6e9, 2))
	case s.Needs > 0:
		return fmt.Sprintf("the leak is too small: it needs about %s cm³/min", quantity.Significant(s.Needs*60e6, 2))
	case s.Unsuited.Needs:
		return "it is for another kind of place"
	case s.Unsuited.MostPa > 0:
		return fmt.Sprintf("only up to %g kPa", s.Unsuited.MostPa/1e3)
	}
	return unsuitedSays[s.Unsuited.Place]
}

// unsuitedSays is why no method may be used at a place.
var unsuitedSays = map[Place]string{
	UnderVacuum: "air is drawn in: it would be sucked off", Inside: "it does not reach inside",
	Electrics: "not beside plugs and sensors", OnMachine: "it cannot be dipped where it is",
	OilPressure: "not near oil under pressure: a jet goes through skin", NearBelts: "not near belts and fans",
	NearFuel: "not near fuel", Combustion: "not where burnt gas may be",
}
