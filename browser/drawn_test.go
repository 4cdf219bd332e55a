package browser

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
)

// film is what a camera before a gauge sees, a picture a second: a face in the middle, whose needle stands at a share of its
// scale; from some second on the camera stands elsewhere.
type film struct {
	width, height int
	radius        float64
	seconds       int
	share         func(s float64) float64
	bumpedS       int
	coveredS      int     // then it sees nothing for so long
	bumpX, bumpY  float64 // pixels
}

// draw writes it as a raw video file (YUV4MPEG2, 4:2:0) and gives its path.
func (f film) draw(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "gauge.y4m")
	file, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	w := bufio.NewWriterSize(file, 1<<20)
	fmt.Fprintf(w, "YUV4MPEG2 W%d H%d F1:1 Ip A1:1 C420jpeg\n", f.width, f.height)
	grey, noise := make([]byte, f.width*f.height), rand.New(rand.NewPCG(7, 7))
	plain := make([]byte, f.width*f.height/2)
	for i := range plain {
		plain[i] = 128 // no colour
	}
	var face []float64
	for s := range f.seconds {
		x, y := float64(f.width)/2, float64(f.height)/2
		if s >= f.bumpedS {
			x, y = x+f.bumpX, y+f.bumpY
		}
		if s == 0 || s == f.bumpedS {
			face = f.face(x, y)
		}
		turned := (f.share(float64(s))*270 - 135) * math.Pi / 180
		sin, cos := math.Sincos(turned)
		for i := range grey {
			u, v := float64(i%f.width)+0.5-x, float64(i/f.width)+0.5-y
			along, across := u*sin-v*cos, math.Abs(u*cos+v*sin)
			half := f.radius * (0.03 - 0.02*along/f.radius)
			ink := 0.0
			if along > -0.2*f.radius && along < 0.92*f.radius {
				ink = min(1, max(0, half-across+0.5))
			}
			if hub := 0.09*f.radius - math.Hypot(u, v) + 0.5; hub > ink {
				ink = min(1, hub)
			}
			if s >= f.bumpedS && s < f.bumpedS+f.coveredS {
				ink = 1 // a hand lies over the lens
			}
			grey[i] = byte(max(16, min(235, face[i]*(1-ink)+30*ink+1.5*noise.NormFloat64())))
		}
		w.WriteString("FRAME\n")
		w.Write(grey)
		w.Write(plain)
	}
	if err := w.Flush(); err != nil {
		t.Fatal(err)
	}
	return path
}

// face is it without its needle: fifty divisions over three quarters of the round, every fifth longer, and some words.
func (f film) face(x, y float64) []float64 {
	out := make([]float64, f.width*f.height)
	const fine = 3
	for i := range out {
		for k := range fine * fine {
			u := (float64(i%f.width) + (float64(k%fine)+0.5)/fine - x) / f.radius
			v := (float64(i/f.width) + (float64(k/fine)+0.5)/fine - y) / f.radius
			far, g := math.Hypot(u, v), 90.0
			if far < 1.12 {
				g = 215
				angle := math.Atan2(u, -v)*180/math.Pi + 135
				step := math.Round(angle / 5.4)
				deep := 0.06
				if int(step)%5 == 0 {
					deep = 0.11
				}
				if step >= 0 && step <= 50 && math.Abs(angle-step*5.4)*math.Pi/180*far < 0.01 && far < 1 && far > 1-deep || math.Abs(v-0.55) < 0.03 && math.Abs(u) < 0.14 {
					g = 35
				}
			}
			out[i] += g / fine / fine
		}
	}
	return out
}

// hiss writes a sound file (WAV, 16 bit, one channel): the noise of a shop, in which a hiss grows from one second to another by so
// many dB and stays.
func hiss(t *testing.T, seconds, from, to int, db float64) string {
	t.Helper()
	const rate = 44100
	path := filepath.Join(t.TempDir(), "hiss.wav")
	file, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	w := bufio.NewWriterSize(file, 1<<20)
	n := uint32(seconds * rate * 2)
	w.WriteString("RIFF")
	binary.Write(w, binary.LittleEndian, 36+n)
	w.WriteString("WAVEfmt ")
	binary.Write(w, binary.LittleEndian, []uint32{16, 1 | 1<<16, rate, rate * 2, 2 | 16<<16})
	w.WriteString("data")
	binary.Write(w, binary.LittleEndian, n)
	rng := rand.New(rand.NewPCG(1, 2))
	for i := range seconds * rate {
		s := float64(i) / rate
		up := math.Pow(10, db/20*min(1, max(0, (s-float64(from))/float64(to-from))))
		binary.Write(w, binary.LittleEndian, int16(max(-32000, min(32000, 12*up*rng.NormFloat64()))))
	}
	if err := w.Flush(); err != nil {
		t.Fatal(err)
	}
	return path
}
