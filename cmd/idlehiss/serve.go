package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"

	"idlehiss/backups"
	"idlehiss/core/terms"
	"idlehiss/demo"
	"idlehiss/desk"
	"idlehiss/door"
	"idlehiss/gauges"
	"idlehiss/logbook"
	"idlehiss/shop"
	"idlehiss/ui"
	"idlehiss/web"
)

type serveCmd struct {
	Addr    string       `default:"127.0.0.1:8340" help:"Where to listen."`
	Data    string       `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Ambient pressureFlag `default:"101.325kPa" help:"Air pressure at the shop, absolute."`
	Speed   float64      `default:"1" help:"How fast the clock runs, for practice (1 to 7200: two hours a second, for reminders)."`
	Backups string       `help:"Folder of the backups that are made every night; on another disk is best. Without it, 'backups' in the logbook's folder." placeholder:"DIR"`
	Keep    int          `default:"14" help:"How many of them stay (0 to 1000; 0: none are made)."`

	GaugeAt []string `name:"gauge-at" help:"A host, a :port or both at which gauges may be asked, beside port 502 of other computers." placeholder:"HOST:PORT"`

	TLS      string   `name:"tls" enum:"off,self" default:"off" help:"self: over TLS, with a certificate that is made once and kept in the logbook's folder."`
	TLSCert  string   `name:"tls-cert" help:"Over TLS, with this certificate (PEM)." placeholder:"FILE"`
	TLSKey   string   `name:"tls-key" help:"And its key." placeholder:"FILE"`
	LocalPin bool     `name:"local-pin" help:"Ask this computer for a PIN too: for one that several people have accounts on."`
	Behind   []string `name:"behind-proxy" help:"Take a proxy's word on where requests come from: its address or network." placeholder:"CIDR"`
}

type demoCmd struct {
	Addr  string  `default:"127.0.0.1:8340" help:"Where to listen."`
	Data  string  `default:"data/demo" help:"Folder of the demo shop." placeholder:"DIR"`
	Fresh bool    `help:"Make a new demo shop."`
	Speed float64 `default:"1" help:"How fast the clock runs (1 to 7200)."`
}

func (c *serveCmd) Run(o outside) error {
	if c.Keep < 0 || c.Keep > 1000 {
		return badInput("--keep %d: 0 to 1000 backups stay", c.Keep)
	}
	w := serving{addr: c.Addr, data: c.Data, speed: c.Speed, ambientPa: c.Ambient.Low, backups: shop.Backups{Folder: c.Backups, Keep: c.Keep}, web: web.Options{LocalPin: c.LocalPin}}
	w.gaugesAt = c.GaugeAt
	if err := w.gaugesAt.Check(); err != nil {
		return badInput("--gauge-at %w", err)
	}
	for _, text := range c.Behind {
		p, err := netip.ParsePrefix(text)
		if ip, bad := netip.ParseAddr(text); bad == nil {
			p, err = netip.PrefixFrom(ip, ip.BitLen()), nil
		}
		if err != nil {
			return badInput("--behind-proxy %s: an address or a network, such as 192.168.1.5 or 10.0.0.0/24", text)
		}
		w.web.Proxies = append(w.web.Proxies, p)
	}
	switch {
	case (c.TLSCert == "") != (c.TLSKey == ""):
		return badInput("--tls-cert and --tls-key go together")
	case c.TLSCert != "" && c.TLS == "self":
		return badInput("--tls self makes a certificate of its own: leave --tls-cert and --tls-key out")
	case c.TLSCert != "":
		w.certificate = func(net.Addr) (tls.Certificate, error) { return tls.LoadX509KeyPair(c.TLSCert, c.TLSKey) }
	case c.TLS == "self":
		w.certificate = func(at net.Addr) (tls.Certificate, error) { return web.OwnCertificate(c.Data, at, writeAside) }
	}
	return serve(o, w)
}

func (c *demoCmd) Run(o outside) error {
	ambient, err := demo.AmbientPa()
	if err != nil {
		return err
	}
	// A story that was cut short is told again.
	if mark, err := os.ReadFile(filepath.Join(c.Data, "demo")); c.Fresh || err == nil && string(mark) != storyTold {
		if err := clear(c.Data); err != nil {
			return err
		}
	}
	return serve(o, serving{addr: c.Addr, data: c.Data, speed: c.Speed, ambientPa: ambient, demo: true, backups: shop.Backups{Keep: demoKeeps}})
}

// clear empties a demo folder; one that is open or holds anything else is left.
func clear(folder string) error {
	entries, err := os.ReadDir(folder)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, e := range entries {
		if ok, _ := filepath.Match("idlehiss.db*", e.Name()); !ok && e.Name() != "lock" && e.Name() != "demo" && e.Name() != backups.Folder {
			return badInput("%s holds %s, which is not of the demo shop: choose another folder with --data", folder, e.Name())
		}
	}
	if _, err := os.Stat(filepath.Join(folder, "demo")); len(entries) > 0 && err != nil {
		return badInput("%s is not a demo shop: choose another folder with --data", folder)
	}
	b, err := logbook.Open(context.Background(), folder)
	if err != nil {
		return err
	}
	if err := b.Close(); err != nil {
		return err
	}
	return os.RemoveAll(folder)
}

// demoKeeps is how many backups of a demo shop stay.
const demoKeeps = 3

// mostSpeed is two hours a second: reminders over days can be tried at it, gauges cannot.
const mostSpeed = 7200

// memory is what the server keeps its own data to, bytes; beside it stand the program and the pages of the book.
const memory = 100 << 20

// serving is how a shop is served.
type serving struct {
	addr, data       string
	speed, ambientPa float64
	demo             bool
	backups          shop.Backups
	web              web.Options
	gaugesAt         gauges.Allowed
	certificate      func(net.Addr) (tls.Certificate, error) // nil: without TLS
}

func serve(o outside, w serving) error {
	addr, data, speed := w.addr, w.data, w.speed
	if speed < 1 || speed > mostSpeed {
		return badInput("--speed %v: the clock runs 1 to %d times as fast as the wall", speed, mostSpeed)
	}
	debug.SetMemoryLimit(memory)
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("--addr: %w", err)
	}
	defer l.Close()
	book, err := logbook.Open(ctx, data)
	if err != nil {
		return keeping(err)
	}
	defer book.Close()
	if err := mayListen(ctx, book, l.Addr(), data); err != nil {
		return err
	}
	clock, err := shop.NewClock(ctx, book, speed)
	if err != nil {
		return err
	}
	if w.demo {
		if err := fill(ctx, book, data, clock); err != nil {
			return err
		}
	}
	s, err := shop.New(ctx, book, clock, shop.Options{AmbientPa: w.ambientPa, Demo: w.demo, Backups: w.backups, GaugesAt: w.gaugesAt})
	if err != nil {
		return err
	}
	defer s.Close()
	page, err := ui.Files()
	if err != nil {
		return err
	}
	at := "http"
	l = web.NewCrowd(l)
	if w.certificate != nil {
		c, err := w.certificate(l.Addr())
		if err != nil {
			return fmt.Errorf("TLS: %w", err)
		}
		at, w.web.Secure, w.web.Certificate = "https", true, c.Certificate[0]
		l = web.OverTLS(ctx, l, c)
	}
	handler, _ := web.New(s, page, w.web)
	server := &http.Server{Addr: l.Addr().String(), Handler: handler, ReadHeaderTimeout: web.HeadersIn, IdleTimeout: idleFor, MaxHeaderBytes: web.MostHeaders,
		ConnContext: web.Context, BaseContext: func(net.Listener) context.Context { return ctx }}
	fmt.Fprintf(o.out, "Idle Hiss is at %s://%s\n", at, l.Addr())
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	return server.Shutdown(end)
}

// idleFor is how long a client may stay without asking anything.
const idleFor = 2 * time.Minute

// mayListen refuses to serve other devices while no PIN guards the door.
func mayListen(ctx context.Context, book *logbook.Book, at net.Addr, data string) error {
	if a, ok := at.(*net.TCPAddr); ok && a.IP.IsLoopback() {
		return nil
	}
	pins, err := door.Pins(ctx, book)
	if err == nil && !pins[terms.Owner] && !pins[terms.Hand] {
		err = badInput("--addr %s lets other devices in, and this shop has no PIN: set one with 'idlehiss pin --data %s', or listen at 127.0.0.1 only", at, data)
	}
	return err
}

// What the mark file of a demo folder says.
const (
	storyBegun = "being made by idlehiss demo\n"
	storyTold  = "made by idlehiss demo\n"
)

// fill plays the demo story into a folder that has none yet.
func fill(ctx context.Context, book *logbook.Book, folder string, clock desk.Clock) error {
	mark := filepath.Join(folder, "demo")
	if _, err := os.Stat(mark); err == nil {
		return nil
	}
	if jobs, err := book.Search(ctx, logbook.Wanted{}, logbook.Newest, 1); err != nil || len(jobs) > 0 {
		if err == nil {
			err = badInput("%s already holds jobs and is not a demo shop: choose another folder with --data, or --fresh", folder)
		}
		return err
	}
	if err := os.WriteFile(mark, []byte(storyBegun), 0o644); err != nil {
		return err
	}
	if err := demo.Fill(ctx, book, clock); err != nil {
		return fmt.Errorf("the demo shop could not be made: %w", err)
	}
	return writeAside(mark, []byte(storyTold))
}
