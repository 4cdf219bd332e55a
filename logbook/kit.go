package logbook

import (
	"context"
	"encoding/json"

	"idlehiss/core/terms"
)

// Kit is a gauge, pump, adapter or plug of the shop.
type Kit struct {
	Stamp
	Kind terms.KitKind   `json:"kind"`
	Body json.RawMessage `json:"body"`
}

// KitNote is something that was found or done with a piece of kit.
type KitNote struct {
	Stamp
	KitID    string          `json:"kit_id"`
	Kind     terms.NoteKind  `json:"kind"`
	Sentence string          `json:"sentence"`
	Value    json.RawMessage `json:"value"`
}

// AddKit takes a piece into the shop's kit.
func (t *Tx) AddKit(k Kit) error {
	return t.exec("INSERT INTO kit(id, at, by, device, kind, body) VALUES (?,?,?,?,?,?)", k.ID, micro(k.At), k.By, k.Device, k.Kind, string(k.Body))
}

// HadKitSince puts a piece to the stamp that another book has of it.
func (t *Tx) HadKitSince(s Stamp) error {
	return t.exec("UPDATE kit SET at = ?, by = ?, device = ? WHERE id = ?", micro(s.At), s.By, s.Device, s.ID)
}

// Kit lists the shop's pieces of one kind, or of all kinds for "", first come first.
func (b *Book) Kit(ctx context.Context, kind terms.KitKind) ([]Kit, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, kind, body FROM kit WHERE ?1 IN ('', kind) ORDER BY at, rowid", kind)
	return collect(rows, err, func(k *Kit, at *int64) []any {
		return []any{&k.ID, at, &k.By, &k.Device, &k.Kind, (*[]byte)(&k.Body)}
	}, func(k *Kit, at int64) { k.At = moment(at) })
}

// AddKitNote takes a note down.
func (t *Tx) AddKitNote(n KitNote) error {
	return t.exec("INSERT INTO kit_note(id, at, by, device, kit_id, kind, sentence, value) VALUES (?,?,?,?,?,?,?,?)",
		n.ID, micro(n.At), n.By, n.Device, n.KitID, n.Kind, n.Sentence, string(n.Value))
}

// KitNotes reads all notes, first to last.
func (b *Book) KitNotes(ctx context.Context) ([]KitNote, error) { return b.kitNotes(ctx, "") }

// KitMoves reads those that say who has a piece, or that it is retired.
func (b *Book) KitMoves(ctx context.Context) ([]KitNote, error) {
	return b.kitNotes(ctx, "WHERE kind IN ('lent', 'back', 'retired') ")
}

func (b *Book) kitNotes(ctx context.Context, which string) ([]KitNote, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, kit_id, kind, sentence, value FROM kit_note "+which+"ORDER BY at, rowid")
	return collect(rows, err, func(n *KitNote, at *int64) []any {
		return []any{&n.ID, at, &n.By, &n.Device, &n.KitID, &n.Kind, &n.Sentence, (*[]byte)(&n.Value)}
	}, func(n *KitNote, at int64) { n.At = moment(at) })
}
