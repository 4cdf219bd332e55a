package gauges

import (
	"encoding/binary"
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// RegisterMap says where a Modbus gauge keeps what it tells. It is written in a
// file that ships with the program or lies beside the shop's data.
type RegisterMap struct {
	ID          string            `yaml:"id" json:"id"`
	Title       string            `yaml:"title" json:"title"`
	Device      uint8             `yaml:"device" json:"device"` // the protocol's unit identifier
	Table       string            `yaml:"table" json:"table" enum:"input,holding"`
	Every       quantity.S        `yaml:"every" json:"every" doc:"how often it is asked, such as 0.1 s"`
	Pressure    Register          `yaml:"pressure" json:"pressure"`
	Unit        string            `yaml:"unit" json:"unit"`                         // of the pressure, where it is always the same
	UnitCode    *Register         `yaml:"unit_code" json:"unit_code,omitempty"`     // else where it says which it shows,
	Units       map[uint64]string `yaml:"units" json:"units,omitempty"`             // and what its figures mean
	Count       *Register         `yaml:"count" json:"count,omitempty"`             // goes on with every measurement
	Temperature *Register         `yaml:"temperature" json:"temperature,omitempty"` // °C
}

// Register is one figure: an address as sent on the wire, from 0.
type Register struct {
	Address uint16  `yaml:"address" json:"address"`
	Type    string  `yaml:"type" json:"type" enum:"int16,uint16,int32,uint32,float32"`
	Order   string  `yaml:"order" json:"order,omitempty" doc:"of the bytes: ABCD high first, CDAB low word first, BADC, DCBA; AB or BA for 16 bits"`
	Scale   float64 `yaml:"scale" json:"scale,omitempty" doc:"the figure in the register times this; 1 when absent"`
}

// Faults says what is wrong with a map as written.
func (m RegisterMap) Faults() []string {
	var out []string
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	if m.ID == "" || m.Title == "" {
		say("id, title: a register map needs both, such as 'plain-float' and 'Transmitter, kPa as a float'")
	}
	if m.Table != "input" && m.Table != "holding" {
		say("table: the registers are input or holding ones, not %q", m.Table)
	}
	if m.Every < 0.02 || m.Every > 60 {
		say("every: a gauge is asked every 0.02 s to 60 s, not every %v s", float64(m.Every))
	}
	if _, err := quantity.Named(m.Unit, quantity.Pressure); m.Unit != "" && err != nil {
		say("unit: %v", err)
	}
	switch {
	case m.UnitCode == nil && m.Unit == "":
		say("unit: say in which unit the pressure comes, or where the gauge tells it (unit_code with units)")
	case m.UnitCode != nil && len(m.Units) == 0:
		say("units: say what the figures at unit_code mean, such as {0: kPa, 1: psi}")
	}
	for code, u := range m.Units {
		if _, err := quantity.Named(u, quantity.Pressure); err != nil {
			say("units: %d: %v", code, err)
		}
	}
	for _, r := range m.registers() {
		if size, ok := sizes[r.r.Type]; !ok {
			say("%s: type: one of int16, uint16, int32, uint32, float32, not %q", r.name, r.r.Type)
		} else if o := r.r.order(); len(o) != size || !orders[o] {
			say("%s: order: %d bytes come as %s, not %q", r.name, size, map[int]string{2: "AB or BA", 4: "ABCD, CDAB, BADC or DCBA"}[size], r.r.Order)
		}
		if math.IsNaN(r.r.Scale) || math.IsInf(r.r.Scale, 0) {
			say("%s: scale: a figure such as 0.1", r.name)
		}
	}
	if from, n := m.block(); len(out) == 0 && n > blockMost {
		say("pressure: the registers lie %d apart from %d on; at most %d are read at once", n, from, blockMost)
	}
	return out
}

// blockMost is what the protocol reads in one request.
const blockMost = 125

var (
	sizes  = map[string]int{"int16": 2, "uint16": 2, "int32": 4, "uint32": 4, "float32": 4}
	orders = map[string]bool{"AB": true, "BA": true, "ABCD": true, "CDAB": true, "BADC": true, "DCBA": true}
)

type namedRegister struct {
	name string
	r    *Register
}

func (m *RegisterMap) registers() []namedRegister {
	all := []namedRegister{{"pressure", &m.Pressure}}
	for _, o := range []namedRegister{{"unit_code", m.UnitCode}, {"count", m.Count}, {"temperature", m.Temperature}} {
		if o.r != nil {
			all = append(all, o)
		}
	}
	return all
}

// block is the stretch of registers that holds all of them, so that one request
// reads what belongs together.
func (m RegisterMap) block() (from uint16, count int) {
	low, high := math.MaxInt, 0
	for _, r := range m.registers() {
		low = min(low, int(r.r.Address))
		high = max(high, int(r.r.Address)+sizes[r.r.Type]/2)
	}
	return uint16(low), high - low
}

func (r Register) order() string {
	if r.Order != "" {
		return r.Order
	}
	return map[int]string{2: "AB", 4: "ABCD"}[sizes[r.Type]]
}

func (r Register) scale() float64 {
	if r.Scale == 0 {
		return 1
	}
	return r.Scale
}

// value takes the figure out of a block of bytes that begins at a register.
func (r Register) value(block []byte, from uint16) float64 {
	var raw [4]byte
	at := int(r.Address-from) * 2
	for i, place := range r.order() {
		raw[place-'A'] = block[at+i]
	}
	short, long := binary.BigEndian.Uint16(raw[:2]), binary.BigEndian.Uint32(raw[:])
	v := 0.0
	switch r.Type {
	case "int16":
		v = float64(int16(short))
	case "uint16":
		v = float64(short)
	case "int32":
		v = float64(int32(long))
	case "uint32":
		v = float64(long)
	case "float32":
		v = float64(math.Float32frombits(long))
	}
	return v * r.scale()
}

// put writes a figure into a block as value reads it; whole numbers saturate.
func (r Register) put(block []byte, from uint16, v float64) {
	v /= r.scale()
	whole := func(low, high float64) float64 { return math.Max(low, math.Min(high, math.Round(v))) }
	var raw [4]byte
	switch r.Type {
	case "int16":
		binary.BigEndian.PutUint16(raw[:], uint16(int16(whole(math.MinInt16, math.MaxInt16))))
	case "uint16":
		binary.BigEndian.PutUint16(raw[:], uint16(whole(0, math.MaxUint16)))
	case "int32":
		binary.BigEndian.PutUint32(raw[:], uint32(int32(whole(math.MinInt32, math.MaxInt32))))
	case "uint32":
		binary.BigEndian.PutUint32(raw[:], uint32(whole(0, math.MaxUint32)))
	case "float32":
		binary.BigEndian.PutUint32(raw[:], math.Float32bits(float32(v)))
	}
	at := int(r.Address-from) * 2
	for i, place := range r.order() {
		block[at+i] = raw[place-'A']
	}
}
