package trail

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
)

// ruledOut is the share of the likeliest below which a part is not named beside it.
const ruledOut = 0.15

// Passages is a job's housing as it is tested passage by passage. ok: it is one.
func (l *Log) Passages(lib Library) (v PassagesView, ok bool) {
	c := l.Circuit
	if !passages.Wanted(c) {
		return v, false
	}
	h := housingOf(c)
	r := l.read(lib.Methods, lib.Repairs)
	results, entered := r.results(h)
	v.Stand = l.stand(h)
	next := h.all.From(c, v.Stand).Next(results, r.odds())
	b := bores{c: c, h: h, stand: v.Stand, entered: entered, results: results, next: next, odds: r.odds(), rated: l.Rated}
	v.Tests, v.Set = b.tests()
	in := h.plan.Changes(c)
	for i := range v.Set {
		v.Tests[i].InOrder = b.changes(in[i])
	}
	v.Last = b.changes(in[v.Set])
	v.Minutes, v.Sound = h.plan.Minutes, next.Sound && len(results) > 0
	v.Left, v.Named, v.Confirm = b.seals(next.Left), [][]PassageSeal{}, []HuntActOf{}
	if next.Test >= 0 {
		t := h.all.Tests[next.Test]
		v.Hand = t.ID()
		v.Says, v.Why = b.says(t)
	}
	for _, g := range next.Named {
		named := b.seals(g)
		slices.SortStableFunc(named, func(x, y PassageSeal) int { return cmp.Compare(y.Odds, x.Odds) })
		named = slices.DeleteFunc(named, func(x PassageSeal) bool { return x.Odds < ruledOut*named[0].Odds }) // by an act
		v.Named = append(v.Named, named)
		v.Confirm = append(v.Confirm, b.confirm(named, r.Done)...)
	}
	v.Work = b.work()
	v.Back = b.changes(v.Stand.Back(c))
	v.draw(c, h, next)
	return v, true
}

// draw is what the picture needs.
func (v *PassagesView) draw(c *circuit.Circuit, h *housing, next passages.Next) {
	for _, ch := range c.Chambers {
		v.Chambers = append(v.Chambers, PassageChamber{ch.ID, ch.Title, ch.Open, ch.At})
	}
	v.Parts, v.Ports = []PassagePart{}, []PassagePort{}
	for i, p := range c.Parts {
		if !p.Removed {
			v.Parts = append(v.Parts, PassagePart{p.ID, p.Title, p.Between, i + 1, p.Opening, p.Meant > 0, slices.Contains(h.all.Seals, p.ID), next.Odds[p.ID]})
		}
	}
	for _, p := range c.Ports {
		v.Ports = append(v.Ports, PassagePort{p.ID, p.Title, p.Chamber, p.Mouth})
	}
}

// bores is a housing on its way to a view.
type bores struct {
	c       *circuit.Circuit
	h       *housing
	stand   passages.Stand
	entered map[int]Tried
	results []passages.Result
	next    passages.Next
	odds    map[string]float64
	rated   []runsheet.Limit // pieces of the rig
}

// tests are those of the whole set, then the others that are shown.
func (b *bores) tests() (out []PassageTest, set int) {
	var order []int
	add := func(i int) {
		if i >= 0 && !slices.Contains(order, i) {
			order = append(order, i)
		}
	}
	for _, t := range b.h.plan.Tests {
		add(slices.IndexFunc(b.h.all.Tests, func(u passages.Test) bool { return u.ID() == t.ID() }))
	}
	set = len(order)
	for _, r := range b.results {
		add(r.Test)
	}
	add(b.next.Test)
	for _, r := range b.results {
		for _, k := range b.h.like[r.Test] {
			add(k)
		}
	}
	for _, k := range b.h.like[b.next.Test] { // none: no likes
		add(k)
	}
	for _, i := range order {
		out = append(out, b.test(i))
	}
	return out, set
}

func (b *bores) test(i int) PassageTest {
	t := b.h.all.Tests[i]
	changes, minutes := b.stand.To(b.c, t)
	v := PassageTest{ID: t.ID(), Title: t.Says(b.c), Step: t.Own, Feed: t.Step.Port, Pressed: t.Pressed.Chambers, Plugs: append([]string{}, t.Stand(b.c).Plugs...),
		Places: []PassagePlace{}, Meant: []PassageMeant{}, Changes: b.changes(changes), Minutes: minutes, InOrder: []PassageChange{}, Found: []string{}, Ways: []PassageWay{}, Like: []PassageSibling{}}
	v.AtPa, v.At, v.Weakest = b.pressure(t)
	v.Mind = b.cautions(t)
	_, v.Excused = b.next.Excused[i]
	for _, r := range b.results {
		if r.Test == i {
			v.Done, v.Fell = !r.Fell, r.Fell
		}
	}
	if x, ok := b.entered[i]; ok {
		v.Found, v.Worked = append(v.Found, x.Places...), x.Worked
	} else {
		v.ByHold = v.Done
	}
	v.Places = b.places(t)
	for _, p := range v.Found {
		if k := slices.IndexFunc(v.Places, func(x PassagePlace) bool { return x.ID == p }); k < 0 || !v.Places[k].Expected {
			v.Ways = append(v.Ways, b.ways(t, p)...)
		}
	}
	for _, m := range t.Pressed.Meant {
		x := PassageMeant{Part: m.ID, Title: m.Title}
		if m.Meant > 0 {
			x.Flow = quantity.Significant(float64(m.Meant)*60e6, 2) + " cm³/min"
		}
		v.Meant = append(v.Meant, x)
	}
	for _, k := range b.h.like[i] {
		u := b.h.all.Tests[k]
		v.Like = append(v.Like, PassageSibling{u.ID(), u.Says(b.c)})
	}
	return v
}

// places are where air may come out: first where a leak of what is tried would, then every other chamber that has a
// way to the air, and a look at the needle.
func (b *bores) places(t passages.Test) []PassagePlace {
	out := []PassagePlace{}
	at := func(id string) *PassagePlace {
		i := slices.IndexFunc(out, func(x PassagePlace) bool { return x.ID == id })
		if i < 0 {
			i = len(out)
			out = append(out, PassagePlace{ID: id, Title: passages.PlaceSays(b.c, id), Exits: append([]string{}, t.Exits(b.c, id)...), Seals: []string{}})
		}
		return &out[i]
	}
	for _, id := range b.h.all.Seals {
		if place := t.Out[id]; place != "" {
			p := at(passages.PlaceOf(place))
			p.Expected = true
			p.Seals = append(p.Seals, passages.PlaceSays(b.c, id))
		}
	}
	for _, ch := range b.c.Chambers {
		if !slices.Contains(t.Pressed.Chambers, ch.ID) && (ch.Open || len(t.Exits(b.c, ch.ID)) > 0) {
			at(ch.ID)
		}
	}
	at(passages.Unseen)
	for i := range out {
		out[i].Meant = slices.ContainsFunc(t.MeantAt, func(x string) bool { return passages.PlaceOf(x) == out[i].ID })
	}
	slices.SortStableFunc(out, func(a, b PassagePlace) int { return rank(a) - rank(b) })
	return out
}

// rank puts chambers that are expected first, then parts, then the rest, the needle last.
func rank(p PassagePlace) int {
	switch {
	case p.ID == passages.Unseen:
		return 3
	case !p.Expected:
		return 2
	case len(p.Exits) > 0:
		return 0
	}
	return 1
}

func (b *bores) ways(t passages.Test, place string) []PassageWay {
	var out []PassageWay
	for _, w := range passages.Trace(b.c, t, place, b.odds) {
		if len(out) < mostWays {
			out = append(out, PassageWay{place, w.Through, w.Leaks, waySays(b.c, w), w.Share})
		}
	}
	return out
}

func (b *bores) changes(all []passages.Change) []PassageChange {
	out := []PassageChange{}
	for _, x := range all {
		out = append(out, PassageChange{x.Does, x.At, x.To, x.Says(b.c)})
	}
	return out
}

func (b *bores) seals(ids []string) []PassageSeal {
	out := []PassageSeal{}
	for _, id := range ids {
		out = append(out, PassageSeal{id, passages.PlaceSays(b.c, id), b.next.Odds[id]})
	}
	return out
}

// says is the next test in a sentence with its minutes, and why it is the next.
func (b *bores) says(t passages.Test) (says, why string) {
	_, minutes := b.stand.To(b.c, t)
	groups := map[string]bool{}
	for _, id := range b.next.Left {
		groups[t.Out[id]] = true
	}
	return fmt.Sprintf("%s: %s.", t.Says(b.c), passages.MinutesSay(minutes)), splitSays(len(b.next.Left), len(groups))
}

// confirm are the acts that touch or speak of what is named.
func (b *bores) confirm(named []PassageSeal, done map[string]bool) (out []HuntActOf) {
	for _, a := range b.c.Acts {
		x := HuntActOf{HuntAct{a.ID, a.Title, done[a.ID], a.Needs, a.Mind, []HuntAnswer{}}, nil}
		for _, s := range named {
			if slices.Contains(a.Hands, s.Part) {
				x.Parts = append(x.Parts, s.Part)
			}
		}
		for _, y := range a.Answers {
			x.Answers = append(x.Answers, HuntAnswer{y.Seen, y.Says})
		}
		if len(x.Parts) > 0 {
			out = append(out, x)
		}
	}
	return out
}

// Kinds of part that stick.
var sticks = []string{circuit.KindValve, circuit.KindNeedle, "relief", "spool"}

// work is what is to be worked before the last result is believed: a stuck valve imitates a leaking one.
func (b *bores) work() *PassageWork {
	if len(b.results) == 0 {
		return nil
	}
	last := b.results[0]
	for _, r := range b.results {
		if x, ok := b.entered[r.Test]; ok && len(x.Places) > 0 {
			last = r
		}
	}
	x, ok := b.entered[last.Test]
	if !ok || len(x.Places) == 0 || x.Worked {
		return nil
	}
	t := b.h.all.Tests[last.Test]
	var ids []string
	for _, id := range b.next.Left {
		i := slices.IndexFunc(b.c.Parts, func(p circuit.Part) bool { return p.ID == id })
		if slices.Contains(sticks, b.c.Parts[i].Kind) && slices.Contains(x.Places, passages.PlaceOf(t.Out[id])) {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	parts := b.seals(ids)
	return &PassageWork{t.ID(), parts, workSays(parts)}
}

// pressure is what is proposed for a test: the lowest target of the circuit's own step, or of its steps at the same
// bore, and never more than the weakest limit of what it presses and of the rig: a share of it where no step says more.
func (b *bores) pressure(t passages.Test) (pa float64, says, weakest string) {
	for pass := range 3 {
		for _, s := range b.c.Steps {
			mine := s.ID == t.Own || pass > 0 && s.Port == t.Step.Port || pass > 1
			if !mine || !s.Kind.Pressurises() {
				continue
			}
			for _, x := range s.Targets {
				if at := float64(x.At); at > 0 && (pa == 0 || at < pa) {
					pa = at
				}
			}
		}
		if pa > 0 {
			break
		}
	}
	atMost := func(most float64, of string) {
		if pa == 0 || pa > most {
			pa, weakest = most, of
		}
	}
	if part, known := t.Pressed.Weakest(); known {
		share := 1.0
		if t.Own == "" {
			share = shareOfLimit
		}
		atMost(share*float64(part.Limit), part.Title)
	}
	for _, x := range b.rated {
		atMost(x.Pa, x.Of)
	}
	if pa <= 0 {
		return 0, "", ""
	}
	step := 10e3
	if pa < 100e3 {
		step = 5e3
	}
	pa = float64(int(pa/step+1e-9)) * step
	return pa, runsheet.TwoUnits(pa), weakest
}

// cautions are those of the first step under pressure, which are true of all, and of the steps at the same bore.
func (b *bores) cautions(t passages.Test) []circuit.Item {
	out, first := []circuit.Item{}, true
	for _, s := range b.c.Steps {
		if !s.Kind.Pressurises() {
			continue
		}
		if first || s.Port == t.Step.Port {
			for _, x := range s.Cautions {
				if !slices.ContainsFunc(out, func(y circuit.Item) bool { return y.ID == x.ID || y.Text == x.Text }) {
					out = append(out, x)
				}
			}
		}
		first = false
	}
	return out
}

// shareOfLimit is what a test that no step of the circuit describes takes of the weakest limit.
const shareOfLimit = 0.6

func workSays(parts []PassageSeal) string {
	var names []string
	for _, p := range parts {
		names = append(names, quantity.Lower(p.Title))
	}
	list := strings.Join(names, ", ")
	if n := len(names); n > 1 {
		list = strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
	return "A stuck valve imitates a leaking one. Work the " + list + " by hand or rap it, then look again."
}

func waySays(c *circuit.Circuit, w passages.Path) string {
	var names []string
	for _, id := range w.Leaks {
		names = append(names, quantity.Lower(passages.PlaceSays(c, id)))
	}
	return quantity.Capital(strings.Join(names, ", then "))
}
