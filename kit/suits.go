package kit

import (
	"slices"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
)

// PieceView is an adapter or plug of the kit that may go on.
type PieceView struct {
	ID     string        `json:"id"`
	Kind   terms.KitKind `json:"kind"`
	Name   string        `json:"name"`
	Fits   string        `json:"fits"`
	Rating string        `json:"rating"` // what it is good for; empty: not known
	Suits  bool          `json:"suits"`  // it is of a family that the port takes, and of the neck's size
	Why    string        `json:"why"`    // it suits the neck, or does not
	Sized  bool          `json:"-"`      // and known to go on it
	On     bool          `json:"on"`     // it is on this rig
	Away   string        `json:"away"`   // lent to; empty: it is here
	Leaked int           `json:"leaked"` // jobs in which its joint leaked
	Doubt  bool          `json:"doubt"`  // so many that it is a suspect by itself
	Busy   string        `json:"busy"`   // the machine of another job on which it is under pressure now
}

// Suiting lists the adapters and plugs in use, those that suit a neck and what ports take
// first. on are the ids of those on the rig; busy has the machine of those under pressure elsewhere.
func (s *Shelf) Suiting(neck runsheet.Neck, takes []terms.Fitting, on []string, busy map[string]string) []PieceView {
	var suit, others []PieceView
	for _, p := range s.Pieces {
		if s.out(p.ID) {
			continue
		}
		v := PieceView{ID: p.ID, Kind: p.Kind, Name: p.Name, Fits: p.Note, Suits: p.FitsAny(takes), On: slices.Contains(on, p.ID), Away: s.away[p.ID], Leaked: len(p.leaked), Doubt: len(p.leaked) >= leaksOfASuspect, Busy: busy[p.ID]}
		if p.RatingPa > 0 {
			v.Rating = runsheet.TwoUnits(p.RatingPa)
		}
		fitted := neck.Takes(p.Fit)
		if goes, known := fitted.Suits(); known {
			v.Suits, v.Sized, v.Why = goes, goes, fitted.Says(neck.WidthM)
		}
		if v.Suits {
			suit = append(suit, v)
		} else {
			others = append(others, v)
		}
	}
	return append(suit, others...)
}
