package circuit

import (
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"idlehiss/core/quantity"
)

// How much a word speaks for a circuit. What stands on the bench outranks the complaint, and of a name its last
// word is what the thing is: a saw carburettor is a carburettor. Own figures, tried on how a shop names its machines.
const (
	headSaid  = 2.8 // one of the circuit's own words, as what the thing is
	pairSaid  = 3.0 // two words of its title, side by side
	said      = 2.0 // one of its own words in the complaint
	besides   = 1.0 // one of its own words beside what the thing is
	headTold  = 1.0 // a word that speaks for it less strongly, as what the thing is
	told      = 0.5 // such a word anywhere else
	plainly   = 0.6 // so much more than the usual family must another have
	alike     = 0.1 // scores no further apart fit as well as each other
	mostAlike = 3
)

// Typed is what a person types to begin a job.
type Typed struct {
	Bench     string // what is on the bench
	Complaint string
	Figure    string // a mark, or how many
}

// Proposal is the circuit that what was typed speaks for.
type Proposal struct {
	Circuit Circuit
	Also    []Circuit // that fit as well
	Count   int       // how many of its things were named; 0: none
}

// Meant is the circuit that most words of what was typed speak for. The first of all and its family are what
// most jobs are: others must be spoken for plainly. Where a figure was typed too, it is one that has a use for
// it: a mark, or, where it is a bare number, how many things there are. Where a volume is named, of those that fit
// alike it is the one whose gas is nearest. all is not empty.
func Meant(all []Circuit, in Typed) Proposal {
	best, figure := mostSaid(all, in), strings.TrimSpace(in.Figure)
	if figure != "" && !best.Circuit.Marked() {
		_, _, err := quantity.Number(figure)
		marked := slices.DeleteFunc(slices.Clone(all), func(c Circuit) bool { return !c.Marked() })
		if (err != nil || best.Circuit.Things == "") && len(marked) > 0 {
			best = mostSaid(marked, in)
		}
	}
	best.Count = counted(in.Bench, best.Circuit.Things)
	return best
}

func mostSaid(all []Circuit, in Typed) Proposal {
	scores := make([]float64, len(all))
	best := 0
	for i := range all {
		scores[i] = all[i].spokenFor(in)
		if all[i].Family != all[0].Family {
			scores[i] -= plainly
		}
		if scores[i] > math.Max(scores[best], 0) {
			best = i
		}
	}
	fits := []Circuit{}
	for i, s := range scores {
		if i == best || s > 0 && scores[best]-s <= alike && all[i].Family == all[best].Family {
			fits = append(fits, all[i])
		}
	}
	first := slices.IndexFunc(fits, func(c Circuit) bool { return c.ID == all[best].ID })
	if v, ok := volume(in.Bench); ok && len(fits) > 1 {
		first = nearest(fits, v)
	}
	p := Proposal{Circuit: fits[first]}
	p.Also = slices.Delete(slices.Clone(fits), first, first+1)
	p.Also = p.Also[:min(len(p.Also), mostAlike)]
	return p
}

// spokenFor is how much what was typed speaks for a circuit.
func (c *Circuit) spokenFor(in Typed) float64 {
	own, title := words(strings.Join(c.Words, " ")), words(c.Title)
	score := 0.0
	for _, phrase := range phrases(in.Bench) {
		for i, w := range phrase.words {
			head := phrase.is && i == len(phrase.words)-1
			switch ours, less := slices.Contains(own, w), slices.Contains(c.Also, w); {
			case ours && head:
				score += headSaid
			case ours:
				score += besides
			case less && head:
				score += headTold
			case less:
				score += told
			}
			if at := slices.Index(title, w); at >= 0 && at+1 < len(title) && i+1 < len(phrase.words) && title[at+1] == phrase.words[i+1] {
				score += pairSaid
			}
		}
	}
	for _, w := range words(in.Complaint) {
		switch {
		case slices.Contains(own, w):
			score += said
		case slices.Contains(c.Also, w):
			score += told
		}
	}
	return score
}

// phrase is some words of a name; is: they say what the thing is, not what it belongs to.
type phrase struct {
	words []string
	is    bool
}

// joins are words after which a name says what the thing belongs to.
var joins = []string{"of", "from", "on", "for", "with", "in", "at"}

func phrases(text string) []phrase {
	var out []phrase
	for _, part := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == '(' || r == ')' }) {
		at := phrase{is: true}
		for _, w := range words(part) {
			if slices.Contains(joins, w) {
				out = append(out, at)
				at = phrase{}
				continue
			}
			at.words = append(at.words, w)
		}
		out = append(out, at)
	}
	return out
}

func words(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
}

var volumeForm = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\s*(mL|L|l|cm³|cm3|cc|litres?|liters?)(?:[^\pL\d]|$)`)

// volume is the one that a name states, m³.
func volume(text string) (float64, bool) {
	m := volumeForm.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	v, err := quantity.Parse(m[1]+" "+m[2], quantity.Volume, quantity.MustNamed("L", quantity.Volume), quantity.StandardAtmosphere)
	return v.Low, err == nil && v.Low > 0
}

// nearest is the circuit whose gas is nearest to a volume (m³), as a ratio.
func nearest(all []Circuit, m3 float64) int {
	best, least := 0, math.Inf(1)
	for i, c := range all {
		for _, ch := range c.Chambers {
			if off := math.Abs(math.Log(float64(ch.Volume) / m3)); ch.Holds == HoldsGas && ch.Volume > 0 && off < least {
				best, least = i, off
			}
		}
	}
	return best
}

var numbers = []string{"", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen"}

// counted is how many things a name states: "eight wagons", "a train of 5 wagons"; 0 where it does not.
func counted(text, thing string) int {
	if thing == "" {
		return 0
	}
	list := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for i := 1; i < len(list); i++ {
		if list[i] != thing && list[i] != thing+"s" {
			continue
		}
		if n, err := strconv.Atoi(list[i-1]); err == nil {
			return n
		}
		if n := slices.Index(numbers, list[i-1]); n > 0 {
			return n
		}
	}
	return 0
}
