package trace

import (
	"math"
	"slices"
)

// Noted is a reading as a long list keeps it: without a pointer, in 24 bytes. A hold overnight has a hundred thousand.
type Noted struct {
	AtS, GaugePa float64 // s; Pa from ambient
	Seq          int32   // its number in its gauge's list
	Why          uint16  // it is struck: its reason's place in Reasons; 0 while it stands
	Is           Marks
}

// Marks are what a reading is beside its figure.
type Marks uint8

// The marks.
const (
	Crossed Marks = 1 << iota // the needle crossed a mark of the face
	Own                       // the gauge said it by itself, or a recorder took it
	Held                      // taken down, and not believed yet
	Filmed                    // a camera saw it
)

// Struck reports whether it is not to be used, for a reason.
func (n *Noted) Struck() bool { return n.Why > 0 }

// Stands reports whether it counts: it is neither struck nor waits to be believed.
func (n *Noted) Stands() bool { return n.Why == 0 && n.Is&Held == 0 }

// Set sets or clears marks.
func (n *Noted) Set(m Marks, on bool) {
	n.Is &^= m
	if on {
		n.Is |= m
	}
}

// Reading is it as a trace has it.
func (n *Noted) Reading() Reading {
	return Reading{AtS: n.AtS, GaugePa: n.GaugePa, How: n.How()}
}

// How is the way in which it was taken.
func (n *Noted) How() How {
	switch {
	case n.Is&Crossed != 0:
		return Mark
	case n.Is&Filmed != 0:
		return Camera
	}
	return Read
}

// Taken notes the way in which it was taken.
func (n *Noted) Taken(h How) {
	n.Set(Crossed, h == Mark)
	n.Set(Filmed, h == Camera)
}

// ThinNoted thins a long list for a screen of so many points. It keeps every reading that a person took, and the extremes
// of those that stand and of those that do not.
func ThinNoted(all []Noted, most int) []Noted {
	if len(all) <= most {
		return all
	}
	keep, alike := make([]bool, len(all)), [2][]int{} // standing, struck
	for i := range all {
		keep[i] = all[i].Is&(Own|Filmed) == 0
		which := 0
		if all[i].Struck() {
			which = 1
		}
		alike[which] = append(alike[which], i)
	}
	for _, at := range alike {
		for _, k := range thinned(len(at), most, func(k int) float64 { return all[at[k]].GaugePa }) {
			keep[at[k]] = true
		}
	}
	var out []Noted
	for i, r := range all {
		if keep[i] {
			out = append(out, r)
		}
	}
	return out
}

// Reasons are those for which the readings of a list are struck, in the order in which they came. A copy stays as it was
// when more come.
type Reasons []string

// Place is where a reason stands, from 1 on; 0 for no reason. After 65,535 the last stands for what follows.
func (r *Reasons) Place(why string) uint16 {
	if why == "" {
		return 0
	}
	i := slices.Index(*r, why)
	if i < 0 {
		if i = len(*r); i == math.MaxUint16 {
			return math.MaxUint16
		}
		*r = append((*r)[:i:i], why)
	}
	return uint16(i + 1)
}

// Of is why a reading is struck; "" while it is not.
func (r Reasons) Of(n *Noted) string {
	if n.Why == 0 {
		return ""
	}
	return r[n.Why-1]
}
