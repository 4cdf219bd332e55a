// Package eye reads the needle gauge of a hold from pictures of its face. A page cuts the face out of its camera's picture
// and sends the rings of grey values alone; where the needle stands for certain it becomes a reading of the hold. It keeps
// nothing between two pictures but what the demo's drawn needles do.
package eye

import (
	"context"
	"errors"
	"math"
	"slices"

	"idlehiss/core/needle"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
)

// Room is the eye of a shop.
type Room struct {
	holds *holds.Room
	drawn drawings
}

// New opens the room.
func New(h *holds.Room) *Room {
	return &Room{holds: h, drawn: drawings{of: map[string]*drawn{}}}
}

// Unwrapped is the face between two radii, unwrapped.
type Unwrapped struct {
	Columns int     `json:"columns" minimum:"1" maximum:"2880" doc:"evenly round, clockwise from straight up"`
	Rows    int     `json:"rows" minimum:"1" maximum:"64" doc:"from the inner radius out"`
	Inner   float64 `json:"inner" minimum:"0" maximum:"2" doc:"share of the radius of the zero mark"`
	Outer   float64 `json:"outer" minimum:"0" maximum:"2"`
	Grey    []byte  `json:"grey" doc:"row by row, one byte each, in base64"`
}

func (r Unwrapped) ring() needle.Ring {
	return needle.Ring{Columns: r.Columns, Rows: r.Rows, Inner: r.Inner, Outer: r.Outer, Grey: r.Grey}
}

// ScaleMark is a printed mark that was tapped.
type ScaleMark struct {
	Angle  float64 `json:"angle" minimum:"0" maximum:"360" doc:"degrees clockwise from straight up"`
	Value  float64 `json:"value" doc:"what it says, in the gauge's unit"`
	Radius float64 `json:"radius" minimum:"0" maximum:"10" doc:"from the pivot, share of the zero mark's"`
}

// FacePicture is what a page sends of one.
type FacePicture struct {
	desk.Write
	Face  Unwrapped   `json:"face" doc:"inside the marks"`
	Marks Unwrapped   `json:"marks" doc:"the band about the marks"`
	Shown *Unwrapped  `json:"shown,omitempty" doc:"that band as it was at set-up; absent: this is the set-up"`
	Scale []ScaleMark `json:"scale" minItems:"2" maxItems:"12"`
	Near  *float64    `json:"near,omitempty" minimum:"0" maximum:"360" doc:"where the needle was, degrees; absent: not known"`
	Leapt bool        `json:"leapt,omitempty" doc:"the picture before showed a leap"`
	Keep  bool        `json:"keep" doc:"take it down as a reading"`
}

// FaceSeen is what a picture shows.
type FaceSeen struct {
	Angle  float64      `json:"angle"` // of the needle, degrees clockwise from straight up
	Value  *float64     `json:"value"` // in the gauge's unit; null: no reading
	Shown  string       `json:"shown"` // the same with its unit
	Within string       `json:"within"`
	Trust  Trust        `json:"trust" enum:"steady,fair,none"`
	Fault  Fault        `json:"fault" enum:",dark,glare,blur,needle,hands,moved,lost,leapt,off"`
	Says   string       `json:"says"`
	Aslant string       `json:"aslant"` // the camera does not look square on the face; empty: it does
	Shift  needle.Shift `json:"shift"`
	Kept   bool         `json:"kept"`
}

// Trust is how steady what is seen is.
type Trust string

// Values lists them.
func (Trust) Values() []string { return []string{string(Steady), string(Fair), string(None)} }

// How steady: to a hundredth of a division or so, or worse, or not.
const (
	Steady Trust = "steady"
	Fair   Trust = "fair"
	None   Trust = "none"
)

const (
	leap       = 8.0  // degrees between two pictures that want a third
	hundredths = 50.0 // of a division: what is kept is that fine
	fair       = 0.05 // division of standard error from which a sight is only fair
	mostAslant = 0.12 // by which the marks' radii may differ
)

// Look reads a picture for a hold, and takes the reading down where that is asked and the needle is sure.
func (r *Room) Look(ctx context.Context, holdID string, in FacePicture) (FaceSeen, error) {
	face, marks := in.Face.ring(), in.Marks.ring()
	if err := desk.AtField("face", face.Sound()); err != nil {
		return FaceSeen{}, err
	}
	if err := desk.AtField("marks", marks.Sound()); err != nil {
		return FaceSeen{}, err
	}
	hold, err := r.hold(holdID)
	if err != nil {
		return FaceSeen{}, err
	}
	ring, u := hold.Gauge.Ring()
	scale, err := scaleOf(in.Scale, u)
	if err != nil {
		return FaceSeen{}, desk.Refuse("scale", "%v", err)
	}
	out := FaceSeen{Trust: None, Aslant: aslant(in.Scale), Shift: needle.Shift{Like: 1}}
	if in.Shown != nil {
		shown := in.Shown.ring()
		if err := desk.AtField("shown", shown.Sound()); err != nil {
			return FaceSeen{}, err
		}
		switch out.Shift = needle.Register(shown, marks); {
		case !out.Shift.Same():
			return out.fault(Lost), nil
		case out.Shift.Moved():
			return out.fault(Moved), nil
		}
	}
	s := needle.Look(face, needle.Known{Near: in.Near})
	out.Angle = math.Mod(s.Angle-out.Shift.Turn+360, 360)
	if !s.Steady() {
		return out.fault(Fault(s.Fault)), nil
	}
	pa, perDegree := scale.Read(out.Angle)
	division := u.SI(ring.Division)
	out.Value = new(u.Of(math.Round(pa/division*hundredths) * division / hundredths))
	out.Shown = u.Show(pa, division/10)
	off := math.Abs(perDegree) * s.SE
	out.Within = u.Show(max(off, division/hundredths), division/hundredths)
	if out.Trust = Steady; off > fair*division {
		out.Trust = Fair
	}
	if !ring.Shows(*out.Value) {
		return out.fault(Off), nil
	}
	if in.Near != nil && !in.Leapt && math.Abs(math.Remainder(out.Angle-*in.Near, 360)) > leap {
		return out.fault(Leapt), nil
	}
	if in.Keep {
		_, err = r.holds.Reading(ctx, holdID, holds.TypedReading{Write: in.Write, Value: out.Value, How: trace.Camera})
		out.Kept = err == nil
	}
	return out, err
}

// hold is a running hold on a needle gauge.
func (r *Room) hold(id string) (holds.HoldView, error) {
	all := r.holds.RunningSummaries()
	i := slices.IndexFunc(all, func(h holds.HoldView) bool { return h.ID == id })
	if i < 0 {
		return holds.HoldView{}, desk.Conflicts("this hold has ended, or there is none. Begin a hold, then read it by camera")
	}
	if all[i].ByItself {
		return holds.HoldView{}, desk.Conflicts("the gauge of this hold sends its own readings: only a needle is read by camera")
	}
	return all[i], nil
}

func scaleOf(marks []ScaleMark, u quantity.Unit) (needle.Scale, error) {
	var s needle.Scale
	for _, m := range marks {
		pa := u.SI(m.Value)
		if !quantity.PossiblePa(pa) {
			return nil, errors.New("type the pressure that is printed at each mark")
		}
		s = append(s, needle.Mark{Angle: m.Angle, Pa: pa})
	}
	return s.Sound()
}

// aslant tells a camera that looks at the face from the side: its marks lie on no circle about the pivot.
func aslant(marks []ScaleMark) string {
	for _, m := range marks {
		if math.Abs(m.Radius-1) > mostAslant {
			return "The camera looks at the face from the side, or the middle was tapped beside its place: falls are right, the level may be off."
		}
	}
	return ""
}

func (s FaceSeen) fault(f Fault) FaceSeen {
	s.Value, s.Trust, s.Fault, s.Says = nil, None, f, f.Says()
	return s
}

// Fault is why a picture gives no reading.
type Fault string

// The faults of core/needle, and those of a picture among others.
const (
	Moved Fault = "moved" // the picture shifted; where to is known
	Lost  Fault = "lost"  // the face is not where it was
	Leapt Fault = "leapt" // the needle is far from where it was a moment ago
	Off   Fault = "off"   // it points where the scale has nothing
)

// Values lists them.
func (Fault) Values() []string {
	return append(needle.NoFault.Values(), string(Moved), string(Lost), string(Leapt), string(Off))
}

// Says is what to do about it.
func (f Fault) Says() string {
	return map[Fault]string{
		Fault(needle.Dark):    "Too dark to see the needle. Turn a lamp on the gauge.",
		Fault(needle.Glare):   "A reflection lies on the face. Turn the lamp or the gauge a little.",
		Fault(needle.Blurred): "The picture is not sharp. Prop the camera up so that it cannot shake, a hand's width farther away.",
		Fault(needle.NoLine):  "No needle is seen. Set the middle of the face again.",
		Fault(needle.TwoHand): "A second hand lies at the needle. Turn the maximum hand back to zero.",
		Moved:                 "The picture has shifted. The face is looked for.",
		Lost:                  "The face is not where it was. Put the camera back, or set the three points again. No reading is taken meanwhile.",
		Leapt:                 "The needle leapt. The next picture shows whether that is so.",
		Off:                   "The needle stands off the scale. Set the marks again if it does not.",
	}[f]
}

// FaceSearch is a face that is looked for: its marks as they were, and bands cut about places where it may be now.
type FaceSearch struct {
	desk.Write
	Shown Unwrapped   `json:"shown"`
	Tries []Unwrapped `json:"tries" minItems:"1" maxItems:"121"`
}

// FaceFound is which of them it is.
type FaceFound struct {
	Same  bool         `json:"same"` // it is there
	Best  int          `json:"best"` // the try nearest to it
	Shift needle.Shift `json:"shift"`
}

// Find looks for a face.
func (r *Room) Find(_ context.Context, in FaceSearch) (FaceFound, error) {
	shown := in.Shown.ring()
	if err := desk.AtField("shown", shown.Sound()); err != nil {
		return FaceFound{}, err
	}
	var out FaceFound
	for i, t := range in.Tries {
		try := t.ring()
		if err := desk.AtField("tries", try.Sound()); err != nil {
			return FaceFound{}, err
		}
		if s := needle.Register(shown, try); i == 0 || s.Like > out.Shift.Like {
			out.Best, out.Shift = i, s
		}
	}
	out.Same = out.Shift.Same()
	return out, nil
}

// NeedleView is where a drawn needle stands: the demo's gauge that a page draws in place of a camera's picture.
type NeedleView struct {
	There bool    `json:"there"` // this hold has one
	Value float64 `json:"value"` // in the gauge's unit
}

// Needle is where the drawn needle of a hold stands now.
func (r *Room) Needle(_ context.Context, holdID string) (NeedleView, error) {
	stand, nowS, err := r.holds.Needle(holdID)
	if err != nil || stand == nil {
		return NeedleView{}, err
	}
	hold, err := r.hold(holdID)
	if err != nil {
		r.drawn.forget(holdID) // it has ended
		return NeedleView{}, err
	}
	ring, u := hold.Gauge.Ring()
	return NeedleView{true, u.Of(r.drawn.stands(holdID, stand, nowS, u.SI(ring.Division)))}, nil
}
