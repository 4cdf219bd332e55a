package shop

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/logbook"
)

// SignView is something that may be seen before any tool, and points to a part.
type SignView struct {
	Text string `json:"text"`
	Seen bool   `json:"seen"`
}

// Sign takes down a free sign, seen or taken back.
type Sign struct {
	Write
	Text string `json:"text" maxLength:"120" doc:"one of the circuit's signs"`
	Seen bool   `json:"seen"`
}

// Hunch is a guess before anything was looked at: it weighs, but less than a sign.
type Hunch struct {
	Write
	Part string `json:"part" doc:"of the circuit; empty takes it back"`
}

func signs(sn snapshot) []SignView {
	out, seen := []SignView{}, signsSeen(sn.facts)
	for _, s := range hunt.Signs(bounding(&sn.Circuit)) {
		out = append(out, SignView{s, seen[s]})
	}
	return out
}

// signsSeen are the signs that stand.
func signsSeen(facts []logbook.Fact) map[string]bool {
	out := map[string]bool{}
	for _, f := range facts {
		if text, ok := strings.CutPrefix(f.Subject, "sign/"); ok && f.SupersededBy == "" {
			out[text] = string(f.Value) == "true"
		}
	}
	return out
}

func hunchOf(facts []logbook.Fact) (part string) {
	if f, ok := standing(facts, "hunch"); ok {
		_ = json.Unmarshal(f.Value, &part) // what cannot be read is no hunch
	}
	return part
}

// Sign takes one down.
func (s *Shop) Sign(ctx context.Context, jobID string, in Sign) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		if !slices.Contains(hunt.Signs(bounding(&sn.Circuit)), in.Text) {
			return refuse("text", "%q is no sign of %s: take it down in words", in.Text, lower(sn.Circuit.Title))
		}
		says := title(in.Text) + ": seen."
		if !in.Seen {
			says = title(in.Text) + ": not so."
		}
		return fact(tx, st, "sign-"+st.ID, jobID, "sign/"+in.Text, "first-look", "eyes", says, in.Seen)
	})
}

// Hunch takes a guess down.
func (s *Shop) Hunch(ctx context.Context, jobID string, in Hunch) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		says := "No guess any more."
		if in.Part != "" {
			parts := bounding(&sn.Circuit)
			i := slices.IndexFunc(parts, func(p circuit.Part) bool { return p.ID == in.Part })
			if i < 0 {
				return refuse("part", "%s has no part %q", sn.Circuit.Title, in.Part)
			}
			says = "A guess: " + lower(parts[i].Title) + "."
		}
		return fact(tx, st, "hunch-"+st.ID, jobID, "hunch", "first-look", "typed", says, in.Part)
	})
}
