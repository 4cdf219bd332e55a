package web

import (
	"cmp"
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/core/slate"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/eye"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/shop"
	"idlehiss/trail"
)

type none struct{}

type query struct {
	Q string `query:"q" maxLength:"200"`
}

type body[T any] struct{ Body T }

func get[I, O any](api huma.API, id, path, summary string, fn func(context.Context, *I) (O, error)) {
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary}, func(ctx context.Context, in *I) (*out[O], error) {
		return answer(fn(ctx, in))
	})
}

func post[I, O any](api huma.API, id, path, summary string, fn func(context.Context, *I) (O, error)) {
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, DefaultStatus: http.StatusOK}, func(ctx context.Context, in *I) (*out[O], error) {
		signed(ctx, in)
		return answer(fn(ctx, in))
	})
}

// signed makes a write that of the device whose session it comes by. At this computer several people write, each under
// a name of their own; a session there is the owner's, for what is the owner's.
func signed(ctx context.Context, in any) {
	v, _ := ctx.Value(visitorOf{}).(visitor)
	w, ok := in.(interface{ written() any })
	if v.device == nil || v.here || !ok {
		return
	}
	if by, ok := w.written().(interface{ SentBy(device, person string) }); ok {
		by.SentBy(v.device.Name, cmp.Or(v.device.Person, v.device.Name))
	}
}

func (b *body[T]) written() any { return &b.Body }
func (w *with[T]) written() any { return &w.Body }

// view is a get that needs nothing but the id in its path.
func view[O any](api huma.API, id, path, summary string, fn func(context.Context, string) (O, error)) {
	get(api, id, path, summary, func(ctx context.Context, in *byID) (O, error) { return fn(ctx, in.ID) })
}

// write is a post to what the id in its path names.
func write[I, O any](api huma.API, id, path, summary string, fn func(context.Context, string, I) (O, error)) {
	post(api, id, path, summary, func(ctx context.Context, in *with[I]) (O, error) { return fn(ctx, in.ID, in.Body) })
}

// ClockView is the server's time, how fast it runs, and what the shop's clocks show, over their changes: a device may be in
// another time zone.
type ClockView struct {
	Now   time.Time  `json:"now"`
	Speed float64    `json:"speed"`
	Zone  []ZoneSpan `json:"zone"` // first to last
}

// ZoneSpan is how far the shop's clocks are ahead of universal time from a moment on.
type ZoneSpan struct {
	From  int64 `json:"from"`  // ms since the epoch
	Ahead int   `json:"ahead"` // s
}

// The years whose dates are shown by the shop's clocks as they were or will be.
const (
	zonesFrom  = 2015
	zonesAhead = 3 * 365 * 24 * time.Hour
)

// zoneSpans are those of a place up to some years after now. Before the first it is as it was then.
func zoneSpans(place *time.Location, now time.Time) []ZoneSpan {
	out := []ZoneSpan{}
	for t := time.Date(zonesFrom, 1, 1, 0, 0, 0, 0, place); ; {
		_, ahead := t.Zone()
		out = append(out, ZoneSpan{t.UnixMilli(), ahead})
		_, end := t.ZoneBounds()
		if end.IsZero() || end.Sub(now) > zonesAhead {
			return out
		}
		t = end
	}
}

func routes(api huma.API, s *shop.Shop) {
	get(api, "clock", "/api/clock", "The server's clock", func(context.Context, *none) (ClockView, error) {
		now, speed := s.Now()
		return ClockView{now, speed, zoneSpans(time.Local, now)}, nil
	})
	get(api, "bench", "/api/bench", "What is under pressure and what wants hands", func(ctx context.Context, _ *none) (shop.BenchView, error) { return s.Bench(ctx) })
	recordRoutes(api, s.Record)
	get(api, "slate", "/api/slate", "The calculators", func(context.Context, *none) ([]slate.Calculator, error) { return slate.All(), nil })
	type typed struct {
		Name string `path:"name"`
		Body struct {
			Fields map[string]string `json:"fields"`
		}
	}
	post(api, "calculate", "/api/slate/{name}", "Work out what was typed", func(_ context.Context, in *typed) (slate.Answer, error) {
		return s.Calculate(in.Name, in.Body.Fields)
	})
	libraryRoutes(api, s.Catalogue)
	kitRoutes(api, s.Kit)
	holdRoutes(api, s.Holds, s.Kit)
	eyeRoutes(api, s.Eye)
	jobRoutes(api, s.Jobs)
	type pair struct {
		First  string `query:"first"`
		Second string `query:"second"`
	}
	get(api, "compare", "/api/compare", "Two holds beside each other", func(ctx context.Context, in *pair) (shop.CompareView, error) {
		return s.Compare(ctx, in.First, in.Second)
	})
	view(api, "comparable", "/api/holds/{id}/comparable", "Holds to compare with", s.Comparable)
	deviceRoutes(api, s.Door)
	get(api, "looks", "/api/shop/looks", "When a look is usually wanted again", func(ctx context.Context, _ *none) ([]shop.LookOffer, error) { return s.LookOffers(ctx) })
	get(api, "head", "/api/shop/head", "What stands at the head of the papers", func(ctx context.Context, _ *none) (shop.Head, error) { return s.Head(ctx) })
	post(api, "set-head", "/api/shop/head", "Change what stands at the head of the papers", func(ctx context.Context, in *body[shop.SetHead]) (desk.Receipt, error) {
		return s.SetHead(ctx, in.Body)
	})
	get(api, "kept", "/api/keep", "Whether what is entered is kept, and what backups there are", func(context.Context, *none) (shop.KeepView, error) { return s.Keep.Kept() })
	post(api, "back-up", "/api/keep/backup", "Make a backup now", func(ctx context.Context, _ *none) (shop.KeepView, error) { return s.Keep.Backup(ctx) })
}

func libraryRoutes(api huma.API, c *catalogue.Room) {
	type mark struct {
		Text    string `query:"text" maxLength:"40"`
		Circuit string `query:"circuit"`
	}
	get(api, "decode-mark", "/api/marks", "Decode a mark", func(_ context.Context, in *mark) (catalogue.MarkView, error) {
		return c.DecodeMark(in.Text, in.Circuit)
	})
	type meant struct {
		Bench     string `query:"bench" maxLength:"80" doc:"what is on the bench"`
		Complaint string `query:"complaint" maxLength:"400"`
		Figure    string `query:"figure" maxLength:"40" doc:"what was typed beside: a mark, or how many"`
	}
	get(api, "circuit-meant", "/api/meant", "The circuit that is meant", func(_ context.Context, in *meant) (catalogue.Proposed, error) { return c.Meant(circuit.Typed(*in)) })
	get(api, "circuits", "/api/circuits", "The library of circuits, and the shop's own files", func(context.Context, *none) (catalogue.CircuitList, error) { return c.List() })
	view(api, "circuit", "/api/circuits/{id}", "A circuit with what follows from it", func(_ context.Context, id string) (catalogue.CircuitView, error) { return c.Circuit(id) })
}

// KitView is what the shop has to measure and pump with.
type KitView struct {
	Gauges []runsheet.Gauge `json:"gauges"` // what a simulated one hides stays hidden
	Pumps  []runsheet.Pump  `json:"pumps"`
}

// NewGauge is a gauge as its face is described, and how it speaks.
type NewGauge struct {
	desk.Write
	Name    string          `json:"name" maxLength:"60"`
	Kind    terms.FaceKind  `json:"kind"`
	Rings   []runsheet.Ring `json:"rings" minItems:"1" maxItems:"3"`
	Read    int             `json:"read" minimum:"0" maximum:"2"`
	Class   float64         `json:"class" minimum:"0" maximum:"10"`
	Rating  string          `json:"rating,omitempty" maxLength:"40" doc:"the pressure it is good for; absent: the end of its scale"`
	Address string          `json:"address,omitempty" maxLength:"100" doc:"host and port of a gauge that is asked over Modbus TCP"`
	Map     string          `json:"map,omitempty" maxLength:"60" doc:"id of its register map"`
	Posted  bool            `json:"posted,omitempty" doc:"its readings are posted over HTTP"`
	Case    string          `json:"case,omitempty" doc:"the borrowed case in which it came"`
}

func kitRoutes(api huma.API, k *kit.Room) {
	get(api, "kit", "/api/kit", "Gauges and pumps", func(ctx context.Context, _ *none) (KitView, error) {
		v := KitView{Gauges: []runsheet.Gauge{}}
		shelf, err := k.Shelf(ctx)
		if err != nil {
			return v, err
		}
		for _, g := range shelf.InUse() {
			v.Gauges = append(v.Gauges, g.Gauge)
		}
		v.Pumps = shelf.PumpsInUse()
		return v, nil
	})
	post(api, "add-gauge", "/api/kit/gauges", "Add a gauge", func(ctx context.Context, in *body[NewGauge]) (runsheet.Gauge, error) {
		b := in.Body
		g, err := k.AddGauge(ctx, b.Write, kit.NewGauge{Gauge: runsheet.Gauge{Name: b.Name, Kind: b.Kind, Rings: b.Rings, Read: b.Read, Class: b.Class},
			Rating: b.Rating, Address: b.Address, MapID: b.Map, Posted: b.Posted, Case: b.Case})
		return g.Gauge, err
	})
	get(api, "kit-list", "/api/kit/items", "All of the kit, with its notes and loans", func(ctx context.Context, _ *none) (kit.ListView, error) { return k.List(ctx) })
	post(api, "add-pump", "/api/kit/pumps", "Add a pump", func(ctx context.Context, in *body[kit.NewPump]) (desk.Receipt, error) { return k.AddPump(ctx, in.Body) })
	post(api, "add-fitting", "/api/kit/fittings", "Add an adapter or a plug", func(ctx context.Context, in *body[kit.NewFitting]) (desk.Receipt, error) {
		return k.AddFitting(ctx, in.Body)
	})
	post(api, "borrow", "/api/kit/cases", "Borrow a case of kit, counted in", func(ctx context.Context, in *body[kit.NewCase]) (desk.Receipt, error) { return k.Borrow(ctx, in.Body) })
	write(api, "kit-note", "/api/kit/{id}/notes", "Note what was found or done with a piece of kit", k.Note)
}

func holdRoutes(api huma.API, h *holds.Room, k *kit.Room) {
	get(api, "running", "/api/holds", "Holds in progress", func(context.Context, *none) ([]holds.HoldView, error) { return h.Running(), nil })
	view(api, "hold", "/api/holds/{id}", "A hold with its trace", h.Hold)
	write(api, "hold-event", "/api/holds/{id}/events", "Note an event", h.Event)
	write(api, "reading", "/api/holds/{id}/readings", "Note a reading", h.Reading)
	write(api, "undo", "/api/holds/{id}/undo", "Undo the last reading", h.Undo)
	write(api, "put-condition-right", "/api/holds/{id}/condition", "Put right under which condition a hold is done", h.SetCondition)
	write(api, "leave-running", "/api/holds/{id}/leave", "Leave a hold running, or take it up again", h.Leave)
	view(api, "why", "/api/holds/{id}/why", "What lies behind a call", h.Why)
	post(api, "gauge-says", "/api/gauges/{id}/readings", "What a gauge says of the hold it is on", func(ctx context.Context, in *with[holds.Posted]) (desk.Receipt, error) {
		return h.Post(ctx, in.ID, func() (string, error) {
			shelf, err := k.Shelf(ctx)
			if err != nil {
				return "", err
			}
			g, err := shelf.Gauge(in.ID)
			return g.Name, err
		}, in.Body)
	})
}

func eyeRoutes(api huma.API, e *eye.Room) {
	write(api, "read-face", "/api/holds/{id}/faces", "Read the needle in a picture of its face", e.Look)
	write(api, "find-face", "/api/holds/{id}/face", "Look for a face where it may be now", func(ctx context.Context, _ string, in eye.FaceSearch) (eye.FaceFound, error) { return e.Find(ctx, in) })
	view(api, "drawn-needle", "/api/holds/{id}/needle", "Where the drawn needle of a simulated gauge stands", e.Needle)
}

// largestTrace is as large as a trace file may be, bytes.
const largestTrace = 32 << 20

// picture is a photo as it is answered.
type picture struct {
	Type  string `header:"Content-Type"`
	Cache string `header:"Cache-Control"`
	Body  []byte
}

func jobRoutes(api huma.API, j *jobs.Room) {
	post(api, "start-job", "/api/jobs", "Start a job", func(ctx context.Context, in *body[jobs.StartJob]) (desk.Receipt, error) { return j.Begin(ctx, in.Body) })
	view(api, "job", "/api/jobs/{id}", "A sheet", j.Job)
	write(api, "enter-mark", "/api/jobs/{id}/mark", "Enter the mark", j.Mark)
	write(api, "set-plan", "/api/jobs/{id}/plan", "Choose target, gauge and allowance", j.SetPlan)
	write(api, "tick", "/api/jobs/{id}/ticks", "Tick an item", j.Tick)
	write(api, "remark", "/api/jobs/{id}/remarks", "Note a remark", j.Remark)
	write(api, "skip-proof", "/api/jobs/{id}/skip-proof", "Go on without a rig proof", j.SkipProof)
	write(api, "look", "/api/jobs/{id}/looks", "Note what was seen at a part", j.Look)
	write(api, "remind", "/api/jobs/{id}/reminders", "Be reminded to look again", j.Remind)
	write(api, "reminded", "/api/jobs/{id}/reminded", "Looked at again", j.Reminded)
	write(api, "rig-fitted", "/api/jobs/{id}/fitted", "Note which rig fitted", j.RigFitted)
	write(api, "choose-school", "/api/jobs/{id}/schools", "Choose by which school a matter is done", j.ChooseSchool)
	write(api, "parties", "/api/jobs/{id}/parties", "Note whose machine it is, its plate and what its meter shows", j.SetParties)
	write(api, "cause", "/api/jobs/{id}/cause", "Note what made a mended part fail", j.Cause)
	write(api, "mend", "/api/jobs/{id}/repairs", "Note a repair", j.Mend)
	write(api, "accept-rig", "/api/jobs/{id}/accept", "Accept a leak of the rig itself, by name", j.AcceptRig)
	write(api, "sign", "/api/jobs/{id}/signs", "Note a sign seen before any tool", j.Sign)
	write(api, "escape", "/api/jobs/{id}/escape", "Note whether a leak drips or hisses", j.Escape)
	write(api, "hunch", "/api/jobs/{id}/hunch", "Note a guess", j.Hunch)
	write(api, "ground", "/api/jobs/{id}/ground", "Note what the hunt takes for granted: covers off, tools, noise", j.Ground)
	write(api, "came-out", "/api/jobs/{id}/came-out", "Note a place where it came out", j.CameOut)
	write(api, "answer", "/api/jobs/{id}/answers", "Note what an act showed", j.Answer)
	write(api, "tried", "/api/jobs/{id}/tried", "Note what an isolation test showed", j.Tried)
	write(api, "set-up", "/api/jobs/{id}/set-up", "Note a plug, lever or valve that was changed", j.SetUp)
	view(api, "passages", "/api/jobs/{id}/passages", "The isolation tests of a housing, and the next one", j.Passages)
	write(api, "photo", "/api/jobs/{id}/photos", "Keep a photo of a part", j.Photo)
	type suspect struct {
		ID   string `path:"id"`
		Part string `query:"part" required:"true"`
	}
	get(api, "why-suspect", "/api/jobs/{id}/why-suspect", "Which evidence raised a suspect, and which lowered it", func(ctx context.Context, in *suspect) ([]trail.HuntReason, error) {
		return j.Why(ctx, in.ID, in.Part)
	})
	huma.Register(api, huma.Operation{OperationID: "see-photo", Method: http.MethodGet, Path: "/api/photos/{id}", Summary: "A photo"}, func(ctx context.Context, in *byID) (*picture, error) {
		raw, err := j.PhotoOf(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		return &picture{"image/jpeg", "private, max-age=31536000, immutable", raw}, nil
	})
	write(api, "close-job", "/api/jobs/{id}/close", "Close or abandon a job", j.End)
	write(api, "start-hold", "/api/jobs/{id}/holds", "Begin a hold", j.Start)
	write(api, "take-air", "/api/jobs/{id}/air", "Use trapped air worked out beside the job", j.Air)
	write(api, "topped-up", "/api/jobs/{id}/topped-up", "Note how much is topped up", j.TopUps)
	type planned struct {
		ID   string `path:"id"`
		Step string `query:"step"`
	}
	get(api, "hold-plan", "/api/jobs/{id}/hold-plan", "How long the hold will need", func(ctx context.Context, in *planned) (runsheet.HoldPlan, error) {
		return j.PlanHold(ctx, in.ID, in.Step)
	})
	type foundAt struct {
		ID   string `path:"id"`
		Step string `path:"step"`
		Body jobs.Found
	}
	post(api, "found", "/api/jobs/{id}/steps/{step}", "Note what was found at a step", func(ctx context.Context, in *foundAt) (desk.Receipt, error) {
		return j.Found(ctx, in.ID, in.Step, in.Body)
	})
	huma.Register(api, huma.Operation{OperationID: "drop-trace", Method: http.MethodPost, Path: "/api/jobs/{id}/traces", Summary: "A trace file becomes a finished hold", DefaultStatus: http.StatusOK, MaxBodyBytes: largestTrace, BodyReadTimeout: -1},
		func(ctx context.Context, in *with[jobs.Dropped]) (*out[jobs.DroppedView], error) {
			if text, ok := ctx.Value(textOf{}).(string); ok {
				in.Body.Text = text
			}
			return answer(j.Drop(ctx, in.ID, in.Body))
		})
}
