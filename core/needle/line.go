package needle

import (
	"math"
	"slices"
)

// Where a needle is looked for, and when what is found is one. Angles in degrees; grey values 0 to 255. They were set by
// drawn faces (needle_test.go) and stand for the eye of the page, not for one kind of gauge.
const (
	behind     = 50.0 // the face behind a line is the median within so far to either side
	lineWidth  = 3.0  // of the matched filter
	apart      = 5.0  // two lines are told apart from here on
	window     = 3.0  // in which a line is weighed, to either side, beside the widest needle's half
	halfNeedle = 0.05 // the widest, share of the radius
	mostGrey   = 60.0 // a row's contrast counts no more than this: one figure outweighs no line
	leastGrey  = 14.0 // contrast of a line that can be told from noise
	leastRows  = 0.55 // share of the rows in which a line is seen
	faint      = 0.6  // share of the strongest line's strength under which none is looked at
	rival      = 0.7  // a second line of that share of the first's ink may be the needle as well
	saturated  = 250  // grey value of a reflection
	mostWidth  = 7.0  // a needle's line is narrower, or it is blurred
	edge       = 0.45 // of a line's contrast, at which its edges are
	fewestCuts = 4    // rows through which a line is put
	tapSE      = 0.02 // of the pivot as it is tapped, share of the radius
	mostSE     = 0.25 // of a steady reading
	crest      = 0.8  // of a line's contrast: what is less is another hand's ink, or its edge
	mostLean   = 0.15 // of a line beside which none lies, degrees
	hiddenRows = 0.5  // share of the rows of a direction that a reflection covers: a needle could lie there unseen
	washedRows = 0.35 // share of the rows in which a reflection lies over the line
)

// contrast is how far each cell is from the face behind it, darker is more; the rows one after the other.
func contrast(r Ring) []float64 {
	out := make([]float64, len(r.Grey))
	half := max(1, int(math.Round(behind/360*float64(r.Columns))))
	var count [256]int
	long := make([]uint8, r.Columns+2*half+1) // a row with its ends beyond both its ends
	for row := range r.Rows {
		line := r.Grey[row*r.Columns : (row+1)*r.Columns]
		n := copy(long, line[r.Columns-half:])
		n += copy(long[n:], line)
		copy(long[n:], line)
		clear(count[:])
		for _, g := range long[:2*half+1] {
			count[g]++
		}
		// The median moves by few steps from one column to the next.
		median, below := 0, 0
		want := half + 1
		for below+count[median] < want {
			below += count[median]
			median++
		}
		for col := range r.Columns {
			out[row*r.Columns+col] = float64(median) - float64(line[col])
			gone, come := int(long[col]), int(long[min(col+2*half+1, len(long)-1)])
			count[gone]--
			count[come]++
			if gone < median {
				below--
			}
			if come < median {
				below++
			}
			for below >= want {
				median--
				below -= count[median]
			}
			for below+count[median] < want {
				below += count[median]
				median++
			}
		}
	}
	return out
}

// strength is how much of a line lies in each direction: the square roots of the contrast of all rows, so that a line
// that is weak in every row outweighs a figure that is strong in few; smoothed by the width of a needle.
func strength(r Ring, d []float64, sign float64) []float64 {
	s := make([]float64, r.Columns)
	for row := range r.Rows {
		for col, x := range d[row*r.Columns : (row+1)*r.Columns] {
			if x *= sign; x > 0 {
				s[col] += math.Sqrt(min(x, mostGrey))
			}
		}
	}
	half := max(1, int(math.Round(lineWidth/2/360*float64(r.Columns))))
	out := make([]float64, r.Columns)
	sum := 0.0
	for i := -half; i <= half; i++ {
		sum += s[(i+r.Columns)%r.Columns]
	}
	for col := range out {
		out[col] = sum / float64((2*half+1)*r.Rows)
		sum += s[(col+half+1)%r.Columns] - s[(col-half+r.Columns)%r.Columns]
	}
	return out
}

// peak is a direction in which a line may lie.
type peak struct {
	angle, strength float64
}

// peaks are the strongest directions, each apart from those before it.
func peaks(r Ring, s []float64, most int) []peak {
	order := make([]int, len(s))
	for i := range order {
		order[i] = i
	}
	var out []peak
	step := 360 / float64(r.Columns)
	for len(out) < most {
		best := -1
		for i, x := range s {
			if (best < 0 || x > s[best]) && !slices.ContainsFunc(out, func(p peak) bool { return math.Abs(turn(p.angle-float64(i)*step)) < apart }) {
				best = i
			}
		}
		if best < 0 {
			return out
		}
		out = append(out, peak{float64(best) * step, s[best]})
	}
	return out
}

// cut is a line's place in one row.
type cut struct {
	row    int
	off    float64 // from the direction it is looked for in, degrees
	grey   float64 // contrast at its strongest
	inv    float64 // 1/rho; negative on the tail's side
	width  float64 // degrees
	lean   float64 // of its crest to one side of its foot, degrees: another hand lies half under it there
	washed bool    // a reflection lies over it
	merged bool    // something beside it runs into it
}

// cuts follows a line through the rows, and its tail on the other side: in each row the unbroken run of cells that stands
// out from the face where the line is thought to pass, so that a figure beside it is no part of it. bend is how a pivot that
// was tapped beside its place bends the line, degrees at the marks' radius.
func cuts(r Ring, d []float64, sign, angle, bend float64) []cut {
	step := 360 / float64(r.Columns)
	var out []cut
	for row := range r.Rows {
		line, grey := d[row*r.Columns:(row+1)*r.Columns], r.Grey[row*r.Columns:(row+1)*r.Columns]
		at := func(i int) float64 { return sign * line[(i%r.Columns+r.Columns)%r.Columns] }
		half := int(math.Round((window + halfNeedle/r.rho(row)*180/math.Pi) / step))
		near := int(math.Round((window / 2) / step))
		for side := range 2 {
			c := cut{row: row, inv: 1 / r.rho(row)}
			if side == 1 {
				c.inv = -c.inv
			}
			middle := angle + 180*float64(side) + bend*c.inv
			mid := int(math.Round(whole(middle) / step))
			top := mid
			for i := mid - near; i <= mid+near; i++ {
				if at(i) > at(top) {
					top = i
				}
			}
			c.grey = at(top)
			if c.grey <= 0 {
				continue
			}
			floor := edge * c.grey
			from, to := top, top
			for top-from < 2*half && at(from-1) > floor {
				from--
			}
			for to-top < 2*half && at(to+1) > floor {
				to++
			}
			c.merged = to-from > 2*half
			white := 0
			for i := mid - half; i <= mid+half; i++ {
				if grey[(i%r.Columns+r.Columns)%r.Columns] >= saturated {
					white++
				}
			}
			c.washed = float64(white) > 0.6*float64(2*half+1)
			// Its edges, between the cells on either side of half its height, are sharper than its middle.
			left := float64(from) - (at(from)-floor)/(at(from)-at(from-1))
			right := float64(to) + (at(to)-floor)/(at(to)-at(to+1))
			c.off = turn((left+right)/2*step - angle - 180*float64(side))
			c.width = (right - left) * step
			high, low := top, top
			for high < to && at(high+1) > crest*c.grey {
				high++
			}
			for low > from && at(low-1) > crest*c.grey {
				low--
			}
			c.lean = (float64(high+low)/2 - (left+right)/2) * step
			out = append(out, c)
		}
	}
	return out
}

// smooth evens the rows out over some columns, so that one cell's noise is no edge.
func smooth(r Ring, d []float64) []float64 {
	out := make([]float64, len(d))
	n := r.Columns
	for row := range r.Rows {
		line, into := d[row*n:(row+1)*n], out[row*n:(row+1)*n]
		a, b, c, d, e := line[n-2], line[n-1], line[0], line[1], line[2]
		for i := range line {
			into[i] = (a + 4*b + 6*c + 4*d + e) / 16
			next := i + 3
			if next >= n {
				next -= n
			}
			a, b, c, d, e = b, c, d, e, line[next]
		}
	}
	return out
}
