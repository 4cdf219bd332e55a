package trail

import (
	"crypto/sha256"
	"encoding/json"
	"math"
	"slices"
	"strings"
	"sync"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/passages"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// Says is it in words; a test or a place that the circuit does not have is refused.
func (x Tried) Says(c *circuit.Circuit) (string, error) {
	t, ok := testOf(c, x.Test)
	if !ok {
		return "", desk.Refuse("test", "%s has no isolation test %q", c.Title, x.Test)
	}
	if x.Undone {
		return t.Says(c) + ": taken back.", nil
	}
	var at []string
	for _, id := range x.Places {
		title, ok := PlaceTitle(c, strings.TrimPrefix(id, "port-"))
		switch {
		case id == passages.Unseen:
			at = append(at, "the needle falls, nothing comes out anywhere")
		case !ok:
			return "", desk.Refuse("places", "%s has no chamber, port or part %q", c.Title, id)
		default:
			at = append(at, "air at the "+quantity.Lower(title))
		}
	}
	says := "it held"
	if len(at) > 0 {
		says = strings.Join(at, ", ")
	}
	if x.Worked {
		says = "valves worked by hand, then " + says
	}
	return t.Says(c) + ": " + says + ".", nil
}

// SetUp is one change of how everything stands on the bench.
type SetUp struct {
	Does passages.Does `json:"does" enum:"let go,unplug,move,work,plug,feed,no feed"`
	What string        `json:"what" maxLength:"80" doc:"id of a port, an opening, a lever or a valve"`
	To   string        `json:"to" maxLength:"80" doc:"of a lever its state, of a valve open or shut; else empty"`
}

// After is how everything stands after it; what the circuit does not have is refused.
func (x SetUp) After(c *circuit.Circuit, now passages.Stand) (passages.Stand, error) {
	known := func(id string, has bool) error {
		if !has {
			return desk.Refuse("what", "%s has no %q to change", c.Title, id)
		}
		return nil
	}
	var err error
	switch x.Does {
	case passages.Feed, passages.Unfeed:
		err = known(x.What, slices.ContainsFunc(c.Ports, func(p circuit.Port) bool { return p.ID == x.What }))
	case passages.Plug, passages.Unplug:
		port := slices.ContainsFunc(c.Ports, func(p circuit.Port) bool { return "port-"+p.ID == x.What })
		err = known(x.What, port || slices.ContainsFunc(c.Parts, func(p circuit.Part) bool { return p.ID == x.What && p.Opening }))
	case passages.Move:
		err = known(x.What, slices.ContainsFunc(c.Positions, func(p circuit.Position) bool {
			return p.ID == x.What && slices.ContainsFunc(p.States, func(s circuit.PositionState) bool { return s.ID == x.To })
		}))
	case passages.Work, passages.LetGo:
		err = known(x.What, slices.ContainsFunc(c.Parts, func(p circuit.Part) bool { return p.ID == x.What && !p.Opening }))
		if err == nil && x.Does == passages.Work && x.To != "open" && x.To != "shut" {
			err = desk.Refuse("to", "a valve is held open or shut, not %q", x.To)
		}
	default:
		err = desk.Refuse("does", "%q is no change of a set-up", x.Does)
	}
	return now.With(passages.Change{Does: x.Does, At: x.What, To: x.To}), err
}

// Says is it in words.
func (x SetUp) Says(c *circuit.Circuit) string {
	return passages.Change{Does: x.Does, At: x.What, To: x.To}.Says(c) + "."
}

// Pressing is the circuit's own step by which air goes into a bore, else its first under pressure: what must come before
// it comes before any test.
func Pressing(c *circuit.Circuit, port string) (step circuit.Step, ok bool) {
	for _, s := range c.Tests() {
		if s.Kind.Pressurises() && (!ok || s.Port == port && step.Port != port) {
			step, ok = s, true
		}
	}
	return step, ok
}

// StandNow is how everything stands: as it was changed last, or as the hold after that had it.
func (l *Log) StandNow() passages.Stand { return l.stand(housingOf(l.Circuit)) }

// StandOf is how everything stands by a job's facts.
func StandOf(facts logbook.Facts) (s passages.Stand) {
	if x, ok := facts.Standing(terms.AboutSetUp, ""); ok {
		_ = json.Unmarshal(x.Value, &s) // what cannot be read is as it was found
	}
	return s
}

// PutBack is what must be put back before a job is closed, by its facts.
func PutBack(c *circuit.Circuit, facts logbook.Facts) (out []circuit.Item) {
	for _, x := range StandOf(facts).Back(c) {
		out = append(out, circuit.Item{ID: "back-" + x.At, Text: x.Says(c), Must: true})
	}
	return out
}

// housing is a circuit's tests, worked out once.
type housing struct {
	all, plan passages.Plan
	like      map[int][]int
}

// known keeps them by the circuit's content: to plan a large valve block takes a tenth of a second.
var known = struct {
	sync.Mutex // guards the map
	by         map[[sha256.Size]byte]*housing
}{by: map[[sha256.Size]byte]*housing{}}

// mostKnown is as many circuits as are kept; a shop has a few housings in hand.
const mostKnown = 32

func housingOf(c *circuit.Circuit) *housing {
	raw, err := json.Marshal(c)
	if err != nil {
		raw = []byte(c.ID)
	}
	key := sha256.Sum256(raw)
	known.Lock()
	h := known.by[key]
	known.Unlock()
	if h != nil {
		return h
	}
	tests := passages.Tests(c)
	h = &housing{all: passages.Fixed(c, tests), plan: passages.Of(c), like: passages.Siblings(c, tests)}
	known.Lock()
	defer known.Unlock()
	if len(known.by) >= mostKnown {
		clear(known.by)
	}
	known.by[key] = h
	return h
}

func testOf(c *circuit.Circuit, id string) (passages.Test, bool) {
	all := housingOf(c).all.Tests
	i := slices.IndexFunc(all, func(t passages.Test) bool { return t.ID() == id })
	if i < 0 {
		return passages.Test{}, false
	}
	return all[i], true
}

// outOf is a place of a person as Test.Out has it.
func outOf(t passages.Test, place string) string {
	for _, at := range t.Out {
		if passages.PlaceOf(at) == place {
			return at
		}
	}
	return place
}

// results are what the tests showed, in order of time: what was entered, and holds of the circuit's own steps. Where
// air came out before a mend is looked at again.
func (r *reading) results(h *housing) (out []passages.Result, entered map[int]Tried) {
	entered = map[int]Tried{}
	at := func(own func(passages.Test) bool) int { return slices.IndexFunc(h.all.Tests, own) }
	for _, x := range r.log.Tried {
		i := at(func(t passages.Test) bool { return t.ID() == x.Test })
		if i < 0 || len(x.Places) > 0 && !x.At.After(r.since) {
			continue
		}
		entered[i] = x.Tried
		res := passages.Result{Test: i}
		for _, p := range x.Places {
			res.Places = append(res.Places, outOf(h.all.Tests[i], p))
			res.Ways = append(res.Ways, r.strays(h.all.Tests[i], p)...)
		}
		out = append(out, res)
	}
	for _, held := range r.log.Holds {
		i := at(func(t passages.Test) bool { return t.Own == held.Step.ID })
		_, said := entered[i]
		old := held.At.Before(r.since)
		switch {
		case i < 0 || said || r.livedWith(held):
		case held.Report.Call == judge.Tight && len(h.all.Tests[i].MeantAt) == 0: // what is meant to pass would hide another leak
			out = append(out, passages.Result{Test: i})
		case held.Report.Call == judge.Leaking && !old:
			out = append(out, passages.Result{Test: i, Fell: true})
		}
	}
	return out, entered
}

// mostWays is how many ways to a place are looked at.
const mostWays = 4

// strays are the seals on the likeliest ways to a place at which no single leak of a test should come out; none where one
// should.
func (r *reading) strays(t passages.Test, place string) (ids []string) {
	if place == passages.Unseen || outOf(t, place) != place {
		return nil
	}
	for _, at := range t.Out {
		if at == place {
			return nil
		}
	}
	odds := map[string]float64{}
	for _, p := range r.Circuit.Parts {
		odds[p.ID] = p.Odds
	}
	for i, w := range passages.Trace(r.Circuit, t, place, odds) {
		if i < mostWays {
			ids = append(ids, w.Leaks...)
		}
	}
	return ids
}

// odds are what each seal is before any test: the file's odds with signs and a guess, a mended one a tenth.
func (r *reading) odds() map[string]float64 {
	out := map[string]float64{}
	for _, p := range r.Circuit.Parts {
		out[p.ID] = p.Odds
	}
	sum := 0.0
	for i, s := range r.Suspects {
		if out[s.ID] > 0 {
			sum += r.Shares[i]
		}
	}
	all := 0.0
	for _, x := range out {
		all += x
	}
	for i, s := range r.Suspects {
		if out[s.ID] > 0 && sum > 0 {
			out[s.ID] = math.Max(r.Shares[i]/sum*all, 1e-6)
		}
	}
	for _, e := range r.Found { // acts split what no test tells apart
		if a, ok := e.(hunt.Acted); ok {
			for i, s := range r.Suspects {
				out[s.ID] *= a.Weight([]hunt.Leak{{Part: i}})
			}
		}
	}
	return out
}

func (l *Log) stand(h *housing) passages.Stand {
	s, at := l.Stand, l.StandAt
	for _, held := range l.Holds {
		i := slices.IndexFunc(h.all.Tests, func(t passages.Test) bool { return t.Own == held.Step.ID })
		if i >= 0 && held.At.After(at) {
			s, at = h.all.Tests[i].Stand(l.Circuit), held.At
		}
	}
	return s
}

// passed is what the tests say of every suspect, as evidence.
func (r *reading) passed() {
	if len(r.log.Tried) == 0 {
		return
	}
	h := housingOf(r.Circuit)
	_, entered := r.results(h)
	for _, x := range r.log.Tried {
		i := slices.IndexFunc(h.all.Tests, func(t passages.Test) bool { return t.ID() == x.Test })
		if _, counts := entered[i]; !counts {
			continue
		}
		t := h.all.Tests[i]
		tried := func(place string) (ids []string) {
			for id, at := range t.Out {
				if place == "" || passages.PlaceOf(at) == place {
					ids = append(ids, id)
				}
			}
			return ids
		}
		if len(x.Places) == 0 {
			r.found(hunt.Nowhere{There: r.marked(tried("")...)}, triedSays(t.Says(r.Circuit), "it held"))
		}
		for _, place := range x.Places {
			title, _ := PlaceTitle(r.Circuit, place)
			if ids := append(tried(place), r.strays(t, place)...); len(ids) > 0 {
				r.found(hunt.CameOut{There: r.marked(ids...)}, triedSays(t.Says(r.Circuit), cameSays(title)))
			}
		}
	}
}
