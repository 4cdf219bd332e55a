// Package web serves the shop over HTTP: JSON with a described interface, one
// resumable event stream a page, and the page itself. No rule lives here.
package web

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"idlehiss/core/runsheet"
	"idlehiss/core/slate"
	"idlehiss/shop"
)

// New builds the handler. ui is the built page; nil leaves it out, as when only
// the described interface is wanted.
func New(s *shop.Shop, ui fs.FS) (http.Handler, huma.API) {
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.Use(gin.Recovery(), guard, door(s))
	cfg := huma.DefaultConfig("Idle Hiss", "1")
	cfg.DocsPath = ""
	cfg.CreateHooks = nil
	cfg.Formats = map[string]huma.Format{"application/json": wholeJSON, "json": wholeJSON}
	huma.DefaultArrayNullable = false
	api := humagin.New(r, cfg)
	routes(api, s)
	nullable(api.OpenAPI().Components.Schemas, "#/components/schemas/")
	doorRoutes(r, s)
	r.GET("/api/events", func(c *gin.Context) { stream(c, s) })
	r.GET("/api/kit/loans.ics", func(c *gin.Context) { loans(c, s) })
	r.GET("/api/jobs/:id/paper", func(c *gin.Context) { paper(c, s) })
	r.GET("/api/holds/:id/trace.csv", func(c *gin.Context) { export(c, s) })
	if ui != nil {
		page(r, ui)
	}
	return r, api
}

// guard refuses what a page of another origin might send, and keeps the page to
// what it ships with.
func guard(c *gin.Context) {
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		if o := c.GetHeader("Origin"); o != "" && !strings.HasSuffix(o, "//"+c.Request.Host) || c.GetHeader("Sec-Fetch-Site") == "cross-site" {
			refused(c, http.StatusForbidden, "this was sent by a page of another origin: only the shop's own page writes here")
			return
		}
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	c.Next()
}

// page serves the built files; any other path is the page itself, whose own
// router takes it from there.
func page(r *gin.Engine, ui fs.FS) {
	files := http.FileServerFS(ui)
	r.NoRoute(func(c *gin.Context) {
		path := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			c.JSON(http.StatusNotFound, &huma.ErrorModel{Status: http.StatusNotFound, Title: "Not Found", Detail: "there is nothing at /" + path})
			return
		}
		if path != "" {
			if f, err := ui.Open(path); err == nil {
				f.Close()
				if strings.HasPrefix(path, "assets/") {
					c.Header("Cache-Control", "public, max-age=31536000, immutable")
				}
				c.Status(http.StatusOK)
				files.ServeHTTP(c.Writer, c.Request)
				return
			}
		}
		c.Header("Cache-Control", "no-cache")
		c.Status(http.StatusOK)
		c.Request.URL.Path = "/"
		files.ServeHTTP(c.Writer, c.Request)
	})
}

type out[T any] struct{ Body T }

type byID struct {
	ID string `path:"id"`
}

type with[T any] struct {
	ID   string `path:"id"`
	Body T
}

// answer wraps a shop's answer and turns a refusal into a problem answer.
func answer[T any](v T, err error) (*out[T], error) {
	if err == nil {
		return &out[T]{v}, nil
	}
	return nil, problem(err)
}

func problem(err error) error {
	var r *shop.Refusal
	if !errors.As(err, &r) {
		return huma.Error500InternalServerError("the book could not be read or written: nothing was taken down. Try again; if it stays so, look at the disk", err)
	}
	status := map[shop.RefusalKind]int{shop.BadInput: http.StatusUnprocessableEntity, shop.Missing: http.StatusNotFound, shop.Conflict: http.StatusConflict, shop.TooMany: http.StatusTooManyRequests}[r.Kind]
	if r.Field == "" {
		return huma.NewError(status, r.Says)
	}
	return huma.NewError(status, r.Says, &huma.ErrorDetail{Message: r.Says, Location: "body." + r.Field})
}

func get[I, O any](api huma.API, id, path, summary string, fn func(context.Context, *I) (O, error)) {
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary}, func(ctx context.Context, in *I) (*out[O], error) {
		return answer(fn(ctx, in))
	})
}

func post[I, O any](api huma.API, id, path, summary string, fn func(context.Context, *I) (O, error)) {
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, DefaultStatus: http.StatusOK}, func(ctx context.Context, in *I) (*out[O], error) {
		return answer(fn(ctx, in))
	})
}

// ClockView is the server's time and how fast it runs.
type ClockView struct {
	Now   time.Time `json:"now"`
	Speed float64   `json:"speed"`
}

// KitView is what the shop has to measure and pump with.
type KitView struct {
	Gauges []runsheet.Gauge `json:"gauges"` // what a simulated one hides stays hidden
	Pumps  []shop.Pump      `json:"pumps"`
}

// NewGauge is a gauge as its face is described, and how it speaks.
type NewGauge struct {
	shop.Write
	Name    string          `json:"name" maxLength:"60"`
	Kind    string          `json:"kind" enum:"needle,digital"`
	Rings   []runsheet.Ring `json:"rings" minItems:"1" maxItems:"3"`
	Read    int             `json:"read" minimum:"0" maximum:"2"`
	Class   float64         `json:"class" minimum:"0" maximum:"10"`
	Rating  string          `json:"rating,omitempty" maxLength:"40" doc:"the pressure it is good for; absent: the end of its scale"`
	Address string          `json:"address,omitempty" maxLength:"100" doc:"host and port of a gauge that is asked over Modbus TCP"`
	Map     string          `json:"map,omitempty" maxLength:"60" doc:"id of its register map"`
	Posted  bool            `json:"posted,omitempty" doc:"its readings are posted over HTTP"`
}

func routes(api huma.API, s *shop.Shop) {
	type none struct{}
	get(api, "clock", "/api/clock", "The server's clock", func(context.Context, *none) (ClockView, error) {
		now, speed := s.Now()
		return ClockView{now, speed}, nil
	})
	get(api, "bench", "/api/bench", "What is under pressure and what wants hands", func(ctx context.Context, _ *none) (shop.BenchView, error) { return s.Bench(ctx) })
	get(api, "running", "/api/holds", "Holds in progress", func(context.Context, *none) ([]shop.HoldView, error) { return s.Running(), nil })
	type query struct {
		Q string `query:"q" maxLength:"200"`
	}
	get(api, "book", "/api/book", "Jobs found by plain words", func(ctx context.Context, in *query) ([]shop.BookRow, error) { return s.Book(ctx, in.Q) })
	get(api, "machines", "/api/machines", "Machines found by name", func(ctx context.Context, in *query) ([]string, error) { return s.Machines(ctx, in.Q) })
	type mark struct {
		Text    string `query:"text" maxLength:"40"`
		Circuit string `query:"circuit"`
	}
	get(api, "decode-mark", "/api/marks", "Decode a mark", func(_ context.Context, in *mark) (shop.MarkView, error) { return s.DecodeMark(in.Text, in.Circuit) })
	type meant struct {
		Typed  string `query:"typed" maxLength:"500" doc:"a machine's name and its complaint"`
		Figure string `query:"figure" maxLength:"40" doc:"what was typed beside: a mark, or how many"`
	}
	get(api, "circuit-meant", "/api/meant", "The circuit that is meant", func(_ context.Context, in *meant) (shop.Choice, error) { return s.CircuitMeant(in.Typed, in.Figure) })
	get(api, "kit", "/api/kit", "Gauges and pumps", func(ctx context.Context, _ *none) (KitView, error) {
		g, err := s.Gauges(ctx)
		if err != nil {
			return KitView{}, err
		}
		faces := make([]runsheet.Gauge, len(g))
		for i := range g {
			faces[i] = g[i].Gauge
		}
		p, err := s.Pumps(ctx)
		return KitView{faces, p}, err
	})
	type newGauge struct{ Body NewGauge }
	post(api, "add-gauge", "/api/kit/gauges", "Add a gauge", func(ctx context.Context, in *newGauge) (runsheet.Gauge, error) {
		b := in.Body
		g, err := s.AddGauge(ctx, b.Write, shop.NewGauge{Gauge: runsheet.Gauge{Name: b.Name, Kind: b.Kind, Rings: b.Rings, Read: b.Read, Class: b.Class},
			Rating: b.Rating, Address: b.Address, MapID: b.Map, Posted: b.Posted})
		return g.Gauge, err
	})
	get(api, "kit-list", "/api/kit/items", "All of the kit, with its notes and loans", func(ctx context.Context, _ *none) (shop.KitList, error) { return s.KitList(ctx) })
	type newPump struct{ Body shop.NewPump }
	post(api, "add-pump", "/api/kit/pumps", "Add a pump", func(ctx context.Context, in *newPump) (shop.KitList, error) { return s.AddPump(ctx, in.Body) })
	type newFitting struct{ Body shop.NewFitting }
	post(api, "add-fitting", "/api/kit/fittings", "Add an adapter or a plug", func(ctx context.Context, in *newFitting) (shop.KitList, error) { return s.AddFitting(ctx, in.Body) })
	post(api, "kit-note", "/api/kit/{id}/notes", "Take down what was found or done with a piece of kit", func(ctx context.Context, in *with[shop.NewNote]) (shop.KitList, error) {
		return s.Note(ctx, in.ID, in.Body)
	})
	post(api, "gauge-says", "/api/gauges/{id}/readings", "What a gauge says of the hold it is on", func(ctx context.Context, in *with[shop.Posted]) (shop.Ack, error) {
		return s.Post(ctx, in.ID, in.Body)
	})
	get(api, "devices", "/api/devices", "Devices that are let in", func(ctx context.Context, _ *none) (shop.DoorView, error) { return s.Door(ctx) })
	type newPin struct {
		Body struct {
			Pin string `json:"pin" maxLength:"12" doc:"4 to 12 digits; empty takes it away"`
		}
	}
	post(api, "set-pin", "/api/pin", "Set the shop's PIN; every other device is signed out", func(ctx context.Context, in *newPin) (shop.DoorView, error) {
		return s.SetPin(ctx, in.Body.Pin)
	})
	post(api, "sign-out", "/api/devices/{id}/out", "Sign a device out", func(ctx context.Context, in *byID) (shop.DoorView, error) { return s.SignOut(ctx, in.ID) })
	type startJob struct{ Body shop.StartJob }
	post(api, "start-job", "/api/jobs", "Begin a job", func(ctx context.Context, in *startJob) (shop.JobView, error) { return s.Begin(ctx, in.Body) })
	get(api, "job", "/api/jobs/{id}", "A sheet", func(ctx context.Context, in *byID) (shop.JobView, error) { return s.Job(ctx, in.ID) })
	post(api, "enter-mark", "/api/jobs/{id}/mark", "Enter the mark", func(ctx context.Context, in *with[shop.EnterMark]) (shop.JobView, error) {
		return s.Mark(ctx, in.ID, in.Body)
	})
	post(api, "set-plan", "/api/jobs/{id}/plan", "Choose target, gauge and allowance", func(ctx context.Context, in *with[shop.Plan]) (shop.JobView, error) {
		return s.SetPlan(ctx, in.ID, in.Body)
	})
	post(api, "tick", "/api/jobs/{id}/ticks", "Tick an item", func(ctx context.Context, in *with[shop.Tick]) (shop.JobView, error) {
		return s.Tick(ctx, in.ID, in.Body)
	})
	post(api, "remark", "/api/jobs/{id}/remarks", "Take down a remark", func(ctx context.Context, in *with[shop.Remark]) (shop.JobView, error) {
		return s.Remark(ctx, in.ID, in.Body)
	})
	post(api, "skip-proof", "/api/jobs/{id}/skip-proof", "Go on without a rig proof", func(ctx context.Context, in *with[shop.Write]) (shop.JobView, error) {
		return s.SkipProof(ctx, in.ID, in.Body)
	})
	post(api, "look", "/api/jobs/{id}/looks", "Take down what was seen at a part", func(ctx context.Context, in *with[shop.Look]) (shop.JobView, error) {
		return s.Look(ctx, in.ID, in.Body)
	})
	post(api, "remind", "/api/jobs/{id}/reminders", "Be reminded to look again", func(ctx context.Context, in *with[shop.NewReminder]) (shop.JobView, error) {
		return s.Remind(ctx, in.ID, in.Body)
	})
	post(api, "reminded", "/api/jobs/{id}/reminded", "Looked at again", func(ctx context.Context, in *with[shop.RemindedOf]) (shop.JobView, error) {
		return s.Reminded(ctx, in.ID, in.Body)
	})
	post(api, "rig-fitted", "/api/jobs/{id}/fitted", "Take down which rig fitted", func(ctx context.Context, in *with[shop.RigFitted]) (shop.JobView, error) {
		return s.RigFitted(ctx, in.ID, in.Body)
	})
	post(api, "choose-school", "/api/jobs/{id}/schools", "Choose by which school a matter is done", func(ctx context.Context, in *with[shop.ChooseSchool]) (shop.JobView, error) {
		return s.ChooseSchool(ctx, in.ID, in.Body)
	})
	post(api, "mend", "/api/jobs/{id}/repairs", "Take down a repair", func(ctx context.Context, in *with[shop.Mend]) (shop.JobView, error) {
		return s.Mend(ctx, in.ID, in.Body)
	})
	post(api, "accept-rig", "/api/jobs/{id}/accept", "Accept a leak of the rig itself, by name", func(ctx context.Context, in *with[shop.AcceptRig]) (shop.JobView, error) {
		return s.AcceptRig(ctx, in.ID, in.Body)
	})
	post(api, "sign", "/api/jobs/{id}/signs", "Take down a sign seen before any tool", func(ctx context.Context, in *with[shop.Sign]) (shop.JobView, error) {
		return s.Sign(ctx, in.ID, in.Body)
	})
	post(api, "hunch", "/api/jobs/{id}/hunch", "Take down a guess", func(ctx context.Context, in *with[shop.Hunch]) (shop.JobView, error) {
		return s.Hunch(ctx, in.ID, in.Body)
	})
	post(api, "close-job", "/api/jobs/{id}/close", "Close or abandon a job", func(ctx context.Context, in *with[shop.CloseJob]) (shop.JobView, error) {
		return s.End(ctx, in.ID, in.Body)
	})
	post(api, "start-hold", "/api/jobs/{id}/holds", "Begin a hold", func(ctx context.Context, in *with[shop.StartHold]) (shop.HoldView, error) {
		return s.Start(ctx, in.ID, in.Body)
	})
	get(api, "hold", "/api/holds/{id}", "A hold with its trace", func(ctx context.Context, in *byID) (shop.HoldView, error) { return s.Hold(ctx, in.ID) })
	post(api, "hold-event", "/api/holds/{id}/events", "Take down an event", func(ctx context.Context, in *with[shop.HoldEvent]) (shop.HoldView, error) {
		return s.Event(ctx, in.ID, in.Body)
	})
	post(api, "reading", "/api/holds/{id}/readings", "Take down a reading", func(ctx context.Context, in *with[shop.TypedReading]) (shop.HoldView, error) {
		return s.Reading(ctx, in.ID, in.Body)
	})
	post(api, "strike", "/api/holds/{id}/strikes", "Strike out a reading", func(ctx context.Context, in *with[shop.StrikeOut]) (shop.HoldView, error) {
		return s.Strike(ctx, in.ID, in.Body)
	})
	get(api, "slate", "/api/slate", "The calculators", func(context.Context, *none) ([]slate.Calculator, error) { return s.Slate(), nil })
	type typed struct {
		Name string `path:"name"`
		Body struct {
			Fields map[string]string `json:"fields"`
		}
	}
	post(api, "calculate", "/api/slate/{name}", "Work out what was typed", func(_ context.Context, in *typed) (slate.Answer, error) {
		return s.Calculate(in.Name, in.Body.Fields)
	})
	post(api, "take-air", "/api/jobs/{id}/air", "Take over trapped air worked out beside the job", func(ctx context.Context, in *with[shop.TakeAir]) (shop.JobView, error) {
		return s.Air(ctx, in.ID, in.Body)
	})
	post(api, "topped-up", "/api/jobs/{id}/topped-up", "Take down how much is topped up", func(ctx context.Context, in *with[shop.ToppedUp]) (shop.JobView, error) {
		return s.TopUps(ctx, in.ID, in.Body)
	})
	type planned struct {
		ID   string `path:"id"`
		Step string `query:"step"`
	}
	get(api, "hold-plan", "/api/jobs/{id}/hold-plan", "How long the hold will need", func(ctx context.Context, in *planned) (shop.HoldPlan, error) {
		return s.PlanHold(ctx, in.ID, in.Step)
	})
	type foundAt struct {
		ID   string `path:"id"`
		Step string `path:"step"`
		Body shop.Found
	}
	post(api, "found", "/api/jobs/{id}/steps/{step}", "Take down what was found at a step", func(ctx context.Context, in *foundAt) (shop.JobView, error) {
		return s.Found(ctx, in.ID, in.Step, in.Body)
	})
	get(api, "circuits", "/api/circuits", "The library of circuits, and the shop's own files", func(context.Context, *none) (shop.CircuitList, error) { return s.Circuits() })
	get(api, "circuit", "/api/circuits/{id}", "A circuit with what follows from it", func(_ context.Context, in *byID) (shop.CircuitView, error) { return s.Circuit(in.ID) })
	huma.Register(api, huma.Operation{OperationID: "drop-trace", Method: http.MethodPost, Path: "/api/jobs/{id}/traces", Summary: "A trace file becomes a finished hold", DefaultStatus: http.StatusOK, MaxBodyBytes: 32 << 20},
		func(ctx context.Context, in *with[shop.Dropped]) (*out[shop.DroppedView], error) {
			return answer(s.Drop(ctx, in.ID, in.Body))
		})
	type pair struct {
		First  string `query:"first"`
		Second string `query:"second"`
	}
	get(api, "compare", "/api/compare", "Two holds beside each other", func(ctx context.Context, in *pair) (shop.CompareView, error) {
		return s.Compare(ctx, in.First, in.Second)
	})
	get(api, "why", "/api/holds/{id}/why", "What lies behind a call", func(ctx context.Context, in *byID) (shop.WhyView, error) { return s.Why(ctx, in.ID) })
	get(api, "comparable", "/api/holds/{id}/comparable", "Holds to compare with", func(ctx context.Context, in *byID) ([]shop.HoldLine, error) { return s.Comparable(ctx, in.ID) })
	post(api, "lay-by", "/api/holds/{id}/lay-by", "Lay a hold by, or pick it up", func(ctx context.Context, in *with[shop.LayBy]) (shop.HoldView, error) {
		return s.LayBy(ctx, in.ID, in.Body)
	})
}

func paper(c *gin.Context, s *shop.Shop) {
	var b strings.Builder
	if err := s.Paper(c.Request.Context(), &b, c.Param("id")); err != nil {
		refuse(c, err)
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(b.String()))
}

func loans(c *gin.Context, s *shop.Shop) {
	var b strings.Builder
	if err := s.Loans(c.Request.Context(), &b); err != nil {
		refuse(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="loans.ics"`)
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(b.String()))
}

func export(c *gin.Context, s *shop.Shop) {
	tr, notes, err := s.Export(c.Request.Context(), c.Param("id"))
	if err != nil {
		refuse(c, err)
		return
	}
	var b strings.Builder
	if err := tr.WriteCSV(&b, notes...); err != nil {
		refuse(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", "hold-"+c.Param("id")+".csv"))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", []byte(b.String()))
}

func refuse(c *gin.Context, err error) {
	p := problem(err)
	status := http.StatusInternalServerError
	var se huma.StatusError
	if errors.As(p, &se) {
		status = se.GetStatus()
	}
	c.JSON(status, p)
}
