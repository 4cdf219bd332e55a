package needle

import (
	"fmt"
	"slices"
)

// Mark is a printed mark of the scale: where it is in the picture and what it says.
type Mark struct {
	Angle float64 // degrees clockwise from straight up
	Pa    float64 // gauge
}

// Scale is a face's scale by its marks, in the order of their pressures: the zero mark, a high one, and more where the face
// is not even. Between two marks it is even.
type Scale []Mark

// leastApart is how far two marks are apart, degrees: nearer ones would make a finger's width a pressure.
const leastApart = 10

// Sound refuses marks that are no scale, or gives them in order.
func (s Scale) Sound() (Scale, error) {
	out := slices.Clone(s)
	slices.SortFunc(out, func(a, b Mark) int {
		if a.Pa < b.Pa {
			return -1
		}
		return 1
	})
	if len(out) < 2 {
		return nil, fmt.Errorf("a scale has two marks at least: tap the zero mark and a high one")
	}
	turned := 0.0
	for i := range out[1:] {
		step := whole(out[i+1].Angle - out[i].Angle)
		if out[i+1].Pa == out[i].Pa {
			return nil, fmt.Errorf("two marks say the same pressure: tap each mark once")
		}
		if turned += step; step < leastApart || turned > 360-leastApart {
			return nil, fmt.Errorf("the needle turns clockwise from the lower mark to the higher: these marks lie %.0f degrees apart the other way round, or too near each other", 360-step)
		}
	}
	return out, nil
}

// Read is what a needle in a direction says, and how far that turns with it: Pa and Pa a degree. Beyond the last mark to
// either side the scale goes on as between the last two.
func (s Scale) Read(angle float64) (pa, perDegree float64) {
	// The scale's own gap is where the needle never is: half of it belongs to either end.
	span := 0.0
	for i := range s[1:] {
		span += whole(s[i+1].Angle - s[i].Angle)
	}
	at := whole(angle - s[0].Angle)
	if at > span+(360-span)/2 {
		at -= 360
	}
	from := 0.0
	for i := range s[1:] {
		step := whole(s[i+1].Angle - s[i].Angle)
		perDegree = (s[i+1].Pa - s[i].Pa) / step
		if at <= from+step || i == len(s)-2 {
			return s[i].Pa + (at-from)*perDegree, perDegree
		}
		from += step
	}
	return pa, perDegree // not reached: a scale has two marks
}
