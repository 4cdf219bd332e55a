package logbook

import (
	"context"
	"encoding/json"

	"idlehiss/core/terms"
)

// Kit is a gauge, pump, adapter, plug or case of the shop, or one that it has borrowed.
type Kit struct {
	Stamp
	Kind terms.KitKind   `json:"kind"`
	Body json.RawMessage `json:"body"`
	Uses int             `json:"uses"` // holds that it was on
}

// KitNote is something that was found or done with a piece of kit.
type KitNote struct {
	Stamp
	KitID    string          `json:"kit_id"`
	Kind     terms.NoteKind  `json:"kind"`
	Sentence string          `json:"sentence"`
	Value    json.RawMessage `json:"value"`
	Uses     int             `json:"uses"` // holds that the piece had been on by then
}

// AddKit takes a piece into the shop's kit.
func (t *Tx) AddKit(k Kit) error {
	return t.exec("INSERT INTO kit(id, at, by, device, kind, body, uses) VALUES (?,?,?,?,?,?,?)", k.ID, micro(k.At), k.By, k.Device, k.Kind, string(k.Body), k.Uses)
}

// HadKit puts a piece to the stamp that another book has of it where that is earlier, and to its uses where those are more.
func (t *Tx) HadKit(k Kit) error {
	return t.exec("UPDATE kit SET at = min(at, ?1), by = iif(at > ?1, ?2, by), device = iif(at > ?1, ?3, device), uses = max(uses, ?4) WHERE id = ?5", micro(k.At), k.By, k.Device, k.Uses, k.ID)
}

// Kit lists the shop's pieces of one kind, or of all kinds for "", first come first.
func (b *Book) Kit(ctx context.Context, kind terms.KitKind) ([]Kit, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, kind, body, uses FROM kit WHERE ?1 IN ('', kind) ORDER BY at, rowid", kind)
	return collect(rows, err, func(k *Kit, at *int64) []any {
		return []any{&k.ID, at, &k.By, &k.Device, &k.Kind, (*[]byte)(&k.Body), &k.Uses}
	}, func(k *Kit, at int64) { k.At = moment(at) })
}

// KitUsed counts a hold on pieces of kit.
func (t *Tx) KitUsed(ids ...string) error {
	return t.exec("UPDATE kit SET uses = uses + 1 WHERE id IN ("+places(ids)+")", texts(ids)...)
}

// AddKitNote takes a note down.
func (t *Tx) AddKitNote(n KitNote) error {
	return t.exec("INSERT INTO kit_note(id, at, by, device, kit_id, kind, sentence, value, uses) VALUES (?,?,?,?,?,?,?,?,?)",
		n.ID, micro(n.At), n.By, n.Device, n.KitID, n.Kind, n.Sentence, string(n.Value), n.Uses)
}

// KitStands reads the latest note of each kind on each piece, first to last.
func (b *Book) KitStands(ctx context.Context) ([]KitNote, error) {
	return b.KitNotes(ctx, `WHERE rowid IN (SELECT (SELECT n.rowid FROM kit_note n WHERE n.kit_id = k.id AND n.kind = x.value ORDER BY n.at DESC, n.rowid DESC LIMIT 1)
		FROM kit k CROSS JOIN json_each('["zero check","service","compared","check due","lent","back","borrowed","given back","retired"]') x) `)
}

// KitMoves are those notes that say who has a piece, that it is retired, or that its joint leaked.
const KitMoves = "WHERE kind IN ('lent', 'back', 'retired', 'borrowed', 'given back', 'leaked') "

// KitNotes reads notes, first to last: all of them for "".
func (b *Book) KitNotes(ctx context.Context, which string) ([]KitNote, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, kit_id, kind, sentence, value, uses FROM kit_note "+which+"ORDER BY at, rowid")
	return collect(rows, err, func(n *KitNote, at *int64) []any {
		return []any{&n.ID, at, &n.By, &n.Device, &n.KitID, &n.Kind, &n.Sentence, (*[]byte)(&n.Value), &n.Uses}
	}, func(n *KitNote, at int64) { n.At = moment(at) })
}
