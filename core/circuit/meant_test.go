package circuit

import (
	"strings"
	"testing"
)

// A circuit is meant by its own words before those that speak for it less strongly; without
// any it is the first, and a word or two of those alone do not take a job from the usual family.
func TestTheCircuitThatIsMeant(t *testing.T) {
	all := []Circuit{
		{ID: "tank", Family: "cooling", Mark: Mark{On: "cap"}, Title: "Loop with a tank", Words: []string{"coolant"}, Complaints: []string{"loses coolant", "after a repair"}},
		{ID: "neck", Family: "cooling", Also: []string{"radiator"}, Title: "Loop with its cap on the radiator"},
		{ID: "saw", Family: "crankcase", Title: "Two-stroke crankcase", Words: []string{"saw", "blower"}, Complaints: []string{"runs lean", "after a repair"}},
		{ID: "block", Family: "block", Title: "Engine block", Words: []string{"block"}},
		{ID: "train", Family: "train", Title: "Brake", Things: "wagon", Words: []string{"train"}},
		{ID: "valves", Family: "housing", Title: "Valve block", Words: []string{"valve"}, Also: []string{"block"}},
	}
	for typed, want := range map[string]string{
		"": "tank", "Bin carrier 4": "tank", "carrier|after a repair": "tank", "Säge": "tank",
		"Mist-BLOWER": "saw", "hedge saw|runs lean": "saw", "saw carrier|loses coolant": "tank",
		"radiator": "neck", "engine": "tank", "valve block": "valves", "block of the pump": "block",
		"sawmill": "tank", // a word is a whole word
	} {
		bench, complaint, _ := strings.Cut(typed, "|")
		if got := Meant(all, Typed{Bench: bench, Complaint: complaint}).Circuit.ID; got != want {
			t.Errorf("%q means %s, want %s", typed, got, want)
		}
	}
	for typed, want := range map[string]string{"Hedge saw": "tank", "Fruit train": "train", "radiator": "tank", "": "tank"} {
		if got := Meant(all, Typed{Bench: typed, Figure: "16"}).Circuit.ID; got != want {
			t.Errorf("%q with a figure means %s, want %s", typed, got, want)
		}
	}
	if got := Meant(all[2:3], Typed{Bench: "saw", Figure: "16"}).Circuit.ID; got != "saw" {
		t.Errorf("without any that has a mark it means %s", got)
	}
}
