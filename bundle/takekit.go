package bundle

import (
	"context"

	"idlehiss/kit"
	"idlehiss/logbook"
)

// takeKit takes over the kit of a whole book. A piece that is here stays as it is here.
func (t *taking) takeKit(ctx context.Context, tx *logbook.Tx) error {
	var k Kit
	if err := t.decode(kitName, &k); err != nil {
		return err
	}
	c := checking{latest: t.latest}
	for _, p := range k.Pieces {
		c.stamp("the piece of kit "+p.ID, p.Stamp)
		c.value("the piece of kit "+p.ID, p.Body)
		if err := kit.Sound(p); err != nil {
			c.say("the piece of kit %s: %w", p.ID, err)
		}
	}
	for _, n := range k.Notes {
		c.stamp("the note "+n.ID, n.Stamp)
		word(&c, "the note "+n.ID, n.Kind)
		c.text("the note "+n.ID, mostText, n.Sentence)
		c.value("the note "+n.ID, n.Value)
	}
	if len(c.faults) > 0 {
		return no("%s: %w", kitName, c.faults[0])
	}
	if t.Of != OfBook {
		return nil
	}
	have, err := t.room.desk.Book.Kit(ctx, "")
	if err != nil {
		return err
	}
	here := map[string]logbook.Kit{}
	for _, p := range have {
		here[p.ID] = p
	}
	notes, err := t.room.desk.Book.KitNotes(ctx, "")
	if err != nil {
		return err
	}
	noted := map[string]bool{}
	for _, n := range notes {
		noted[n.ID] = true
	}
	for _, p := range k.Pieces {
		switch was, ok := here[p.ID]; {
		case !ok:
			t.plan.Kit.New++
			if tx != nil {
				if err := tx.AddKit(p); err != nil {
					return taken("the piece of kit "+p.ID, err)
				}
			}
		case was.Kind == p.Kind && string(was.Body) == string(p.Body):
			t.plan.Kit.Here++
			if tx != nil && (p.At.Before(was.At) || p.Uses > was.Uses) { // every new shop begins with the same pieces; this one has had it longer
				if err := tx.HadKit(p); err != nil {
					return err
				}
			}
		default:
			t.plan.Kit.Kept++
		}
	}
	for _, n := range k.Notes {
		if noted[n.ID] {
			continue
		}
		if t.plan.Kit.New++; tx != nil {
			if err := tx.AddKitNote(n); err != nil {
				return taken("the note "+n.ID, err)
			}
		}
	}
	gauge, pump, err := kit.Last(ctx, t.room.desk.Book)
	if err != nil || tx == nil || gauge != "" || pump != "" {
		return err
	}
	return kit.Used(tx, k.LastGauge, k.LastPump)
}
