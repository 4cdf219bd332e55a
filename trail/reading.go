package trail

import (
	"slices"
	"time"

	"idlehiss/core/hunt"
)

// reading is a log on its way to a hunt.
type reading struct {
	hunt.Hunt
	log   *Log
	notes []string  // what each piece of evidence is, in words
	since time.Time // of the last repair
}

func (r *reading) found(e hunt.Evidence, note string) {
	r.Found, r.notes = append(r.Found, e), append(r.notes, note)
}

// livedWith reports whether a hold's leak is one of the rig that is accepted.
func (r *reading) livedWith(h Held) bool {
	return slices.ContainsFunc(r.log.Lived, func(x Lived) bool { return x.Hold == h.ID })
}

// marked are the suspects of some ids.
func (r *reading) marked(ids ...string) []bool {
	out := make([]bool, len(r.Suspects))
	for i, s := range r.Suspects {
		out[i] = slices.Contains(ids, s.ID)
	}
	return out
}

func (r *reading) title(id string) string {
	for _, s := range r.Suspects {
		if s.ID == id {
			return s.Title
		}
	}
	return id
}
