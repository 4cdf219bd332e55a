package circuit

import (
	"slices"
	"strings"
	"unicode"

	"idlehiss/core/quantity"
)

// How much a word of a machine's name or complaint speaks for a circuit. Own figures,
// tried on how a shop names its machines.
const (
	said    = 2   // one of the circuit's own words
	told    = 0.5 // one of the words that speak for it less strongly
	plainly = 0.6 // so much more than the usual family must another have
)

// Meant is the circuit that most words of what was typed speak for, such as a machine's
// name and its complaint. The first of all and its family are what most jobs are: others
// must be spoken for plainly. Where a figure was typed too, it is one that has a use
// for it: a mark, or, where it is a bare number, how many things there are. all is not empty.
func Meant(all []Circuit, typed, figure string) Circuit {
	best, figure := mostSaid(all, typed), strings.TrimSpace(figure)
	if figure == "" || best.Marked() {
		return best
	}
	if _, _, err := quantity.Number(figure); err == nil && best.Things != "" {
		return best
	}
	marked := slices.DeleteFunc(slices.Clone(all), func(c Circuit) bool { return !c.Marked() })
	if len(marked) == 0 {
		return best
	}
	return mostSaid(marked, typed)
}

func mostSaid(all []Circuit, typed string) Circuit {
	best, most := all[0], 0.0
	for _, c := range all {
		own := words(strings.Join(c.Words, " "))
		score := 0.0
		for _, w := range words(typed) {
			switch {
			case slices.Contains(own, w):
				score += said
			case slices.Contains(c.Also, w):
				score += told
			}
		}
		if c.Family != all[0].Family {
			score -= plainly
		}
		if score > most {
			best, most = c, score
		}
	}
	return best
}

func words(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
}
