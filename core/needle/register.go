package needle

import (
	"math"
)

// Shift is how the face lies in a picture against how it lay when it was shown to the eye.
type Shift struct {
	Turn float64 `json:"turn"` // degrees clockwise
	X    float64 `json:"x"`    // of the pivot, to the right, share of the radius of the marks
	Y    float64 `json:"y"`    // downwards, the same
	Like float64 `json:"like"` // how much the marks are those, 0 to 1
}

// Same reports whether these are the marks that were shown.
func (s Shift) Same() bool { return s.Like >= leastLike }

// Off is by how much a reading would be wrong if it were read as before, degrees at most.
func (s Shift) Off() float64 {
	return math.Abs(s.Turn) + math.Hypot(s.X, s.Y)*180/math.Pi/needleAt
}

// Moved reports whether the picture has shifted by more than a reading bears.
func (s Shift) Moved() bool { return s.Off() > mostOff }

// Of registration. Angles in degrees.
const (
	leastLike = 0.5 // of the marks' likeness to themselves: glass that is half covered still shows the rest
	mostOff   = 0.4 // by which a picture may lie off before it is cut where the face is now: a thirteenth of a usual division
	needleAt  = 0.5 // share of the radius at which a needle is seen
	sectors   = 40
	shiftMost = 6.0 // searched either way
	shiftStep = 0.5 // of the first search
	unmoved   = 0.9 // of likeness where it lies: the marks are so narrow that a shift that matters leaves less
)

// pattern is the band of marks, made ready: each row less its surroundings, of one strength.
type pattern struct {
	columns, rows int
	v             []float64
}

func patternOf(r Ring) pattern {
	p := pattern{r.Columns, r.Rows, make([]float64, len(r.Grey))}
	half := max(2, r.Columns/30)
	for row := range r.Rows {
		line, into := r.Grey[row*r.Columns:(row+1)*r.Columns], p.v[row*r.Columns:(row+1)*r.Columns]
		sum := 0.0
		for i := -half; i <= half; i++ {
			sum += float64(line[(i+r.Columns)%r.Columns])
		}
		for col := range line {
			into[col] = float64(line[col]) - sum/float64(2*half+1)
			sum += float64(line[(col+half+1)%r.Columns]) - float64(line[(col-half+r.Columns)%r.Columns])
		}
	}
	return p
}

// sector is one share of the round.
func (p pattern) sector(k int) (from, to int) {
	return k * p.columns / sectors, (k + 1) * p.columns / sectors
}

// likeness is how two sectors go together, displaced by so many columns (a part of one is interpolated): the sums of the
// products and of the squares.
func likeness(a, b pattern, k int, by float64) (ab, aa, bb float64) {
	from, to := a.sector(k)
	floor := math.Floor(by)
	part := by - floor
	for row := range a.rows {
		at := row * a.columns
		line := b.v[at : at+a.columns]
		i := (from + int(floor) + 2*a.columns) % a.columns
		was := line[i]
		for _, x := range a.v[at+from : at+to] {
			if i++; i == len(line) {
				i = 0
			}
			next := line[i]
			y := was + part*(next-was)
			was = next
			ab += x * y
			aa += x * x
			bb += y * y
		}
	}
	return ab, aa, bb
}

// alike is how two bands go together where each sector is displaced by so many columns, -1 to 1.
func alike(a, b pattern, by func(sector int) float64) float64 {
	var ab, aa, bb float64
	for k := range sectors {
		x, y, z := likeness(a, b, k, by(k))
		ab, aa, bb = ab+x, aa+y, bb+z
	}
	return ab / math.Sqrt(aa*bb+1)
}

// Register finds how the marks of a picture lie against those that were shown. Both are the band about the marks, of one
// shape. A pivot that lies elsewhere shifts what is seen in a direction by the share of its way that lies across it.
func Register(shown, now Ring) Shift {
	if shown.Columns != now.Columns || shown.Rows != now.Rows {
		return Shift{}
	}
	a, b := patternOf(shown), patternOf(now)
	step := 360 / float64(a.columns)
	if like := alike(a, b, func(int) float64 { return 0 }); like >= unmoved {
		return Shift{Like: like}
	}
	n := int(2*shiftMost/shiftStep) + 1
	// Of each sector and shift once; the search then only adds them up.
	table := make([][3]float64, sectors*n)
	for k := range sectors {
		for s := range n {
			ab, aa, bb := likeness(a, b, k, (float64(s)*shiftStep-shiftMost)/step)
			table[k*n+s] = [3]float64{ab, aa, bb}
		}
	}
	var sin, cos [sectors]float64
	for k := range sectors {
		sin[k], cos[k] = math.Sincos((float64(k) + 0.5) / sectors * 2 * math.Pi)
	}
	best := Shift{Like: -1}
	most := shiftMost / 2
	for turned := -most; turned <= most; turned += shiftStep {
		for x := -most; x <= most; x += shiftStep {
			for y := -most; y <= most; y += shiftStep {
				var ab, aa, bb float64
				for k := range sectors {
					at := (turned + x*cos[k] + y*sin[k] + shiftMost) / shiftStep
					i := int(math.Round(at))
					if i < 0 || i >= n {
						continue
					}
					t := &table[k*n+i]
					ab, aa, bb = ab+t[0], aa+t[1], bb+t[2]
				}
				if like := ab / math.Sqrt(aa*bb+1); like > best.Like {
					best = Shift{turned, x, y, like}
				}
			}
		}
	}
	// Finer about the best, by what lies to either side.
	for fine := shiftStep / 2; fine > 0.02; fine /= 2 {
		for range 2 {
			for _, d := range [][3]float64{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}} {
				try := Shift{Turn: best.Turn + d[0]*fine, X: best.X + d[1]*fine, Y: best.Y + d[2]*fine}
				try.Like = alike(a, b, func(k int) float64 { return (try.Turn + try.X*cos[k] + try.Y*sin[k]) / step })
				if try.Like > best.Like {
					best = try
				}
			}
		}
	}
	// At the marks' radius a degree is a share of it. A face that lies further right is seen, straight up, further clockwise;
	// one that lies further down is seen further clockwise at three o'clock.
	best.X, best.Y = best.X*math.Pi/180, best.Y*math.Pi/180
	return best
}
