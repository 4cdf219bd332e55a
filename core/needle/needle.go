// Package needle reads a needle gauge from pictures of its face. It is given the face unwrapped: rings of grey values
// around the pivot, cut out where the picture is. It finds the direction of the needle with a standard error of its own,
// says where it cannot, finds the face again after the camera was bumped, and turns a direction into a pressure.
package needle

import (
	"fmt"
	"math"
)

// Ring is the face between two radii, unwrapped: row by row from the inner radius out, each row evenly round, clockwise
// from straight up. Radii are shares of the radius at which the scale's marks stand.
type Ring struct {
	Columns      int
	Rows         int
	Inner, Outer float64
	Grey         []uint8 // Rows · Columns
}

// Sound refuses a ring that cannot be one.
func (r Ring) Sound() error {
	switch {
	case r.Columns < fewestColumns || r.Columns > mostColumns:
		return fmt.Errorf("a ring has %d to %d columns, not %d", fewestColumns, mostColumns, r.Columns)
	case r.Rows < fewestRows || r.Rows > mostRows:
		return fmt.Errorf("a ring has %d to %d rows, not %d", fewestRows, mostRows, r.Rows)
	case len(r.Grey) != r.Columns*r.Rows:
		return fmt.Errorf("%d grey values are not %d rows of %d", len(r.Grey), r.Rows, r.Columns)
	case !(r.Inner > 0) || !(r.Outer > r.Inner) || r.Outer > 2:
		return fmt.Errorf("a ring lies between two radii, not between %g and %g", r.Inner, r.Outer)
	}
	return nil
}

const (
	fewestColumns, mostColumns = 180, 2880
	fewestRows, mostRows       = 8, 64
)

// rho is the radius of a row's middle.
func (r Ring) rho(row int) float64 {
	return r.Inner + (r.Outer-r.Inner)*(float64(row)+0.5)/float64(r.Rows)
}

// Fault is why a picture gives no reading.
type Fault string

// The faults, in the order in which they are looked for.
const (
	NoFault Fault = ""
	Dark    Fault = "dark"   // too little light to tell the needle from its face
	Glare   Fault = "glare"  // a reflection lies over the needle or over much of the face
	Blurred Fault = "blur"   // out of focus, or it moved while the picture was taken
	NoLine  Fault = "needle" // nothing in it is a needle
	TwoHand Fault = "hands"  // another hand lies beside the needle or cannot be told from it
)

// Values lists every fault.
func (Fault) Values() []string {
	return []string{string(NoFault), string(Dark), string(Glare), string(Blurred), string(NoLine), string(TwoHand)}
}

// Sight is what one picture shows.
type Sight struct {
	Angle float64 // of the needle, degrees clockwise from straight up, 0 to 360
	SE    float64 // its standard error, degrees
	Width float64 // of the needle's line at the middle radius, degrees
	Fault Fault   // why it is no reading; empty: it is steady
}

// Steady tells whether it is a reading.
func (s Sight) Steady() bool { return s.Fault == NoFault }

// turn brings a difference of angles to -180 to 180 degrees.
func turn(d float64) float64 { return math.Remainder(d, 360) }

// whole brings an angle to 0 to 360 degrees.
func whole(a float64) float64 {
	if a = math.Mod(a, 360); a < 0 {
		a += 360
	}
	return a
}
