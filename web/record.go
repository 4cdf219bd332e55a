package web

import (
	"bufio"
	"context"
	"net"
	"net/http"
	"net/url"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"idlehiss/core/asked"
	"idlehiss/desk"
	"idlehiss/record"
	"idlehiss/sheets"
	"idlehiss/shop"
)

func recordRoutes(api huma.API, r *record.Room) {
	get(api, "book", "/api/book", "Jobs found by plain words and filters", func(ctx context.Context, in *record.BookAsked) (record.BookView, error) { return r.Book(ctx, *in) })
	get(api, "machines", "/api/machines", "Machines found by name", func(ctx context.Context, in *query) ([]string, error) { return r.Machines(ctx, in.Q) })
	type named struct {
		Name string `query:"name" required:"true" maxLength:"80"`
	}
	get(api, "machine", "/api/machine", "What is known of a machine over its jobs", func(ctx context.Context, in *named) (record.MachineView, error) { return r.Machine(ctx, in.Name) })
	write(api, "again", "/api/jobs/{id}/again", "Begin the same test again, with everything that is known", r.Again)
	post(api, "top-up", "/api/machine/top-ups", "Note what was put into a machine", func(ctx context.Context, in *body[record.NewTopUp]) (desk.Receipt, error) {
		return r.TopUp(ctx, in.Body)
	})
	post(api, "set-of", "/api/machine/set", "Say which machines are one together", func(ctx context.Context, in *body[record.NewSet]) (desk.Receipt, error) { return r.SetOf(ctx, in.Body) })
	write(api, "pass-on", "/api/jobs/{id}/passed", "Pass a job on", r.Pass)
	write(api, "ask-about", "/api/jobs/{id}/questions", "Ask somebody else about a job", r.Ask)
	write(api, "answer-to", "/api/jobs/{id}/opinions", "Answer a question about a job", r.Answer)
	get(api, "handover", "/api/handover", "What the next shift must know", func(ctx context.Context, _ *none) (record.HandoverView, error) { return r.Handover(ctx) })
	post(api, "shift-note", "/api/handover", "Leave a note for the next shift", func(ctx context.Context, in *body[record.NewShiftNote]) (desk.Receipt, error) {
		return r.SetNote(ctx, in.Body)
	})
	post(api, "calendar", "/api/shop/calendar", "Make a link by which calendars read what is due", func(ctx context.Context, in *body[desk.Write]) (record.FeedLink, error) {
		return r.NewFeed(ctx, in.Body)
	})
}

func bookTable(c *gin.Context, s *shop.Shop) {
	c.Header("Content-Disposition", `attachment; filename="book.csv"`)
	c.Header("Content-Type", "text/csv; charset=utf-8")
	out := bufio.NewWriterSize(c.Writer, 64<<10)
	in := record.BookAsked{Q: c.Query("q"), Hands: c.Query("hands"), Family: c.Query("family")}
	for _, o := range strings.Split(c.Query("only"), ",") {
		in.Only = append(in.Only, asked.Only(o))
	}
	if s.Record.BookCSV(c.Request.Context(), out, in) == nil {
		_ = out.Flush() // else who asked has gone
	}
}

// feed gives the calendar to whoever has its link. It stands before the door: a calendar has no PIN.
func feed(c *gin.Context, s *shop.Shop) {
	var b strings.Builder
	key, _ := strings.CutSuffix(c.Param("key"), ".ics")
	if err := s.Record.Feed(c.Request.Context(), key, &b); err != nil {
		refuse(c, err)
		return
	}
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(b.String()))
}

// sticker gives the label of a machine.
func sticker(c *gin.Context, s *shop.Shop) {
	m, err := s.Record.Machine(c.Request.Context(), c.Query("name"))
	if err != nil {
		refuse(c, err)
		return
	}
	head, err := s.Head(c.Request.Context())
	if err != nil {
		refuse(c, err)
		return
	}
	at := url.URL{Scheme: "http", Path: "/machines/" + m.Name}
	if c.Request.TLS != nil {
		at.Scheme = "https"
	}
	var reached bool
	at.Host, reached = reachedAt(c.Request)
	var b strings.Builder
	if err := (sheets.Sticker{Name: m.Name, Shop: head.Name, Address: at.String(), Reached: reached}).Print(&b); err != nil {
		refuse(c, err)
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(b.String()))
}

// reachedAt is where other devices reach this server, as far as it can tell: as it was asked just now, unless that was from
// this computer to itself; then by the network's address, where it listens there.
func reachedAt(r *http.Request) (host string, reached bool) {
	name, port, err := net.SplitHostPort(r.Host)
	if err != nil {
		name, port = r.Host, ""
	}
	if ip := net.ParseIP(name); !strings.EqualFold(name, "localhost") && (ip == nil || !ip.IsLoopback()) {
		return r.Host, true
	}
	at, _ := r.Context().Value(http.ServerContextKey).(*http.Server)
	if at == nil || loopbackOnly(at.Addr) {
		return r.Host, false
	}
	for _, ip := range addresses(nil) {
		if !ip.IsLoopback() && ip.To4() != nil {
			if port == "" {
				return ip.String(), true
			}
			return net.JoinHostPort(ip.String(), port), true
		}
	}
	return r.Host, false
}

// loopbackOnly tells whether an address to listen at is this computer's own.
func loopbackOnly(addr string) bool {
	name, _, err := net.SplitHostPort(addr)
	ip := net.ParseIP(name)
	return err == nil && (strings.EqualFold(name, "localhost") || ip != nil && ip.IsLoopback())
}
