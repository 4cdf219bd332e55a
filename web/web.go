// Package web serves the shop over HTTP: JSON with a described interface, one
// resumable event stream a page, and the page itself. No rule lives here.
package web

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"idlehiss/desk"
	"idlehiss/shop"
)

// New builds the handler. ui is the built page; nil leaves it out, as when only
// the described interface is wanted.
func New(s *shop.Shop, ui fs.ReadDirFS, o Options) (http.Handler, huma.API) {
	if s == nil {
		s = new(shop.Shop) // only to be described
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.Use(recovered, o.guard, o.guarded(s), costly(s))
	cfg := huma.DefaultConfig("Idle Hiss", "1")
	cfg.DocsPath = ""
	cfg.CreateHooks = nil
	cfg.Formats = map[string]huma.Format{"application/json": wholeJSON, "json": wholeJSON}
	huma.DefaultArrayNullable = false
	api := humagin.New(r, cfg)
	routes(api, s)
	get(api, "certificate", "/api/certificate", "What the certificate of this server is compared by", func(context.Context, *none) (CertificateView, error) { return certificate(o.Certificate) })
	bundleRoutes(r, api, s)
	described(api.OpenAPI().Components.Schemas, "#/components/schemas/")
	o.doorRoutes(r, s)
	r.GET(eventsPath, func(c *gin.Context) { stream(c, s) })
	r.GET("/api/kit/loans.ics", func(c *gin.Context) { loans(c, s) })
	r.GET("/api/machine/sticker", func(c *gin.Context) { sticker(c, s) })
	r.GET("/calendar/:key", func(c *gin.Context) { feed(c, s) })
	r.GET("/api/book.csv", func(c *gin.Context) { bookTable(c, s) })
	r.GET("/api/jobs/:id/paper", func(c *gin.Context) { paper(c, s) })
	r.GET("/api/holds/:id/trace.csv", func(c *gin.Context) { export(c, s) })
	if ui != nil {
		page(r, ui, func(c *gin.Context) bool { return o.look(c, s).in() })
	}
	return squeezed(r), api
}

// guard refuses what a page of another origin might send, and keeps the page to
// what it ships with.
func (o Options) guard(c *gin.Context) {
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		if from := c.GetHeader("Origin"); from != "" && from != o.scheme(c.Request)+"://"+c.Request.Host || c.GetHeader("Sec-Fetch-Site") == "cross-site" {
			refused(c, http.StatusForbidden, "this was sent by a page of another origin: only the shop's own page writes here")
			return
		}
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	if o.Secure {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if behind(c.Request.URL.Path) {
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// scheme is by what a page reached this request's host.
func (o Options) scheme(r *http.Request) string {
	if o.proxied(r) {
		if says := r.Header.Get("X-Forwarded-Proto"); says != "" {
			return says
		}
	}
	if r.TLS != nil {
		return "https"
	}
	return "http"
}

// page serves the built files; any other path is the page itself, whose own
// router takes it from there. in tells who is let in.
func page(r *gin.Engine, ui fs.ReadDirFS, in func(*gin.Context) bool) {
	files := files(ui)
	r.NoRoute(func(c *gin.Context) {
		path := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			c.JSON(http.StatusNotFound, &huma.ErrorModel{Status: http.StatusNotFound, Title: "Not Found", Detail: "there is nothing at /" + path})
			return
		}
		if strings.HasPrefix(path, "assets/") { // a page of another version of the program asks for what this one has not
			if _, err := fs.Stat(ui, path); err != nil {
				c.Data(http.StatusNotFound, "text/plain; charset=utf-8", []byte("this part of the page is of another version: load the page again"))
				return
			}
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
		// What the page asks first is on its way before its script has come.
		c.Writer.Header().Add("Link", "</api/door>; rel=preload; as=fetch; crossorigin")
		if path == "" && in(c) {
			c.Writer.Header().Add("Link", "</api/bench>; rel=preload; as=fetch; crossorigin")
		}
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
	var r *desk.Refusal
	if !errors.As(err, &r) {
		return broken(err)
	}
	status := map[desk.RefusalKind]int{desk.BadInput: http.StatusUnprocessableEntity, desk.Missing: http.StatusNotFound, desk.Conflict: http.StatusConflict, desk.TooMany: http.StatusTooManyRequests}[r.Kind]
	var details []error
	if r.Field != "" {
		details = append(details, &huma.ErrorDetail{Message: r.Says, Location: "body." + r.Field})
	}
	err = huma.NewError(status, r.Says, details...)
	if r.After > 0 {
		err = huma.ErrorWithHeaders(err, http.Header{"Retry-After": {strconv.Itoa(int(r.After/time.Second) + 1)}})
	}
	return err
}

func paper(c *gin.Context, s *shop.Shop) {
	var b strings.Builder
	want := shop.PaperWanted{Slip: c.Query("slip") != "", Unit: c.Query("unit"), Size: c.Query("size")}
	if err := s.Paper(c.Request.Context(), &b, c.Param("id"), want); err != nil {
		refuse(c, err)
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(b.String()))
}

func loans(c *gin.Context, s *shop.Shop) {
	var b strings.Builder
	if err := s.Kit.Loans(c.Request.Context(), &b); err != nil {
		refuse(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="loans.ics"`)
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(b.String()))
}

func export(c *gin.Context, s *shop.Shop) {
	tr, notes, err := s.Holds.Export(c.Request.Context(), c.Param("id"))
	if err != nil {
		refuse(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", "hold-"+c.Param("id")+".csv"))
	c.Header("Content-Type", "text/csv; charset=utf-8")
	c.Status(http.StatusOK)
	out := bufio.NewWriterSize(c.Writer, 64<<10)
	if tr.WriteCSV(out, notes...) == nil {
		_ = out.Flush() // else who asked has gone
	}
}

func refuse(c *gin.Context, err error) {
	p := problem(err)
	var with huma.HeadersError
	if errors.As(p, &with) {
		for name, values := range with.GetHeaders() {
			c.Header(name, values[0])
		}
	}
	var says *huma.ErrorModel
	if !errors.As(p, &says) {
		says = &huma.ErrorModel{Status: http.StatusInternalServerError}
	}
	c.Header("Content-Type", "application/problem+json")
	c.JSON(says.Status, says)
}
