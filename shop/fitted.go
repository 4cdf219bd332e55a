package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/logbook"
)

// RigFitted is which adapters, plates and plugs went on this machine: pieces of
// the kit, stacked in this order, and what is not in it.
type RigFitted struct {
	Write
	Pieces []string `json:"pieces,omitempty" maxItems:"12" doc:"ids of adapters and plugs of the kit"`
	Text   string   `json:"text,omitempty" maxLength:"300" doc:"beside them"`
	Neck   string   `json:"neck,omitempty" maxLength:"60" doc:"how wide the neck is and how it is made: 38 mm; bayonet, shallow"`
}

// PieceView is an adapter or plug of the kit that may go on.
type PieceView struct {
	ID     string `json:"id"`
	Kind   string `json:"kind" enum:"adapter,plug"`
	Name   string `json:"name"`
	Fits   string `json:"fits"`
	Rating string `json:"rating"` // what it is good for; empty: not known
	Suits  bool   `json:"suits"`  // it is of a family that the port takes, and of the neck's size
	Why    string `json:"why"`    // it suits the neck, or does not
	On     bool   `json:"on"`     // it is on this rig
	Away   string `json:"away"`   // lent to; empty: it is here
}

// RigView is what goes on a machine.
type RigView struct {
	Ports  []string    `json:"ports"`   // each with the fittings it takes
	Pieces []PieceView `json:"pieces"`  // those that suit first
	Fitted string      `json:"fitted"`  // as taken down
	Text   string      `json:"text"`    // of it, what is not of the kit
	Necked bool        `json:"necked"`  // there is a neck whose size chooses the adapter
	Neck   string      `json:"neck"`    // as it was measured
	Before string      `json:"before"`  // what fitted the machine when it was last here
	Says   []string    `json:"says"`    // what to mind with these pieces
	SeenAt []string    `json:"seen_at"` // where the rig itself was seen to leak
}

// fittedFact is what the fact "fitted" keeps.
type fittedFact struct {
	Pieces []string `json:"pieces"`
	Text   string   `json:"text"`
	Neck   string   `json:"neck,omitempty"`
}

// onRig are the pieces of a job's rig.
func (s *Shop) onRig(ctx context.Context, facts []logbook.Fact) (pieces []piece, kept fittedFact, err error) {
	f, ok := standing(facts, "fitted")
	if !ok {
		return nil, kept, nil
	}
	if err := json.Unmarshal(f.Value, &kept); err != nil {
		return nil, kept, err
	}
	all, err := s.pieces(ctx)
	if err != nil {
		return nil, kept, err
	}
	return pick(kept.Pieces, all), kept, nil
}

// piece is an adapter or plug of the kit.
type piece struct {
	id, kind string
	fitting
}

// pieces lists the adapters and plugs, those of the past too.
func (s *Shop) pieces(ctx context.Context) ([]piece, error) {
	var out []piece
	for _, kind := range []string{"adapter", "plug"} {
		rows, err := s.book.Kit(ctx, kind)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			p := piece{id: r.ID, kind: kind}
			if err := json.Unmarshal(r.Body, &p.fitting); err != nil {
				return nil, err
			}
			out = append(out, p)
		}
	}
	return out, nil
}

// words are what a piece is called, for the job and for the next time.
func words(pieces []piece, text string) string {
	var out []string
	for _, p := range pieces {
		out = append(out, p.Name)
	}
	if text != "" {
		out = append(out, text)
	}
	return strings.Join(out, " + ")
}

// ratings are what a rig's pieces are good for: none is ever pumped past.
func ratings(pieces []piece) []runsheet.Limit {
	var out []runsheet.Limit
	for _, p := range pieces {
		if p.RatingPa > 0 {
			out = append(out, runsheet.Limit{Of: p.Name, Pa: p.RatingPa, CeilingPa: p.RatingPa, Source: "kit"})
		}
	}
	return out
}

// bladder tells a piece that is blown up inside a neck.
func (p piece) bladder() bool {
	return strings.Contains(strings.ToLower(p.Name+" "+p.Fits), "bladder")
}

// RigFitted takes down what fitted, so that the next job on the machine knows.
func (s *Shop) RigFitted(ctx context.Context, jobID string, in RigFitted) (JobView, error) {
	all, err := s.pieces(ctx)
	if err != nil {
		return JobView{}, err
	}
	var on []piece
	for _, id := range in.Pieces {
		i := slices.IndexFunc(all, func(p piece) bool { return p.id == id })
		if i < 0 {
			return JobView{}, refuse("pieces", "there is no adapter or plug %q in the kit", id)
		}
		on = append(on, all[i])
	}
	in.Text, in.Neck = strings.TrimSpace(in.Text), strings.TrimSpace(in.Neck)
	if in.Neck != "" {
		if _, err := runsheet.ParseNeck(in.Neck); err != nil {
			return JobView{}, refuse("neck", "%v", err)
		}
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		says := "What fitted: " + words(on, in.Text) + "."
		_, had := standing(sn.facts, "fitted")
		switch {
		case words(on, in.Text) != "":
		case in.Neck != "":
			says = "The neck: " + in.Neck + "."
		case had:
			says = "Everything is off the rig again."
		default:
			return refuse("text", "name what fitted, such as 'blue bayonet, shallow', or take a piece of the kit")
		}
		return fact(tx, st, "fitted-"+st.ID, jobID, "fitted", "rig", "typed", says, fittedFact{append([]string{}, in.Pieces...), in.Text, in.Neck})
	})
}

// bladders are those of a rig, with their own order of up and down.
func bladders(pieces []piece) []runsheet.Bladder {
	var out []runsheet.Bladder
	for _, p := range pieces {
		if p.bladder() {
			out = append(out, runsheet.Bladder{ID: p.id, Name: p.Name})
		}
	}
	return out
}

// rigView is the rig of a job: what its ports take, what of the kit suits, what is on.
func (s *Shop) rigView(ctx context.Context, j logbook.Job, c *circuit.Circuit, facts []logbook.Fact, looks []logbook.Observation) (RigView, error) {
	v := RigView{Ports: []string{}, Pieces: []PieceView{}, Says: []string{}, SeenAt: []string{}}
	var takes []string
	for _, p := range c.Ports {
		says := p.Title
		if len(p.Fittings) > 0 {
			says += ": " + strings.Join(p.Fittings, ", ")
		}
		v.Ports = append(v.Ports, says)
		takes = append(takes, p.Fittings...)
	}
	v.Necked = slices.ContainsFunc(takes, func(t string) bool { return slices.Contains(runsheet.Sized, t) })
	on, kept, err := s.onRig(ctx, facts)
	if err != nil {
		return v, err
	}
	v.Fitted, v.Text, v.Neck = words(on, kept.Text), kept.Text, kept.Neck
	var neck runsheet.Neck
	if kept.Neck != "" {
		if neck, err = runsheet.ParseNeck(kept.Neck); err != nil {
			return v, err // it was read when it was taken down
		}
	}
	items, err := s.kitItems(ctx)
	if err != nil {
		return v, err
	}
	all, err := s.pieces(ctx)
	if err != nil {
		return v, err
	}
	for _, p := range all {
		i := slices.IndexFunc(items, func(it KitItem) bool { return it.ID == p.id })
		if i < 0 || items[i].Retired {
			continue
		}
		view := PieceView{ID: p.id, Kind: p.kind, Name: p.Name, Fits: p.Fits, On: slices.Contains(kept.Pieces, p.id)}
		if p.RatingPa > 0 {
			view.Rating = twoUnits(p.RatingPa)
		}
		if l := items[i].Loan; l != nil {
			view.Away = l.To
		}
		about := strings.ToLower(p.Name + " " + p.Fits)
		for _, t := range takes {
			view.Suits = view.Suits || strings.Contains(about, t)
		}
		if suits, known, why := neck.Takes(p.Fits + " " + p.Name); known {
			view.Suits, view.Why = suits, why
		}
		v.Pieces = append(v.Pieces, view)
	}
	slices.SortStableFunc(v.Pieces, func(a, b PieceView) int {
		rank := map[bool]int{true: 0, false: 1}
		return rank[a.Suits] - rank[b.Suits]
	})
	if n := len(on); n > 1 {
		v.Says = append(v.Says, fmt.Sprintf("%d pieces stacked are %d joints to suspect: soap each before the part is blamed.", n, n))
	}
	if kept.Neck != "" && !slices.ContainsFunc(v.Pieces, func(p PieceView) bool { return p.Suits && p.Why != "" }) {
		v.Says = append(v.Says, "Nothing in the kit is known to go on "+kept.Neck+": a rubber sheet, an expanding rubber or a bladder in the right size would.")
	}
	if l := ratings(on); len(l) > 0 {
		w := runsheet.Weakest(l)
		v.Says = append(v.Says, fmt.Sprintf("The weakest of it is good for %s kPa: %s.", quantity.Significant(w.Pa/1e3, 3), w.Of))
	}
	v.SeenAt = append(v.SeenAt, rigSeen(c, on, looks)...)
	v.Before, err = s.fittedBefore(ctx, j, c.ID, all)
	return v, err
}

// fittedBefore is what fitted when the machine was last here with the same circuit.
func (s *Shop) fittedBefore(ctx context.Context, j logbook.Job, circuitID string, all []piece) (string, error) {
	before, err := s.book.Earlier(ctx, j, circuitID, "fitted", rememberedJobs)
	if err != nil {
		return "", err
	}
	for _, f := range before {
		var kept fittedFact
		if json.Unmarshal(f.Value, &kept) != nil {
			continue // of an earlier version: nothing to remember
		}
		if w := words(pick(kept.Pieces, all), kept.Text); w != "" {
			return w, nil
		}
	}
	return "", nil
}

// pick are the pieces of these ids, in their order.
func pick(ids []string, all []piece) (out []piece) {
	for _, id := range ids {
		if i := slices.IndexFunc(all, func(p piece) bool { return p.id == id }); i >= 0 {
			out = append(out, all[i])
		}
	}
	return out
}

// rememberedJobs is how many jobs back a rig is looked for.
const rememberedJobs = 8
