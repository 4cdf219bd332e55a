package needle

import (
	"flag"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

var faces = flag.Int("faces", 100, "how many faces are drawn")

// drawn is a gauge's face as a camera sees it.
type drawn struct {
	lines            float64 // of the picture
	x, y, radius     float64 // of the pivot and the scale, pixels
	tilt, axis, far  float64 // of the face; how far the camera is, in radii
	ground, ink      float64 // grey values
	handInk          float64
	needle, hand     float64 // directions on the face, radians clockwise from straight up
	withHand         bool
	tip, hub         float64
	base, end        float64 // half widths of the needle at the hub and the tip
	tail, tailWide   float64
	two              bool // rings of figures
	slope, way       float64
	noise, blur      float64 // grey values; pixels
	glare            bool
	gx, gy, gr       float64 // of the reflection, on the face
	jot              [40][4]float64
	sin, cos, ca, sa float64
	nx, ny, hx, hy   float64
	exposure         float64
	noised           *rand.Rand
	pixels           map[[2]int]uint8
}

// draw makes up a face; the same number gives the same face.
func draw(n uint64) *drawn {
	r := rand.New(rand.NewPCG(n, 77))
	between := func(a, b float64) float64 { return a + (b-a)*r.Float64() }
	d := &drawn{noised: r, pixels: map[[2]int]uint8{}}
	d.lines = []float64{240, 360, 480, 720, 1080}[r.IntN(5)]
	d.radius = d.lines * between(0.33, 0.45)
	d.x, d.y = d.lines*between(0.6, 0.75), d.lines*between(0.48, 0.52)
	d.tilt, d.axis, d.far = between(0, 20)*math.Pi/180, between(0, 2*math.Pi), between(3, 7)
	d.ground, d.ink, d.handInk = between(195, 235), between(15, 45), between(80, 130)
	if r.IntN(3) == 0 { // white on black
		d.ground, d.ink, d.handInk = between(20, 45), between(195, 235), between(110, 150)
	}
	const span = 0.75 * math.Pi
	d.needle = between(-span, span)
	d.withHand = r.IntN(2) == 0
	d.hand = d.needle + between(0, span-d.needle)
	d.hub, d.tip = between(0.06, 0.12), between(0.82, 0.97)
	switch r.IntN(4) {
	case 0: // a thin one
		d.base, d.end = between(0.014, 0.02), between(0.008, 0.012)
	case 1: // a lance
		d.base, d.end = between(0.03, 0.045), between(0.004, 0.008)
	case 2: // a baton with a tail
		d.base, d.end = between(0.018, 0.028), between(0.014, 0.02)
		d.tail, d.tailWide = between(0.2, 0.35), between(0.018, 0.03)
	default: // a pointer with a heavy tail
		d.base, d.end = between(0.02, 0.03), between(0.006, 0.012)
		d.tail, d.tailWide = between(0.25, 0.38), between(0.035, 0.06)
	}
	d.two = r.IntN(2) == 0
	d.exposure, d.slope, d.way = between(0.55, 1.05), between(0, 0.25), between(0, 2*math.Pi)
	d.noise, d.blur = between(0.5, 5), between(0.2, 0.6)*d.lines/480
	switch r.IntN(12) {
	case 0:
		d.exposure = between(0.02, 0.1)
	case 1, 2:
		d.blur = between(1, 7) * d.lines / 480
	case 3:
		d.noise = between(5, 25)
	}
	if d.glare = r.IntN(4) == 0; d.glare {
		at, far := between(0, 2*math.Pi), between(0, 0.9)
		d.gx, d.gy, d.gr = far*math.Cos(at), far*math.Sin(at), between(0.08, 0.4)
	}
	for i := range d.jot { // figures and words: small bars
		at, far := between(-span, span), between(0.72, 0.8)
		if i%4 == 3 {
			at, far = math.Pi+between(-0.5, 0.5), between(0.3, 0.5)
		} else if d.two && i%2 == 0 {
			far = between(0.44, 0.52)
		}
		d.jot[i] = [4]float64{far * math.Sin(at), -far * math.Cos(at), between(0.01, 0.035), between(0.012, 0.04)}
	}
	d.sin, d.cos = math.Sincos(d.tilt)
	d.sa, d.ca = math.Sincos(d.axis)
	d.nx, d.ny = math.Sin(d.needle), -math.Cos(d.needle)
	d.hx, d.hy = math.Sin(d.hand), -math.Cos(d.hand)
	return d
}

// seen is where a point of the face is in the picture.
func (d *drawn) seen(u, v float64) (x, y float64) {
	a, b := u*d.ca+v*d.sa, -u*d.sa+v*d.ca // along and across the axis of the tilt
	depth := 1 + b*d.sin/d.far
	b *= d.cos
	a, b = a/depth, b/depth
	return d.x + d.radius*(a*d.ca-b*d.sa), d.y + d.radius*(a*d.sa+b*d.ca)
}

// face is the point of the face that is seen at a place.
func (d *drawn) face(x, y float64) (u, v float64) {
	x, y = (x-d.x)/d.radius, (y-d.y)/d.radius
	a, b := x*d.ca+y*d.sa, -x*d.sa+y*d.ca
	b = b / (d.cos - b*d.sin/d.far)
	a *= 1 + b*d.sin/d.far
	return a*d.ca - b*d.sa, a*d.sa + b*d.ca
}

// grey is what is there on the face.
func (d *drawn) grey(u, v float64) float64 {
	far := math.Hypot(u, v)
	g := d.ground
	if far < 1.15 {
		if angle := math.Atan2(u, -v); math.Abs(angle) < 0.76*math.Pi {
			mark := func(at float64, to, deep float64, n, long int) {
				step := 1.5 * math.Pi / float64(n)
				k := math.Round((angle + 0.75*math.Pi) / step)
				off := math.Abs(angle + 0.75*math.Pi - k*step)
				if int(k)%long == 0 {
					deep *= 1.8
				}
				if off*far < 0.008 && far < to && far > to-deep && at > 0 {
					g = d.ink
				}
			}
			mark(1, 1, 0.06, 50, 5)
			if d.two {
				mark(1, 0.66, 0.05, 36, 6)
			}
		}
		for _, j := range d.jot {
			if math.Abs(u-j[0]) < j[2] && math.Abs(v-j[1]) < j[3] {
				g = d.ink
			}
		}
	}
	if along, across := u*d.nx+v*d.ny, math.Abs(-u*d.ny+v*d.nx); along > 0 && along < d.tip && across < d.base+(d.end-d.base)*along/d.tip ||
		along < 0 && -along < d.tail && across < d.tailWide*(0.6+0.4*-along/max(d.tail, 0.01)) {
		g = d.ink
	}
	if far < d.hub {
		g = d.ink
	}
	if along, across := u*d.hx+v*d.hy, math.Abs(-u*d.hy+v*d.hx); d.withHand && along > 0 && along < 0.93 && across < 0.009 {
		g = d.handInk
	}
	g *= d.exposure * (1 + d.slope*(u*math.Cos(d.way)+v*math.Sin(d.way)))
	if d.glare {
		if q := math.Hypot(u-d.gx, v-d.gy) / d.gr; q < 1.3 {
			g += 260 * math.Exp(-math.Pow(q, 6))
		}
	}
	return g
}

// pixel is a pixel of the picture: the face through the lens, with its noise.
func (d *drawn) pixel(i, j int) uint8 {
	if g, ok := d.pixels[[2]int{i, j}]; ok {
		return g
	}
	sum, weight := 0.0, 0.0
	reach := max(0.33, d.blur)
	for _, p := range [][2]float64{{0, 0}, {1, 0}, {-1, 0}, {0, 1}, {0, -1}, {0.7, 0.7}, {-0.7, 0.7}, {0.7, -0.7}, {-0.7, -0.7}, {1.8, 0.3}, {-1.8, -0.3}, {0.3, -1.8}, {-0.3, 1.8}} {
		w := math.Exp(-(p[0]*p[0] + p[1]*p[1]) / 2)
		u, v := d.face(float64(i)+0.5+reach*p[0], float64(j)+0.5+reach*p[1])
		sum += w * d.grey(u, v)
		weight += w
	}
	g := uint8(max(0, min(255, math.Round(sum/weight+d.noise*d.noised.NormFloat64()))))
	d.pixels[[2]int{i, j}] = g
	return g
}

// ring cuts the face out of the picture as the page does, by taps that miss the pivot and the zero mark a little.
func (d *drawn) ring(tap float64) Ring {
	r := Ring{Columns: 720, Rows: 24, Inner: 0.2, Outer: 0.72}
	zx, zy := d.seen(-math.Sin(0.75*math.Pi), math.Cos(0.25*math.Pi))
	px, py := d.x+tap*d.radius*d.noised.NormFloat64(), d.y+tap*d.radius*d.noised.NormFloat64()
	long := math.Hypot(zx-px, zy-py)
	for row := range r.Rows {
		for col := range r.Columns {
			s, c := math.Sincos(2 * math.Pi * float64(col) / float64(r.Columns))
			x, y := px+long*r.rho(row)*s-0.5, py-long*r.rho(row)*c-0.5
			i, j := int(math.Floor(x)), int(math.Floor(y))
			a, b := x-float64(i), y-float64(j)
			if d.lines > 400 { // as fine as the ring: the nearest will do
				r.Grey = append(r.Grey, d.pixel(int(math.Round(x)), int(math.Round(y))))
				continue
			}
			g := (1-a)*(1-b)*float64(d.pixel(i, j)) + a*(1-b)*float64(d.pixel(i+1, j)) + (1-a)*b*float64(d.pixel(i, j+1)) + a*b*float64(d.pixel(i+1, j+1))
			r.Grey = append(r.Grey, uint8(math.Round(g)))
		}
	}
	return r
}

// truth is the direction of the needle in the picture, degrees.
func (d *drawn) truth() float64 {
	x, y := d.seen(0.7*d.nx, 0.7*d.ny)
	return whole(math.Atan2(x-d.x, -(y-d.y)) * 180 / math.Pi)
}

// What is said to be steady is right, and what is wrong is said not to be.
func TestWhatIsSteadyIsRight(t *testing.T) {
	if testing.Short() { // with the race detector
		*faces = min(*faces, 12)
	}
	var errs, pulls []float64
	wrong, said, clear, read := 0, 0, 0, 0
	faults := map[Fault]int{}
	for n := range *faces {
		d := draw(uint64(n))
		s := Look(d.ring(0.006), Known{Said: true, Light: d.ink > d.ground})
		faults[s.Fault]++
		err := math.Abs(turn(s.Angle - d.truth()))
		found := s.Fault != Dark && s.Fault != NoLine
		if plain := !d.glare && d.blur < d.lines/480 && d.noise <= 5 && d.exposure > 0.2 && d.exposure*(1+d.slope)*max(d.ground, d.ink) < 245 && (!d.withHand || d.hand-d.needle > 0.2); plain {
			if clear++; s.Steady() {
				read++
			}
		}
		if found && err > 1 {
			if wrong++; s.Steady() {
				t.Logf("face %d is said to be steady and is off by %.2f: %+v, hand %.1f of %t, glare %t, blur %.1f, %.0f lines, two %t", n, err, s, (d.hand-d.needle)*180/math.Pi, d.withHand, d.glare, d.blur, d.lines, d.two)
				said++
			}
		}
		if s.Steady() {
			errs, pulls = append(errs, err), append(pulls, err/s.SE)
		}
	}
	slices.Sort(errs)
	slices.Sort(pulls)
	at := func(all []float64, q float64) float64 { return all[int(q*float64(len(all)-1))] }
	t.Logf("%d faces, %d steady (%d of %d clear ones), error: median %.3f, 95 in 100 within %.3f; of its own SE: median %.2f, 95 in 100 %.2f; off by more than 1 degree: %d, said to be steady: %d; %v", *faces, len(errs), read, clear, at(errs, 0.5), at(errs, 0.95), at(pulls, 0.5), at(pulls, 0.95), wrong, said, faults)
	if e := at(errs, 0.95); e > 0.3 {
		t.Errorf("95 in 100 are within %.2f degrees, want 0.3", e)
	}
	if float64(said) > 0.02*float64(wrong) {
		t.Errorf("%d of %d that are off by more than a degree are said to be steady", said, wrong)
	}
	if len(errs) == 0 || float64(read) < 0.9*float64(clear) {
		t.Errorf("only %d of %d clear pictures are read", read, clear)
	}
}

func BenchmarkLook(b *testing.B) {
	r := draw(5).ring(0.006)
	for b.Loop() {
		Look(r, Known{})
	}
}
