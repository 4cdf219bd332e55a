package steps

import (
	"maps"
	"slices"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// Entry is what was found. It may be sent before it is whole.
type Entry struct {
	Fields  map[string]string `json:"fields"`
	Rows    []EntryRow        `json:"rows"`
	Started *time.Time        `json:"started"` // of the step's clock; null while it stands
}

// With lays a change over what was found before: what the change names is set, an
// empty text clears, the rest stays. So two people may fill in one step from its
// two ends, each sending only what is theirs.
func (e Entry) With(change Entry) Entry {
	out := Entry{Fields: laid(e.Fields, change.Fields), Rows: slices.Clone(e.Rows), Started: e.Started}
	for _, r := range change.Rows {
		i := slices.IndexFunc(out.Rows, func(x EntryRow) bool { return x.ID == r.ID })
		if i < 0 {
			out.Rows = append(out.Rows, EntryRow{ID: r.ID, Title: r.Title, Cells: laid(nil, r.Cells)})
			continue
		}
		out.Rows[i].Cells = laid(out.Rows[i].Cells, r.Cells)
		if r.Title != "" {
			out.Rows[i].Title = r.Title
		}
	}
	return out
}

// Written gives every bare number of a change the unit in which it was asked for, so
// that it means the same whatever gauge is looked at later.
func (a Ask) Written(change Entry) Entry {
	with := func(fields []slate.Field, cells map[string]string) map[string]string {
		out := maps.Clone(cells)
		for _, f := range fields {
			if text := strings.TrimSpace(out[f.ID]); f.Unit != "" && text != "" {
				if _, _, err := quantity.Number(text); err == nil {
					out[f.ID] = text + " " + f.Unit
				}
			}
		}
		return out
	}
	out := Entry{Fields: with(a.Fields, change.Fields), Started: change.Started}
	for _, r := range change.Rows {
		r.Cells = with(a.Columns, r.Cells)
		out.Rows = append(out.Rows, r)
	}
	return out
}

// Contradicts reports whether something that was found before is otherwise in a later
// entry, not only more.
func (e Entry) Contradicts(later Entry) bool {
	differ := func(was, now map[string]string) bool {
		for id, text := range was {
			if now[id] != text {
				return true
			}
		}
		return false
	}
	if differ(e.Fields, later.Fields) {
		return true
	}
	return slices.ContainsFunc(e.Rows, func(r EntryRow) bool {
		i := slices.IndexFunc(later.Rows, func(x EntryRow) bool { return x.ID == r.ID })
		return i < 0 || differ(r.Cells, later.Rows[i].Cells)
	})
}

func laid(under, over map[string]string) map[string]string {
	out := map[string]string{}
	maps.Copy(out, under)
	for id, text := range over {
		if out[id] = text; strings.TrimSpace(text) == "" {
			delete(out, id)
		}
	}
	return out
}

// EntryRow is one line of it.
type EntryRow struct {
	ID    string            `json:"id"`
	Title string            `json:"title"`
	Cells map[string]string `json:"cells"`
}
