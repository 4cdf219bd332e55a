// Package asked reads what a person types to search the book: plain words that mean a filter are one, the rest is looked
// for as it stands. Which words those are is the library's.
package asked

import (
	"slices"
	"strings"
)

// Only is a filter of the book.
type Only string

// The filters.
const (
	Open     Only = "open"     // not closed or abandoned
	Unproved Only = "unproved" // mended, and not proved yet
	Due      Only = "due"      // something is to be looked at again
	KitOut   Only = "kit out"  // kit that is lent out, or borrowed
)

// Values lists every filter.
func (Only) Values() []string {
	return []string{string(Open), string(Unproved), string(Due), string(KitOut)}
}

// Vocabulary is what words mean.
type Vocabulary struct {
	Only     map[Only][]string   `yaml:"only"`     // phrases
	Hands    []string            `yaml:"hands"`    // phrases before a person's name
	Families map[string][]string `yaml:"families"` // of circuits; the first is what it is called
}

// Asked is what is wanted.
type Asked struct {
	Words  string // looked for as they stand
	Only   []Only // each once, in the order in which they were typed
	Hands  string // a person, as the book writes the name; empty: anyone
	Family string // empty: any
}

// Has tells whether a filter is on.
func (a Asked) Has(o Only) bool { return slices.Contains(a.Only, o) }

// Parse reads a text. people are the names that the book knows. What stands in double quotes means itself.
func (v Vocabulary) Parse(text string, people []string) (a Asked) {
	var left []string
	for i, part := range strings.Split(text, `"`) {
		words := strings.Fields(part)
		if i%2 == 1 { // it stood in quotes
			left = append(left, words...)
			continue
		}
		for len(words) > 0 {
			n := v.take(&a, words, people)
			if n == 0 {
				left, n = append(left, words[0]), 1
			}
			words = words[n:]
		}
	}
	a.Words = strings.Join(left, " ")
	return a
}

// take takes the longest phrase that words begin with and that means something, and gives how many words it has.
func (v Vocabulary) take(a *Asked, words, people []string) (n int) {
	var means func()
	try := func(phrase string, do func()) {
		if p := len(strings.Fields(phrase)); p > n && begins(words, phrase) {
			n, means = p, do
		}
	}
	for only, phrases := range v.Only {
		for _, p := range phrases {
			try(p, func() {
				if !a.Has(only) {
					a.Only = append(a.Only, only)
				}
			})
		}
	}
	for family, phrases := range v.Families {
		for _, p := range phrases {
			try(p, func() { a.Family = family })
		}
	}
	for _, p := range v.Hands {
		for _, person := range people {
			try(p+" "+person, func() { a.Hands = person })
		}
	}
	if n > 0 {
		means()
	}
	return n
}

func begins(words []string, phrase string) bool {
	for i, w := range strings.Fields(phrase) {
		if i >= len(words) || !strings.EqualFold(w, words[i]) {
			return false
		}
	}
	return true
}
