package main

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/simulate"
	"idlehiss/gauges"
	"idlehiss/library"
)

type gaugeCmd struct {
	ID     string            `arg:"" default:"cooling-header-tank" help:"The circuit that it sits on."`
	Listen string            `default:"127.0.0.1:5020" help:"Where it answers, over Modbus TCP."`
	Map    string            `default:"float-kpa" help:"Its register map: the id of one that ships, or a file."`
	Leak   map[string]string `help:"Where the circuit leaks and how much, such as radiator=3cm3/min." placeholder:"PART=FLOW"`
	At     pressureFlag      `default:"110kPa" help:"Pressure at which that leaks."`
	Air    *volumeFlag       `help:"Trapped air (the circuit's own)." placeholder:"VOLUME"`
	Stroke volumeFlag        `default:"30cm3" help:"Pump stroke."`
	Noise  pressureFlag      `default:"0.06kPa" help:"Noise, one standard deviation."`
	Top    pressureFlag      `default:"250kPa" help:"End of its scale."`
	Pump   bool              `help:"Pump up to --at by itself, a stroke a second."`
	Seed   uint64            `default:"1" help:"Of the noise."`
}

// What can be typed to a running stand-in, one a line.
const gaugeHelp = `  stroke [N]        pump, a stroke each half second     vent        let it down
  pull, plug        its plug out, and in again          freeze, thaw
  spike 60kPa       one wrong measurement               over, back  at its upper stop
  unit psi          show another unit                   quit
`

// standIn is a gauge that is served, with its circuit on a clock of its own.
type standIn struct {
	mu     sync.Mutex
	sim    *simulate.Sim
	reader simulate.Reader
	begun  time.Time
	n      int
	stroke float64
}

func (s *standIn) pressure() float64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.catchUp()
	s.n++
	return s.reader.Show(s.sim.GaugePa(0), s.n)
}

func (s *standIn) catchUp() { s.sim.Advance(time.Since(s.begun).Seconds() - s.sim.Now()) }

func (s *standIn) do(f func(*simulate.Sim)) float64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.catchUp()
	f(s.sim)
	return s.sim.GaugePa(0)
}

func (c *gaugeCmd) Run(o outside) error {
	m, err := gauges.FindMap(c.Map)
	if err != nil {
		return badInput("--map: %w", err)
	}
	x, err := library.Circuit(c.ID)
	if err != nil {
		return badInput("%w", err)
	}
	leaks, _, err := flows(c.Leak)
	if err != nil {
		return err
	}
	sys, err := simulate.FromCircuit(&x, leaks, physics.Laminar, c.At.Mid(), quantity.StandardAtmosphere)
	if err != nil {
		return badInput("--leak: %w", err)
	}
	if c.Air != nil {
		sys.Chambers[0].GasM3 = c.Air.Mid()
	}
	sim, err := simulate.New(sys)
	if err != nil {
		return badInput("%w", err)
	}
	s := &standIn{sim: sim, reader: simulate.Reader{NoisePa: c.Noise.Low, Seed: c.Seed}, begun: time.Now(), stroke: c.Stroke.Low}
	g, err := gauges.Serve(c.Listen, m, c.Top.Low, s.pressure)
	if err != nil {
		return fmt.Errorf("--listen: %w", err)
	}
	defer g.Close()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	fmt.Fprintf(o.out, "A simulated gauge on %q answers at %s, by the register map %q. Type what is done to it:\n%s", x.Title, g.Address(), m.ID, gaugeHelp)
	strokes := make(chan int, 1)
	if c.Pump {
		strokes <- int(c.At.Mid()/1e3) + 400 // until it is there
	}
	go s.pump(ctx, strokes, c.At.Mid())
	lines := make(chan string)
	go read(ctx, o.in, lines)
	for {
		select {
		case <-ctx.Done():
			return nil
		case line, open := <-lines:
			if !open {
				lines = nil // no more can be typed; it answers on
				continue
			}
			word, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
			if word == "quit" {
				return nil
			}
			if err := s.obey(g, strokes, word, strings.TrimSpace(rest)); err != nil {
				fmt.Fprintln(o.err, "idlehiss:", err)
			}
		}
	}
}

func read(ctx context.Context, in io.Reader, lines chan<- string) {
	defer close(lines)
	for scan := bufio.NewScanner(in); scan.Scan(); {
		select {
		case lines <- scan.Text():
		case <-ctx.Done():
			return
		}
	}
}

// pump gives strokes as they are asked for, no further than the pressure wanted.
func (s *standIn) pump(ctx context.Context, asked <-chan int, upTo float64) {
	tick := time.NewTicker(500 * time.Millisecond)
	defer tick.Stop()
	left := 0
	for {
		select {
		case <-ctx.Done():
			return
		case n := <-asked:
			left += n
		case <-tick.C:
			if left == 0 {
				continue
			}
			left--
			if s.do(func(sim *simulate.Sim) {
				sim.Vent(0, false)
				sim.Stroke(0, s.stroke)
			}) >= upTo {
				left = 0
			}
		}
	}
}

// obey does what was typed.
func (s *standIn) obey(g *gauges.Served, strokes chan<- int, word, rest string) error {
	switch word {
	case "":
	case "stroke":
		n := 1
		if rest != "" {
			var err error
			if n, err = strconv.Atoi(rest); err != nil || n < 1 || n > 400 {
				return fmt.Errorf("stroke %s: how many, 1 to 400", rest)
			}
		}
		strokes <- n
	case "vent":
		s.do(func(sim *simulate.Sim) { sim.Vent(0, true) })
	case "pull", "plug":
		return g.Pull(word == "pull")
	case "freeze", "thaw":
		g.Freeze(word == "freeze")
	case "over", "back":
		g.OverRange(word == "over")
	case "spike":
		v, err := quantity.Parse(rest, quantity.Pressure, quantity.MustNamed("kPa", quantity.Pressure), quantity.StandardAtmosphere)
		if err != nil {
			return fmt.Errorf("spike: %w", err)
		}
		g.Spike(v.Mid())
	case "unit":
		return g.Show(rest)
	default:
		return fmt.Errorf("%q is nothing that can be done to it:\n%s", word, strings.TrimRight(gaugeHelp, "\n"))
	}
	return nil
}
