package bundle

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/judge"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/kit"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Room makes and takes bundles of a shop's book.
type Room struct {
	desk  *desk.Desk
	holds *holds.Room
}

// New makes it for a shop that is open, or for a book that is only read.
func New(d *desk.Desk, h *holds.Room) *Room { return &Room{d, h} }

// What is to be bundled.
type What struct {
	Of Of
	ID string // of the job; the machine's name
}

// Asked is a job, else a machine, else the whole book.
func Asked(job, machine string) What {
	switch {
	case job != "":
		return What{OfJob, job}
	case machine != "":
		return What{OfMachine, machine}
	}
	return What{Of: OfBook}
}

// Found is what is to be bundled, as it was found.
type Found struct {
	What
	Jobs []string // their ids, first to last
}

// Find looks up what is to be bundled.
func (r *Room) Find(ctx context.Context, w What) (Found, error) {
	f := Found{What: w}
	var err error
	switch w.Of {
	case OfJob:
		var j logbook.Job
		j, err = r.desk.Book.Job(ctx, w.ID)
		f.Jobs = []string{j.ID}
	case OfMachine:
		if _, err = r.desk.Book.MachineCalled(ctx, w.ID); err == nil {
			f.Jobs, err = r.desk.Book.JobIDs(ctx, w.ID)
		}
	default:
		f.Jobs, err = r.desk.Book.JobIDs(ctx, "")
	}
	return f, err
}

// FileName is what its file is called.
func (f Found) FileName(at time.Time) string {
	if f.Of == OfJob {
		return "idle-hiss-job-" + f.ID + ".zip"
	}
	return "idle-hiss-" + string(f.Of) + "-" + at.Format(time.DateOnly) + ".zip"
}

// Write writes a bundle, job by job. What is entered meanwhile may be in it or not; every job is sound in itself.
func (r *Room) Write(ctx context.Context, out io.Writer, f Found) error {
	w := &writer{zip: zip.NewWriter(out), m: Manifest{Format: Format, Made: r.desk.Clock.Now().UTC(), Program: "idlehiss, " + judge.Version, Of: f.Of, Members: []Member{}}}
	machines := map[string]bool{}
	circuits := map[string]bool{}
	named := map[string]bool{} // kit that a job names
	pieces, err := r.desk.Book.Kit(ctx, "")
	if err != nil {
		return err
	}
	for _, id := range f.Jobs {
		job, err := r.desk.Book.Whole(ctx, id)
		if err != nil {
			return err
		}
		raw, err := r.writeJob(ctx, w, job)
		if err != nil {
			return fmt.Errorf("job %s: %w", id, err)
		}
		machines[job.MachineID] = true
		s, err := ofSnapshot(job.Snapshot)
		if err != nil {
			return fmt.Errorf("job %s: %w", id, err)
		}
		circuits[s.Circuit.ID] = true
		for _, p := range pieces {
			if bytes.Contains(raw, []byte(`"`+p.ID+`"`)) {
				named[p.ID] = true
			}
		}
	}
	if err := r.writeMachines(ctx, w, slices.Sorted(maps.Keys(machines))); err != nil {
		return err
	}
	if err := r.writeKit(ctx, w, f.Of == OfBook, named); err != nil {
		return err
	}
	if err := r.writeCircuits(w, circuits); err != nil {
		return err
	}
	raw, err := json.Marshal(w.m)
	if err != nil {
		return err
	}
	if err := w.put(manifestName, raw); err != nil {
		return err
	}
	return w.zip.Close()
}

func (r *Room) writeJob(ctx context.Context, w *writer, job logbook.Whole) ([]byte, error) {
	out := Job{Job: job.Job, Words: job.Words, Facts: job.Facts, Observations: job.Observations, Photos: job.Photos, Holds: []Hold{}}
	if out.Facts == nil {
		out.Facts = []logbook.Fact{}
	}
	for _, h := range job.Holds {
		out.Holds = append(out.Holds, Hold{h.Hold, sides(h.Readings), h.Events, h.Gaps, h.Calls})
		var above []string
		if tr, notes, err := r.holds.Export(ctx, h.ID); err == nil { // one that cannot be judged has no settings
			above = tr.Above(notes...)
		}
		gauges := []int{int(holds.Near)}
		if slices.ContainsFunc(h.Readings, func(x logbook.Reading) bool { return x.Gauge == int(holds.Far) }) {
			gauges = append(gauges, int(holds.Far))
		}
		for _, g := range gauges {
			raw, err := traceOf(h, g, above)
			if err != nil {
				return nil, err
			}
			if err := w.put(traceName(h.ID, g), raw); err != nil {
				return nil, err
			}
		}
	}
	for _, p := range job.Photos {
		whole, err := r.desk.Book.Photo(ctx, p.ID)
		if err != nil {
			return nil, err
		}
		if err := w.put(photoName(p.ID), whole.JPEG); err != nil {
			return nil, err
		}
	}
	raw, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return raw, w.put(jobName(job.ID), raw)
}

func (r *Room) writeMachines(ctx context.Context, w *writer, ids []string) error {
	all := []logbook.Machine{}
	for _, id := range ids {
		m, err := r.desk.Book.Machine(ctx, id)
		if err != nil {
			return err
		}
		all = append(all, m)
	}
	raw, err := json.Marshal(all)
	if err != nil {
		return err
	}
	return w.put(machinesName, raw)
}

// writeKit writes the whole kit, or what was named of it.
func (r *Room) writeKit(ctx context.Context, w *writer, whole bool, named map[string]bool) error {
	all, err := r.desk.Book.Kit(ctx, "")
	if err != nil {
		return err
	}
	notes, err := r.desk.Book.KitNotes(ctx, "")
	if err != nil {
		return err
	}
	k := Kit{Pieces: []logbook.Kit{}, Notes: []logbook.KitNote{}}
	if whole {
		if k.LastGauge, k.LastPump, err = kit.Last(ctx, r.desk.Book); err != nil {
			return err
		}
	}
	for _, p := range all {
		if whole || named[p.ID] {
			named[p.ID] = true
			k.Pieces = append(k.Pieces, p)
		}
	}
	for _, n := range notes {
		if named[n.KitID] {
			k.Notes = append(k.Notes, n)
		}
	}
	raw, err := json.Marshal(k)
	if err != nil {
		return err
	}
	return w.put(kitName, raw)
}

// writeCircuits writes the shop's own files of circuits that the jobs were done by. The rest ships with every program,
// and each job keeps its own as it was.
func (r *Room) writeCircuits(w *writer, used map[string]bool) error {
	folder := os.DirFS(filepath.Join(r.desk.Book.Folder(), catalogue.Folder))
	all, err := library.OwnCircuits(folder)
	if err != nil {
		return err
	}
	for _, own := range all {
		if len(own.Faults) > 0 || !used[own.Circuit.ID] {
			continue
		}
		raw, err := library.ReadOwn(folder, own.File)
		if err != nil {
			return err
		}
		if err := w.put(circuitName(own.Circuit.ID), raw); err != nil {
			return err
		}
	}
	return nil
}

// writer is a zip in the making, with what its manifest will say of it.
type writer struct {
	zip *zip.Writer
	m   Manifest
}

func (w *writer) put(name string, raw []byte) error {
	if most := mostOf(name); int64(len(raw)) > most {
		return fmt.Errorf("%s has %d bytes, and a bundle takes %d of such a file", name, len(raw), most)
	}
	sum := sha256.Sum256(raw)
	w.m.Members = append(w.m.Members, Member{name, int64(len(raw)), hex.EncodeToString(sum[:])})
	f, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: method(name), Modified: w.m.Made})
	if err != nil {
		return err
	}
	_, err = f.Write(raw)
	return err
}

// method is how a member is packed; photos are packed already.
func method(name string) uint16 {
	if filepath.Ext(name) == ".jpg" {
		return zip.Store
	}
	return zip.Deflate
}
