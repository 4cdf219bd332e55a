package gauges

import (
	"fmt"
	"math"
	"net"
	"sync"

	"github.com/simonvetter/modbus"

	"idlehiss/core/quantity"
)

// Served is a stand-in gauge that answers over Modbus TCP by a register map. What
// can go wrong with a gauge can be done to it.
type Served struct {
	m        RegisterMap
	pressure func() float64 // Pa gauge, now, as the gauge shows it
	topPa    float64

	mu      sync.Mutex
	address string
	server  *modbus.ModbusServer
	count   uint64
	shown   float64 // Pa, of the last measurement
	frozen  bool
	over    bool
	spike   float64 // Pa, added to the next measurement
	unit    quantity.Unit
}

// Serve begins to answer at an address; port 0 chooses one. topPa is the end of
// the gauge's scale.
func Serve(address string, m RegisterMap, topPa float64, pressure func() float64) (*Served, error) {
	if f := m.Faults(); len(f) > 0 {
		return nil, fmt.Errorf("the register map: %s", f[0])
	}
	if _, port, err := net.SplitHostPort(address); err == nil && port == "0" {
		l, err := net.Listen("tcp", address)
		if err != nil {
			return nil, err
		}
		address = l.Addr().String()
		if err := l.Close(); err != nil {
			return nil, err
		}
	}
	unit := m.Unit
	for code, lowest := uint64(0), false; unit == "" && !lowest; code++ {
		unit, lowest = m.Units[code]
	}
	g := &Served{m: m, pressure: pressure, topPa: topPa, address: address, unit: quantity.MustNamed(unit, quantity.Pressure)}
	return g, g.Pull(false)
}

// Address is where it answers.
func (g *Served) Address() string { return g.address }

// Close ends it.
func (g *Served) Close() error { return g.Pull(true) }

// Pull takes its plug out, or puts it back.
func (g *Served) Pull(out bool) error {
	g.mu.Lock()
	server := g.server
	g.server = nil
	g.mu.Unlock()
	if server != nil {
		if err := server.Stop(); err != nil || out {
			return err
		}
	}
	if out {
		return nil
	}
	server, err := modbus.NewServer(&modbus.ServerConfiguration{URL: "tcp://" + g.address, MaxClients: 8, Logger: silent}, g)
	if err != nil {
		return err
	}
	if err := server.Start(); err != nil {
		return err
	}
	g.mu.Lock()
	g.server = server
	g.mu.Unlock()
	return nil
}

// Freeze stops its measuring; it goes on answering with the last.
func (g *Served) Freeze(on bool) { g.set(func() { g.frozen = on }) }

// OverRange puts it at its upper stop.
func (g *Served) OverRange(on bool) { g.set(func() { g.over = on }) }

// Spike adds to its next measurement, Pa.
func (g *Served) Spike(pa float64) { g.set(func() { g.spike = pa }) }

// Show makes it speak another unit. Where it has a register for that it says so.
func (g *Served) Show(unit string) error {
	u, err := quantity.Named(unit, quantity.Pressure)
	if err != nil {
		return err
	}
	g.set(func() { g.unit = u })
	return nil
}

func (g *Served) set(f func()) {
	g.mu.Lock()
	defer g.mu.Unlock()
	f()
}

// answer measures, unless it is frozen, and gives the registers asked for.
func (g *Served) answer(from, count uint16) ([]uint16, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if !g.frozen {
		g.shown = g.pressure() + g.spike
		g.spike = 0
		g.count++
	}
	pa := g.shown
	if g.over {
		pa = g.topPa
	}
	first, all := g.m.block()
	if from < first || int(from)+int(count) > int(first)+all {
		return nil, modbus.ErrIllegalDataAddress
	}
	block := make([]byte, all*2)
	g.m.Pressure.put(block, first, math.Round(g.unit.Of(pa)*1e4)/1e4)
	if g.m.UnitCode != nil {
		for code, name := range g.m.Units {
			if u, err := quantity.Named(name, quantity.Pressure); err == nil && u.Symbol == g.unit.Symbol {
				g.m.UnitCode.put(block, first, float64(code))
			}
		}
	}
	if g.m.Count != nil {
		g.m.Count.put(block, first, float64(g.count%(1<<15)))
	}
	if g.m.Temperature != nil {
		g.m.Temperature.put(block, first, 20)
	}
	out := make([]uint16, count)
	for i := range out {
		at := (int(from-first) + i) * 2
		out[i] = uint16(block[at])<<8 | uint16(block[at+1])
	}
	return out, nil
}

// HandleInputRegisters answers a request for input registers.
func (g *Served) HandleInputRegisters(r *modbus.InputRegistersRequest) ([]uint16, error) {
	if g.m.Table != "input" {
		return nil, modbus.ErrIllegalFunction
	}
	return g.answer(r.Addr, r.Quantity)
}

// HandleHoldingRegisters answers a request for holding registers; it takes none.
func (g *Served) HandleHoldingRegisters(r *modbus.HoldingRegistersRequest) ([]uint16, error) {
	if g.m.Table != "holding" || r.IsWrite {
		return nil, modbus.ErrIllegalFunction
	}
	return g.answer(r.Addr, r.Quantity)
}

// HandleCoils refuses: it has none.
func (g *Served) HandleCoils(*modbus.CoilsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}

// HandleDiscreteInputs refuses: it has none.
func (g *Served) HandleDiscreteInputs(*modbus.DiscreteInputsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}
