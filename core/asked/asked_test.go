package asked

import (
	"fmt"
	"testing"
)

func TestPlainWordsMeanFilters(t *testing.T) {
	v := Vocabulary{
		Only:     map[Only][]string{Open: {"open", "in hand"}, Unproved: {"not proved", "not proved yet"}, Due: {"due"}, KitOut: {"borrowed out"}},
		Hands:    []string{"by", "in the hands of"},
		Families: map[string][]string{"cooling": {"all cooling"}, "train": {"all brakes", "all train brakes"}},
	}
	people := []string{"Ana", "Jo Ann"}
	for text, want := range map[string]Asked{
		"":                                   {},
		"pickup leaking":                     {Words: "pickup leaking"},
		"Not  Proved yet carrier":            {Words: "carrier", Only: []Only{Unproved}},
		"carrier in hand due due":            {Words: "carrier", Only: []Only{Open, Due}},
		"in tank":                            {Words: "in tank"},
		"open by ana":                        {Only: []Only{Open}, Hands: "Ana"},
		"in the hands of jo ann all brakes":  {Hands: "Jo Ann", Family: "train"},
		"by pass hose":                       {Words: "by pass hose"},
		`"open" valve, all train brakes`:     {Words: "open valve,", Family: "train"},
		`due "in hand`:                       {Words: "in hand", Only: []Only{Due}},
		"opened":                             {Words: "opened"},
		"borrowed out all cooling last":      {Words: "last", Only: []Only{KitOut}, Family: "cooling"},
		"not proved not proved yet by Ana x": {Words: "x", Only: []Only{Unproved}, Hands: "Ana"},
	} {
		if got := v.Parse(text, people); fmt.Sprint(got) != fmt.Sprint(want) {
			t.Errorf("%q is %+v, want %+v", text, got, want)
		}
	}
}
