package gauges

import (
	"context"
	"fmt"
	"io"
	"log"
	"net"
	"time"

	"github.com/simonvetter/modbus"

	"idlehiss/core/quantity"
)

// Wire is where a gauge is to be asked, over Modbus TCP. The address is given by
// a person; nothing is looked for on a network.
type Wire struct {
	Address string      `json:"address" doc:"host and port, such as 192.168.1.40:502"`
	Map     RegisterMap `json:"map"`
}

// Faults says what is wrong with it.
func (w Wire) Faults() error {
	if _, port, err := net.SplitHostPort(w.Address); err != nil || port == "" {
		return fmt.Errorf("%q is no address of a gauge: host and port, such as 192.168.1.40:502", w.Address)
	}
	if f := w.Map.Faults(); len(f) > 0 {
		return fmt.Errorf("%s", f[0])
	}
	return nil
}

// Said is one answer of a gauge that speaks by itself.
type Said struct {
	At      time.Time
	Value   float64 // in Unit
	Unit    string
	Count   uint64 // of its measurements, where it counts them
	Celsius *float64
}

// How long a gauge may take to answer, and how long it is left alone after it
// did not: it comes back by itself within a second of being there again.
const (
	answersIn = 2 * time.Second
	leftAlone = 300 * time.Millisecond
)

// Run asks the gauge until ctx ends. Every answer goes to said and every failure
// to lost, in order, from this goroutine; now is the server's clock.
func (w Wire) Run(ctx context.Context, allowed Allowed, now func() time.Time, said func(Said), lost func(error)) {
	every := time.NewTicker(time.Duration(float64(w.Map.Every) * float64(time.Second)))
	defer every.Stop()
	for ctx.Err() == nil {
		if err := w.ask(ctx, allowed, every.C, now, said); ctx.Err() == nil {
			lost(err)
			select {
			case <-ctx.Done():
			case <-time.After(leftAlone):
			}
		}
	}
}

// ask holds one connection and reads it at every tick, until it fails.
func (w Wire) ask(ctx context.Context, allowed Allowed, tick <-chan time.Time, now func() time.Time, said func(Said)) error {
	place, err := allowed.Place(ctx, w.Address)
	if err != nil {
		return err
	}
	c, err := modbus.NewClient(&modbus.ClientConfiguration{URL: "tcp://" + place, Timeout: answersIn, Logger: silent})
	if err != nil {
		return err
	}
	if err := c.Open(); err != nil {
		return err
	}
	defer c.Close()
	if w.Map.Device > 0 {
		if err := c.SetUnitId(w.Map.Device); err != nil {
			return err
		}
	}
	table := modbus.INPUT_REGISTER
	if w.Map.Table == "holding" {
		table = modbus.HOLDING_REGISTER
	}
	from, count := w.Map.block()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-tick:
		}
		block, err := c.ReadRawBytes(from, uint16(count)*2, table)
		if err != nil {
			return err
		}
		s, err := w.Map.read(block, from)
		if err != nil {
			return err
		}
		s.At = now()
		said(s)
	}
}

var silent = log.New(io.Discard, "", 0)

// read takes what the gauge tells out of its registers.
func (m RegisterMap) read(block []byte, from uint16) (Said, error) {
	s := Said{Value: m.Pressure.value(block, from), Unit: m.Unit}
	if m.UnitCode != nil {
		code := m.UnitCode.value(block, from)
		u, ok := m.Units[uint64(code)]
		if !ok {
			return s, fmt.Errorf("the gauge says that it shows unit %v, which its register map does not know", code)
		}
		s.Unit = u
	}
	if u, err := quantity.Named(s.Unit, quantity.Pressure); err != nil || !quantity.PossiblePa(u.SI(s.Value)) {
		return s, fmt.Errorf("the gauge gives no pressure (%g %s)", s.Value, s.Unit)
	}
	if m.Count != nil {
		s.Count = uint64(m.Count.value(block, from))
	}
	if m.Temperature != nil {
		t := m.Temperature.value(block, from)
		s.Celsius = &t
	}
	return s, nil
}
