package needle

import (
	"math"
	"math/rand/v2"
	"testing"
)

// band cuts the marks out of a picture whose camera was moved: by x and y (share of the radius) and turned (degrees).
func (d *drawn) band(x, y, turned float64) Ring {
	r := Ring{Columns: 360, Rows: 8, Inner: 0.76, Outer: 1.08}
	zx, zy := d.seen(-math.Sin(0.75*math.Pi), math.Cos(0.25*math.Pi))
	long := math.Hypot(zx-d.x, zy-d.y)
	for row := range r.Rows {
		for col := range r.Columns {
			s, c := math.Sincos((float64(col)/float64(r.Columns)*360 - turned) * math.Pi / 180)
			px, py := d.x-x*long+long*r.rho(row)*s, d.y-y*long-long*r.rho(row)*c
			r.Grey = append(r.Grey, d.pixel(int(math.Floor(px)), int(math.Floor(py))))
		}
	}
	return r
}

// A picture that was bumped is found again where it is, and another face is not taken for this one.
func TestABumpedPictureIsFoundAgain(t *testing.T) {
	far, n := 0, 0
	for k := uint64(0); k < 40; k++ {
		d := draw(k)
		if d.glare || d.blur > d.lines/480 || d.noise > 5 || d.exposure < 0.2 {
			continue
		}
		rng := rand.New(rand.NewPCG(k, 5))
		at := func(most float64) float64 { return most * (2*rng.Float64() - 1) }
		x, y, turned := at(0.03), at(0.03), at(2)
		shown := d.band(0, 0, 0)
		s := Register(shown, d.band(x, y, turned))
		n++
		if off := math.Abs(s.Turn-turned) + math.Hypot(s.X-x, s.Y-y)*180/math.Pi; off > 0.4 || !s.Same() {
			far++
			t.Logf("face %d: %+v, moved by %.3f %.3f %.2f", k, s, x, y, turned)
		}
		if s := Register(shown, shown); s.Off() > 0.1 || !s.Same() {
			t.Errorf("face %d: unmoved it is %+v", k, s)
		}
		if s := Register(shown, draw(k+1000).band(at(0.3), at(0.3), 0)); s.Same() {
			t.Errorf("face %d: another face is taken for it: %+v", k, s)
		}
	}
	if n < 15 || far > n/10 {
		t.Errorf("%d of %d bumps are not found to within 0.4 degrees", far, n)
	}
}

func BenchmarkRegister(b *testing.B) {
	d := draw(5)
	shown, now := d.band(0, 0, 0), d.band(0.02, -0.01, 1)
	b.Run("unmoved", func(b *testing.B) {
		for b.Loop() {
			Register(shown, shown)
		}
	})
	b.Run("bumped", func(b *testing.B) {
		for b.Loop() {
			Register(shown, now)
		}
	})
}
