package bundle

import (
	"encoding/json"
	"fmt"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// Beside says how a job of a bundle stands to the one that is here.
type Beside string

// The ways.
const (
	Fresh   Beside = "new"
	Grown   Beside = "more"  // all that is here is in the bundle, and more
	Here    Beside = "here"  // all that is in the bundle is here
	Against Beside = "other" // each has what the other has not, or an entry differs
)

// Values lists every way.
func (Beside) Values() []string {
	return []string{string(Fresh), string(Grown), string(Here), string(Against)}
}

// compare says how a job of a bundle stands to the same one here, which is nil where there is none. Entries are never
// changed, only added to, so that of two the one that has more goes on from the other. What of an entry may still come
// to it (an end, a stroke through it) counts as one more.
func compare(theirs logbook.Whole, ours *logbook.Whole) (Beside, string) {
	if ours == nil {
		return Fresh, ""
	}
	in, here := items(theirs), items(*ours)
	more, less := "", ""
	for key, is := range in {
		was, ok := here[key]
		switch {
		case !ok:
			more = key
		case was != is:
			return Against, fmt.Sprintf("%s is another one here", key)
		}
	}
	for key := range here {
		if _, ok := in[key]; !ok {
			less = key
		}
	}
	theirEnd, ourEnd := ends(theirs), ends(*ours)
	for id, at := range theirEnd {
		if was, ok := ourEnd[id]; ok && at > was {
			more = "the end of the hold " + id
		} else if ok && at < was {
			less = "the end of the hold " + id
		}
	}
	switch {
	case more != "" && less != "":
		return Against, fmt.Sprintf("%s is only in the bundle, and %s only here", more, less)
	case more != "":
		for _, h := range ours.Holds {
			if h.State != terms.Ended {
				return Against, "it is under pressure here: end the hold first"
			}
		}
		return Grown, ""
	}
	return Here, ""
}

// ends are when holds ended, µs; one that still ran when it was bundled ended later.
func ends(w logbook.Whole) map[string]int64 {
	out := map[string]int64{}
	for _, h := range w.Holds {
		if h.EndedAt != nil {
			out[h.ID] = h.EndedAt.UnixMicro()
		}
	}
	return out
}

// items are all that a job consists of, by what each is called in a sentence.
func items(w logbook.Whole) map[string]string {
	out := map[string]string{}
	add := func(key string, v any) {
		raw, err := json.Marshal(v)
		if err != nil {
			raw = []byte(err.Error()) // what cannot be written is like nothing else
		}
		out[key] = string(raw)
	}
	add("the job", []any{w.Stamp, w.Complaint, w.Hash, w.From})
	if w.State != terms.Open {
		add("its end", []any{w.State, w.EndedAt})
	}
	for _, f := range w.Facts {
		if f.SupersededBy != "" {
			add("what took the place of the entry "+f.ID, f.SupersededBy)
		}
		f.SupersededBy = ""
		add("the entry "+f.ID, f)
	}
	for _, o := range w.Observations {
		add("what was seen, "+o.ID, o)
	}
	for _, p := range w.Photos {
		add("the photo "+p.ID, p)
	}
	for _, h := range w.Holds {
		add("the hold "+h.ID, []any{h.Stamp, h.Purpose, h.Chamber, h.Simulated})
		if h.IsolatedAt != nil {
			add("when the supply of the hold "+h.ID+" was shut", h.IsolatedAt)
		}
		if h.State == terms.Ended {
			add("an end of the hold "+h.ID, nil)
		}
		for _, r := range h.Readings {
			name := fmt.Sprintf("reading %d of gauge %d in the hold %s", r.Seq, r.Gauge, h.ID)
			if r.Struck != "" {
				add("the stroke through "+name, r.Struck)
			}
			add(name, []any{r.At, r.Value, r.Unit, r.How, r.By, r.Device})
		}
		for _, e := range h.Events {
			add("the event "+e.ID, e)
		}
		for _, g := range h.Gaps {
			add(fmt.Sprintf("the gap from %s in the hold %s", g.From.Format("15:04:05"), h.ID), g.From)
		}
		for _, c := range h.Calls {
			add("the call "+c.ID, c)
		}
	}
	return out
}
