// Package snapshot is what a job keeps of the library as it was when the job began:
// circuit and schools, the options its machine has, what is gone round. It reads and
// writes that document and owns nothing; holds and jobs ask it what they work by.
package snapshot

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"sync"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// Snapshot is the document itself.
type Snapshot struct {
	Circuit circuit.Circuit         `json:"circuit"` // with the steps of every school
	Hold    []judge.School          `json:"hold_schools"`
	Target  []runsheet.TargetSchool `json:"target_schools"`
	Repair  []circuit.RepairSchool  `json:"repair_schools,omitempty"`
	Fitted  map[string]bool         `json:"fitted,omitempty"` // options of the circuit that this machine has
	Things  []string                `json:"things,omitempty"` // what is gone round: vehicles, by name
}

// Encode writes it, with the hash by which it is known.
func (s Snapshot) Encode() (raw json.RawMessage, hash string, err error) {
	raw, err = json.Marshal(s)
	sum := sha256.Sum256(raw)
	return raw, hex.EncodeToString(sum[:]), err
}

// Schools are the schools of practice of the time.
func (s *Snapshot) Schools() runsheet.Schools {
	return runsheet.Schools{Target: s.Target, Hold: s.Hold}
}

// Basis is a snapshot as a job works by it: the circuit is the one that is done by the
// schools chosen for the job.
type Basis struct {
	*Snapshot
	Circuit circuit.Circuit
	Chosen  map[string]string // school, by matter
}

// Keeper gives the document that a job keeps: a book, or a write in the making.
type Keeper interface {
	Snapshot(ctx context.Context, jobID string) (json.RawMessage, error)
}

// Of reads what a job works by. facts are the job's own.
func Of(ctx context.Context, from Keeper, j logbook.Job, facts logbook.Facts) (Basis, error) {
	s, err := decoded(ctx, from, j)
	if err != nil {
		return Basis{}, err
	}
	b := Basis{Snapshot: s, Chosen: map[string]string{}}
	for _, m := range s.Circuit.Matters {
		b.Chosen[m.ID] = ChosenSchool(facts, m.ID)
	}
	b.Circuit = s.Circuit.By(b.Chosen).ByThings(s.Things)
	return b, nil
}

// ChosenSchool is the school that was chosen for a matter; "" for the default.
func ChosenSchool(facts logbook.Facts, matter string) string {
	var id string
	if f, ok := facts.Standing(terms.AboutSchool, matter); ok {
		_ = json.Unmarshal(f.Value, &id) // what cannot be read is the default
	}
	return id
}

// cached keeps the latest decoded documents by their hash: a document never changes,
// and reading one takes longer than everything else that a sheet asks.
var cached = struct {
	sync.Mutex // guards the map
	by         map[string]*Snapshot
}{by: map[string]*Snapshot{}}

// mostCached is as many documents as are kept; a shop has a few kinds of circuit in hand.
const mostCached = 64

func decoded(ctx context.Context, from Keeper, j logbook.Job) (*Snapshot, error) {
	if s := lookUp(j.Hash); s != nil && j.Hash != "" {
		return s, nil
	}
	raw, err := from.Snapshot(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	s := new(Snapshot)
	if err := json.Unmarshal(raw, s); err != nil {
		return nil, fmt.Errorf("its snapshot of circuit and schools cannot be read: %w", err)
	}
	keep(j.Hash, s)
	return s, nil
}

func lookUp(hash string) *Snapshot {
	cached.Lock()
	defer cached.Unlock()
	return cached.by[hash]
}

func keep(hash string, s *Snapshot) {
	cached.Lock()
	defer cached.Unlock()
	if len(cached.by) >= mostCached {
		clear(cached.by)
	}
	cached.by[hash] = s
}
