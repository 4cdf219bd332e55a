// Package backups is how the copies of a book lie in their folder: each under the name of its moment. It knows names and
// sizes, and nothing of what is in them; logbook makes and restores them.
package backups

import (
	"errors"
	"io/fs"
	"os"
	"slices"
	"time"
)

const (
	Folder = "backups" // in the book's own folder, where no other is said
	name   = "idlehiss-20060102-150405.db"
)

// Name is the name of one that is made at a moment.
func Name(at time.Time) string { return at.Format(name) }

// Kept is one that is there.
type Kept struct {
	Name  string
	At    time.Time // local, of the computer that made it
	Bytes int64
}

// In lists those in a folder, oldest first; none where there is no such folder.
func In(folder string) ([]Kept, error) {
	entries, err := os.ReadDir(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var out []Kept
	for _, e := range entries {
		at, bad := time.ParseInLocation(name, e.Name(), time.Local)
		info, gone := e.Info()
		if bad == nil && gone == nil && info.Mode().IsRegular() && info.Size() > 0 {
			out = append(out, Kept{e.Name(), at, info.Size()})
		}
	}
	slices.SortFunc(out, func(a, b Kept) int { return a.At.Compare(b.At) })
	return out, err
}
