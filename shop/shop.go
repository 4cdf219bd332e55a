package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/gauges"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Refusal is a request that cannot be done as asked; it says what would be right.
type Refusal struct {
	Field string // which input, "" for the whole
	Says  string
	Kind  RefusalKind
}

// RefusalKind is why, for those who answer in codes.
type RefusalKind int

// Kinds of refusal.
const (
	BadInput RefusalKind = iota
	Missing
	Conflict
	TooMany
)

func (r *Refusal) Error() string { return r.Says }

func refuse(field, format string, a ...any) error {
	return &Refusal{Field: field, Says: fmt.Sprintf(format, a...)}
}

func conflict(format string, a ...any) error {
	return &Refusal{Says: fmt.Sprintf(format, a...), Kind: Conflict}
}

// Write is what every change carries: the id its client made, who, from where,
// and when it happened where that was not just now.
type Write struct {
	ID     string     `json:"id" minLength:"8" maxLength:"64" pattern:"^[A-Za-z0-9_-]+$" doc:"made by the client; the same id again is answered the same"`
	By     string     `json:"by" maxLength:"60" doc:"first name of who wrote it"`
	Device string     `json:"device" maxLength:"60"`
	At     *time.Time `json:"at,omitempty" doc:"moment of pressing on the server's clock; absent: now"`
}

// Shop is the application at work. One mutex guards the live holds; every change
// is committed before it is answered or shown.
type Shop struct {
	book    *logbook.Book
	planned sync.Map // what a hold will need, by its question
	clock   Clock
	bus     *bus
	ambient float64
	demo    bool

	hold   []judge.School
	target []runsheet.TargetSchool

	repair  []circuit.RepairSchool
	repairs []circuit.Repair // of circuits that have no ladder of their own

	mu     sync.Mutex
	live   map[string]*live
	ctx    context.Context // ends with the shop
	stop   context.CancelFunc
	done   chan struct{}
	asking sync.WaitGroup // gauges on the wire

	doorMu sync.Mutex
	tries  map[string]tries // wrong PINs, by address
}

// Options are what the outside decides.
type Options struct {
	AmbientPa float64
	Demo      bool
}

// New opens the shop on a book: running holds go on, with the gap shown.
func New(ctx context.Context, book *logbook.Book, clock Clock, o Options) (*Shop, error) {
	s := &Shop{book: book, clock: clock, bus: newBus(), ambient: o.AmbientPa, demo: o.Demo, live: map[string]*live{}, tries: map[string]tries{}, done: make(chan struct{})}
	if s.ambient == 0 {
		s.ambient = quantity.StandardAtmosphere
	}
	var err error
	if s.hold, err = library.HoldSchools(); err != nil {
		return nil, err
	}
	if s.target, err = library.TargetSchools(); err != nil {
		return nil, err
	}
	if s.repair, err = library.RepairSchools(); err != nil {
		return nil, err
	}
	if s.repairs, err = library.Repairs(); err != nil {
		return nil, err
	}
	// Read before the first person asks: it takes longer than typing a machine's name.
	if _, _, err = s.circuits(); err != nil {
		return nil, err
	}
	if err := s.stock(ctx); err != nil {
		return nil, err
	}
	s.ctx, s.stop = context.WithCancel(context.Background())
	running, err := book.RunningHolds(ctx)
	if err != nil {
		return nil, err
	}
	for _, h := range running {
		if err := s.resume(ctx, h); err != nil {
			return nil, fmt.Errorf("hold %s: %w", h.ID, err)
		}
	}
	go s.run(s.ctx)
	return s, nil
}

// Close stops the gauges. Holds stay open in the book.
func (s *Shop) Close() {
	s.stop()
	<-s.done
	s.asking.Wait()
}

// Now is the shop's time and how fast it runs.
func (s *Shop) Now() (time.Time, float64) { return s.clock.Now(), s.clock.Speed() }

// Stream opens a page's event stream, resuming after the id it last saw.
func (s *Shop) Stream(last string) (missed []Message, page <-chan Message, done func()) {
	return s.bus.open(last)
}

// stamp makes the entry's stamp; a moment that lies ahead is put to now.
func (s *Shop) stamp(w Write) logbook.Stamp {
	now := s.clock.Now()
	at := now
	if w.At != nil && w.At.Before(now) {
		at = w.At.UTC().Truncate(time.Microsecond)
	}
	by := w.By
	if by == "" {
		by = "someone"
	}
	return logbook.Stamp{ID: w.ID, At: at, By: by, Device: w.Device}
}

// put writes once under the client's id and decodes the answer.
func put[T any](ctx context.Context, s *Shop, w Write, content any, fn func(*logbook.Tx, logbook.Stamp) (T, error)) (T, bool, error) {
	var answer T
	ran := false
	raw, err := json.Marshal(content)
	if err != nil {
		return answer, false, err
	}
	st := s.stamp(w)
	got, err := s.book.Write(ctx, st, raw, func(tx *logbook.Tx) (any, error) {
		ran = true
		return fn(tx, st)
	})
	switch {
	case errors.Is(err, logbook.ErrChanged):
		return answer, false, conflict("%v", err)
	case errors.Is(err, logbook.ErrNotFound):
		return answer, false, &Refusal{Says: err.Error(), Kind: Missing}
	case err != nil:
		return answer, false, err
	}
	return answer, ran, json.Unmarshal(got, &answer)
}

// stands tells whether a write is in the book already. What was acknowledged is
// answered when it is sent again, whatever became of its hold or step in between.
func (s *Shop) stands(ctx context.Context, w Write, content any) (bool, error) {
	if has, err := s.book.Has(ctx, w.ID); err != nil || !has {
		return false, err
	}
	_, _, err := put[json.RawMessage](ctx, s, w, content, nil) // it is not called
	return err == nil, err
}

func newID() string { return uuid.NewString() }

// run takes down what the gauges say. Those on a wire are looked after twenty
// times a second, which groups what they say into one commit.
func (s *Shop) run(ctx context.Context) {
	defer close(s.done)
	pause := 50 * time.Millisecond
	if s.clock.Speed() < 1 {
		pause = time.Second // nothing happens on it by itself
	}
	tick := time.NewTicker(pause)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			s.ReadGauges(ctx)
		}
	}
}

// snapshot is what a job keeps of the library as it was.
type snapshot struct {
	Circuit circuit.Circuit         `json:"circuit"`
	Hold    []judge.School          `json:"hold_schools"`
	Target  []runsheet.TargetSchool `json:"target_schools"`
	Repair  []circuit.RepairSchool  `json:"repair_schools,omitempty"`
	Fitted  map[string]bool         `json:"fitted,omitempty"` // options of the circuit that this machine has
	Things  []string                `json:"things,omitempty"` // what is gone round: vehicles, by name

	whole circuit.Circuit // with the steps of every school
	facts []logbook.Fact  // as they stood when it was read
	job   logbook.Job
}

// snapshotOf reads what a job keeps. Its circuit is the one that is done by the
// schools chosen for the job.
func snapshotOf(j logbook.Job, facts []logbook.Fact) (snapshot, error) {
	sn := snapshot{facts: facts, job: j}
	if err := json.Unmarshal(j.Snapshot, &sn); err != nil {
		return sn, err
	}
	sn.whole = sn.Circuit
	sn.Circuit = sn.whole.By(chosenSchools(&sn.whole, facts))
	return sn, nil
}

// rig is what a hold keeps of how it was done.
type rig struct {
	Gauge     runsheet.Gauge     `json:"gauge"`
	Pump      Pump               `json:"pump"`
	Target    runsheet.Target    `json:"target"`
	Limit     runsheet.Limit     `json:"limit"`
	Wanted    wantedAllowance    `json:"wanted_allowance"`
	Allowance runsheet.Allowance `json:"allowance"`
	AmbientPa float64            `json:"ambient_pa"`
	GasM3     float64            `json:"gas_m3"`
	GasSE     float64            `json:"gas_se_m3"`
	Step      string             `json:"step,omitempty"`           // of the circuit; empty: its first hold
	ByStrokes bool               `json:"gas_by_strokes,omitempty"` // they told the gas
	Unread    bool               `json:"warmth_unread,omitempty"`  // as a file said
	LiquidM3  float64            `json:"liquid_m3,omitempty"`      // beside the gas; where not the circuit's own
	Proven    bool               `json:"rig_proven"`
	Given     *givenAir          `json:"given_air,omitempty"` // where the strokes do not tell it
	Loss      *rigLoss           `json:"rig_loss,omitempty"`  // of the rig itself, dead-headed
	StandIn   *gauges.Spec       `json:"stand_in,omitempty"`
	Wire      *gauges.Wire       `json:"wire,omitempty"`
	Posted    bool               `json:"posted,omitempty"`
	Far       *KitGauge          `json:"far,omitempty"` // the gauge at the other end
}

// rigLoss is what the rig itself lost in its proof. Without its own volume it can
// be shown but not taken off.
type rigLoss struct {
	PaPerS float64 `json:"pa_per_s"`
	SE     float64 `json:"se_pa_per_s"`
	GasM3  float64 `json:"gas_m3"`
	GasSE  float64 `json:"gas_se_m3"`

	OnSystem bool `json:"on_system,omitempty"` // told as it shows on the system itself
}

// on is what it takes from a system with so much air.
func (r rigLoss) on(gasM3, gasSE float64) (paPerS, se float64) {
	if r.OnSystem {
		return r.PaPerS, r.SE
	}
	return judge.OnSystem(r.PaPerS, r.SE, r.GasM3, r.GasSE, gasM3, gasSE)
}
