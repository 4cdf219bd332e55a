package bundle

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"idlehiss/catalogue"
	"idlehiss/desk"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Takeover is what taking a bundle over would add, or has added.
type Takeover struct {
	Of        Of         `json:"of"`
	Made      time.Time  `json:"made"`
	Program   string     `json:"program"`
	Taken     bool       `json:"taken"` // it is in the book
	Adds      bool       `json:"adds"`  // there is something in it that is not here
	Jobs      Tally      `json:"jobs"`
	More      int        `json:"more"`      // jobs that are here and go on in the bundle
	Conflicts int        `json:"conflicts"` // jobs that differ: with one nothing is taken over
	Machines  Tally      `json:"machines"`
	Kit       Tally      `json:"kit"`
	Circuits  Tally      `json:"circuits"`
	Listed    []TakenJob `json:"listed"` // what becomes of each job, those that conflict first, the first two hundred
}

// Tally is how many of a kind are new and how many here already; of those that are here otherwise, this shop's stay.
type Tally struct {
	New  int `json:"new"`
	Here int `json:"here"`
	Kept int `json:"kept"`
}

// TakenJob is what becomes of one job.
type TakenJob struct {
	ID        string    `json:"id"`
	At        time.Time `json:"at"`
	Machine   string    `json:"machine"`
	Complaint string    `json:"complaint"`
	Is        Beside    `json:"is"`
	Says      string    `json:"says"` // why it conflicts; that a hold was cut short
	Holds     int       `json:"holds"`
	Readings  int       `json:"readings"`
}

const mostListed = 200

// From is an uploaded or opened file.
type From struct {
	io.ReaderAt
	Size int64
}

// Look says what taking a bundle over would do. Nothing is written.
func (r *Room) Look(ctx context.Context, f From) (Takeover, error) {
	t, err := r.opened(f)
	if err != nil {
		return Takeover{}, refusal(err)
	}
	return t.plan, refusal(t.walk(ctx, nil))
}

// Take takes a bundle over: all of it in one write, or nothing. A second time it changes nothing.
func (r *Room) Take(ctx context.Context, w desk.Write, f From) (Takeover, error) {
	t, err := r.opened(f)
	if err != nil {
		return Takeover{}, refusal(err)
	}
	// What is refused is found out before the book is kept from others.
	if err := t.walk(ctx, nil); err != nil {
		return Takeover{}, refusal(err)
	}
	if t.plan.Conflicts > 0 {
		return t.plan, desk.Conflicts("nothing was taken over: %d of its jobs differ from those that are here, first that of %s: %s", t.plan.Conflicts, t.plan.Listed[0].Machine, t.plan.Listed[0].Says)
	}
	if !t.plan.Adds {
		t.plan.Taken = true
		return t.plan, nil
	}
	plan, _, err := desk.Put(ctx, r.desk, w, t.sums, func(tx *logbook.Tx, _ logbook.Stamp) (Takeover, error) {
		err := t.walk(ctx, tx)
		if err == nil && t.plan.Conflicts > 0 {
			err = desk.Conflicts("the book was changed meanwhile: try again")
		}
		t.plan.Taken = err == nil
		return t.plan, err
	})
	if err == nil {
		err = t.keepCircuits()
	}
	if err == nil {
		r.desk.Tell(desk.ResetNews, nil)
	}
	return plan, refusal(err)
}

// refusal puts what is wrong with a bundle to whoever sent it.
func refusal(err error) error {
	if errors.Is(err, ErrNoBundle) {
		return desk.Refuse("", "this is no bundle that can be taken over: %s", strings.TrimPrefix(err.Error(), ErrNoBundle.Error()+": "))
	}
	return err
}

// taking is one bundle in hand.
type taking struct {
	*archive
	room     *Room
	plan     Takeover
	latest   time.Time
	machines map[string]logbook.Machine // of the bundle, by id
	circuits map[string][]byte          // files that are not here yet, by id
}

func (r *Room) opened(f From) (*taking, error) {
	a, err := open(f, f.Size)
	if err != nil {
		return nil, err
	}
	now := r.desk.Clock.Now()
	if a.Made.After(now.Add(ahead)) {
		return nil, no("it was made on %s: the clock of the shop that made it was wrong, or this one's is", a.Made.Format("2 January 2006"))
	}
	return &taking{archive: a, room: r, latest: now.Add(ahead)}, nil
}

// walk goes through all of the bundle; with a transaction it writes what is not here.
func (t *taking) walk(ctx context.Context, tx *logbook.Tx) error {
	t.plan = Takeover{Of: t.Of, Made: t.Made, Program: t.Program, Listed: []TakenJob{}}
	known := false
	for _, o := range Of("").Values() {
		known = known || o == string(t.Of)
	}
	if !known {
		return no("it is of a kind %.40q that this program does not know", string(t.Of))
	}
	if err := t.takeMachines(ctx, tx); err != nil {
		return err
	}
	if err := t.takeKit(ctx, tx); err != nil {
		return err
	}
	if err := t.takeCircuits(); err != nil {
		return err
	}
	for _, id := range t.named("jobs/", ".json") {
		if err := t.takeJob(ctx, tx, id); err != nil {
			return err
		}
	}
	for name := range t.files {
		if !t.used[name] {
			return no("%s belongs to no job in it", name)
		}
	}
	p := &t.plan
	p.Adds = p.Jobs.New+p.More+p.Machines.New+p.Kit.New+p.Circuits.New > 0
	return nil
}

// takeMachines takes over those that are not here. One of the same name is the same machine: its jobs come together.
func (t *taking) takeMachines(ctx context.Context, tx *logbook.Tx) error {
	var all []logbook.Machine
	if err := t.decode(machinesName, &all); err != nil {
		return err
	}
	t.machines = map[string]logbook.Machine{}
	names := map[string]bool{}
	for _, m := range all {
		c := checking{latest: t.latest}
		c.stamp("the machine "+m.Name, m.Stamp)
		c.text("the machine", mostName, m.Name, m.Note)
		name := strings.ToLower(strings.TrimSpace(m.Name))
		if _, twice := t.machines[m.ID]; twice || name == "" || names[name] {
			c.say("the machine %s has no name, or is in it twice", m.ID)
		}
		if len(c.faults) > 0 {
			return no("%s: %w", machinesName, c.faults[0])
		}
		names[name] = true
		here, err := t.room.desk.Book.Machine(ctx, m.ID)
		if errors.Is(err, logbook.ErrNotFound) {
			here, err = t.room.desk.Book.MachineCalled(ctx, m.Name)
		}
		switch {
		case err == nil:
			t.machines[m.ID] = here
			t.plan.Machines.Here++
			continue
		case !errors.Is(err, logbook.ErrNotFound):
			return err
		}
		t.machines[m.ID] = m
		t.plan.Machines.New++
		if tx != nil {
			if err := tx.AddMachine(m); err != nil {
				return taken("the machine "+m.Name, err)
			}
		}
	}
	return nil
}

func (t *taking) takeJob(ctx context.Context, tx *logbook.Tx, id string) error {
	w, err := t.job(id, t.latest)
	if err != nil {
		return err
	}
	m, ok := t.machines[w.MachineID]
	if !ok {
		return no("job %s is on a machine that is not in it", id)
	}
	w.MachineID, w.Machine = m.ID, m.Name
	var ours *logbook.Whole
	switch had, err := t.room.desk.Book.Whole(ctx, id); {
	case err == nil:
		ours = &had
	case !errors.Is(err, logbook.ErrNotFound):
		return err
	}
	j := TakenJob{ID: id, At: w.At, Machine: m.Name, Complaint: w.Complaint, Holds: len(w.Holds)}
	j.Is, j.Says = compare(w, ours)
	for _, h := range w.Holds {
		j.Readings += len(h.Readings)
	}
	switch j.Is {
	case Fresh:
		t.plan.Jobs.New++
	case Grown:
		t.plan.More++
	case Here:
		t.plan.Jobs.Here++
	default:
		t.plan.Conflicts++
		t.plan.Listed = append([]TakenJob{j}, t.plan.Listed...)
	}
	if j.Is != Against {
		t.plan.Listed = append(t.plan.Listed, j)
	}
	t.plan.Listed = t.plan.Listed[:min(len(t.plan.Listed), mostListed)]
	if tx == nil || j.Is != Fresh && j.Is != Grown {
		return nil
	}
	if err := tx.PutWhole(w, ours); err != nil {
		return taken("job "+id, err)
	}
	return nil
}

// taken is the refusal of what the book has no room for.
func taken(of string, err error) error {
	if logbook.Refused(err) {
		return no("%s has an id that is in use here for something else, or an entry that this program does not know", of)
	}
	return err
}

// takeCircuits looks which files of circuits are not here yet. One that is here stays as it is here.
func (t *taking) takeCircuits() error {
	t.circuits = map[string][]byte{}
	folder := os.DirFS(filepath.Join(t.room.desk.Book.Folder(), catalogue.Folder))
	own, err := library.OwnCircuits(folder)
	if err != nil {
		return err
	}
	here := map[string]string{}
	for _, o := range own {
		if len(o.Faults) == 0 {
			here[o.Circuit.ID] = o.File
		}
	}
	for _, id := range t.named("circuits/", ".yaml") {
		raw, err := t.unpack(circuitName(id))
		if err != nil {
			return err
		}
		if err := library.Shallow(raw); err != nil {
			return no("%s: %w", circuitName(id), err)
		}
		if c, err := library.ParseCircuit(raw); err != nil || c.ID != id {
			return no("%s is no circuit of that id", circuitName(id))
		}
		file, ok := here[id]
		if !ok {
			if _, err := fs.Stat(folder, id+".yaml"); err == nil {
				t.plan.Circuits.Kept++ // a faulty one of that name is for its owner to mend
				continue
			}
			t.plan.Circuits.New++
			t.circuits[id] = raw
			continue
		}
		if was, err := library.ReadOwn(folder, file); err == nil && string(was) == string(raw) {
			t.plan.Circuits.Here++
		} else {
			t.plan.Circuits.Kept++
		}
	}
	return nil
}

// keepCircuits puts the files of circuits where the shop's own lie.
func (t *taking) keepCircuits() error {
	folder := filepath.Join(t.room.desk.Book.Folder(), catalogue.Folder)
	for id, raw := range t.circuits {
		aside := filepath.Join(folder, "."+id+".part")
		if err := errors.Join(os.MkdirAll(folder, 0o700), os.WriteFile(aside, raw, 0o600)); err != nil {
			return fmt.Errorf("the jobs were taken over, the circuit %s was not: %w", id, err)
		}
		if err := os.Rename(aside, filepath.Join(folder, id+".yaml")); err != nil {
			return err
		}
	}
	return nil
}
