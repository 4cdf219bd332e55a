package needle

import (
	"cmp"
	"math"
	"slices"
)

// Known is what is known of a face before it is looked at; the zero value is nothing.
type Known struct {
	Light bool      // the needle is lighter than its face
	Said  bool      // whether that is known
	Near  *float64  // where the needle was last, degrees; nil: anywhere
	Still []float64 // directions of what stands still: the maximum hand, lines of the face
}

// Look reads one picture.
func Look(r Ring, k Known) Sight {
	if lit(r) < 3*leastGrey {
		return Sight{Fault: Dark}
	}
	d := contrast(r)
	sign := 1.0
	var s []float64
	top := -1.0
	for _, x := range []float64{1, -1} {
		if k.Said && (x < 0) != k.Light {
			continue
		}
		one := strength(r, d, x)
		if m := slices.Max(one); m > top {
			top, s, sign = m, one, x
		}
	}
	d = smooth(r, d)
	all := peaks(r, s, 5)
	// A hand that only shows the highest is as long as the needle, and has less ink.
	type line struct {
		Sight
		seenOf
		ink float64
	}
	var found []line
	for _, p := range all {
		if p.strength < faint*all[0].strength || slices.ContainsFunc(k.Still, func(a float64) bool { return math.Abs(turn(a-p.angle)) < apart/2 }) {
			continue
		}
		l := line{}
		l.Sight, l.seenOf = fit(r, d, sign, p.angle)
		l.ink = l.grey * max(l.Width, 0.5) * l.rows
		if k.Near != nil {
			l.ink *= near(p.angle - *k.Near)
		}
		found = append(found, l)
	}
	if len(found) == 0 {
		return Sight{Fault: NoLine}
	}
	slices.SortStableFunc(found, func(a, b line) int { return cmp.Compare(b.ink, a.ink) })
	seen := found[0]
	out := seen.Sight
	beside := func(l line) bool {
		off := math.Abs(turn(l.Angle - out.Angle))
		return l.Fault == NoFault && l.rows > leastRows && off > apart/2 && off < 180-apart && l.ink > rival*seen.ink
	}
	switch {
	case out.Fault != NoFault:
	case seen.washed > washedRows, hides(r) && (k.Near == nil || math.Abs(turn(out.Angle-*k.Near)) > apart):
		out.Fault = Glare
	case seen.rows < leastRows || seen.grey < leastGrey:
		out.Fault = NoLine
	case out.Width > mostWidth:
		out.Fault = Blurred
	case math.Abs(seen.lean) > mostLean || slices.ContainsFunc(found[1:], beside):
		out.Fault = TwoHand
	case out.SE > mostSE:
		out.Fault = Blurred
	}
	return out
}

// hides tells whether a reflection is so large that a needle could lie under it: what is found elsewhere may be another
// hand.
func hides(r Ring) bool {
	half := int(math.Round(lineWidth / 2 / 360 * float64(r.Columns)))
	white := make([]int, r.Columns)
	for i, g := range r.Grey {
		if g >= saturated {
			white[i%r.Columns]++
		}
	}
	sum := 0
	for i := -half; i <= half; i++ {
		sum += white[(i+r.Columns)%r.Columns]
	}
	for col := range r.Columns {
		if float64(sum) > hiddenRows*float64(r.Rows*(2*half+1)) {
			return true
		}
		sum += white[(col+half+1)%r.Columns] - white[(col-half+r.Columns)%r.Columns]
	}
	return false
}

// near weighs a line by how far it lies from where the needle was.
func near(off float64) float64 { return 0.4 + 0.6/(1+math.Pow(turn(off)/20, 2)) }

// lit is how far apart light and dark lie in a face, between its 2nd and 98th hundredth.
func lit(r Ring) float64 {
	var count [256]int
	for _, g := range r.Grey {
		count[g]++
	}
	at := func(share float64) float64 {
		left := int(share * float64(len(r.Grey)))
		for g, n := range count {
			if left -= n; left < 0 {
				return float64(g)
			}
		}
		return 255
	}
	return at(0.98) - at(0.02)
}

// seenOf is what the rows say of a line together.
type seenOf struct {
	rows, washed, grey, lean float64
}

// fit puts a straight line through its places in all rows. A pivot that was tapped beside its place bends them as 1/rho:
// offset = turn + bend/rho, with a bend as small as the error of a tap.
func fit(r Ring, d []float64, sign, angle float64) (Sight, seenOf) {
	var out Sight
	var seen seenOf
	bend := 0.0
	for range 2 { // looked for again where it was found
		if out, bend, seen = follow(r, cuts(r, d, sign, angle, bend)); out.Fault != NoFault {
			return out, seen
		}
		angle = whole(angle + out.Angle)
	}
	out.Angle = angle
	return out, seen
}

// follow puts a line through its places in the rows; its angle is counted from where it was looked for.
func follow(r Ring, all []cut) (out Sight, bend float64, seen seenOf) {
	var greys []float64
	washed := 0
	for _, c := range all {
		if c.inv < 0 {
			continue
		}
		greys = append(greys, c.grey)
		if c.washed {
			washed++
		}
	}
	if len(greys) == 0 {
		return Sight{Fault: NoLine}, 0, seen
	}
	seen.grey, seen.washed = median(greys), float64(washed)/float64(r.Rows)
	sound := func(c cut) bool {
		return c.grey > max(leastGrey, 0.6*seen.grey) && !c.washed && !c.merged
	}
	var rows, tail []cut
	for _, c := range all {
		if c.inv > 0 && sound(c) {
			rows = append(rows, c)
		}
		// A tail begins at the hub and has no gap.
		if c.inv < 0 && c.row == len(tail) && sound(c) && c.grey > 0.7*seen.grey {
			tail = append(tail, c)
		}
	}
	seen.rows = float64(len(rows)) / float64(r.Rows)
	rows = alone(rows)
	if len(rows) < fewestCuts {
		return Sight{Fault: NoLine}, 0, seen
	}
	if len(tail) >= fewestCuts {
		rows = append(rows, alone(tail)...)
	}
	// Weighed again by how far each row lies beside the line: a figure that the needle touches pulls its row aside.
	weight := make([]float64, len(rows))
	for i := range weight {
		weight[i] = 1
	}
	var turned, se, scatter float64
	for range 6 {
		turned, bend, se, scatter = straight(rows, weight)
		limit := max(2*scatter, 0.08)
		for i, c := range rows {
			e := math.Abs(c.off - turned - bend*c.inv)
			weight[i] = 1 / (1 + math.Pow(e/limit, 4))
		}
	}
	var widths, leans []float64
	mid := 2 / (r.Inner + r.Outer)
	for i, c := range rows {
		if c.inv > 0 && weight[i] > 0.5 {
			widths = append(widths, c.width*mid/c.inv)
			leans = append(leans, c.lean)
		}
	}
	if len(widths) < fewestCuts {
		return Sight{Fault: NoLine}, 0, seen
	}
	out = Sight{Angle: turned, SE: se, Width: median(widths)}
	seen.lean = median(leans)
	return out, bend, seen
}

// alone leaves out the rows in which something runs into the line: it is wider there than its other rows let expect. A
// needle may taper, so that its width is a straight line over the radius.
func alone(rows []cut) []cut {
	kept := rows
	for range 4 {
		var n, x, xx, y, xy float64
		for _, c := range kept {
			rho, long := 1/math.Abs(c.inv), c.width/math.Abs(c.inv)
			n++
			x += rho
			xx += rho * rho
			y += long
			xy += rho * long
		}
		det := n*xx - x*x
		if n < fewestCuts || det <= 0 {
			return nil
		}
		slope, level := (n*xy-x*y)/det, (xx*y-x*xy)/det
		var off []float64
		for _, c := range kept {
			off = append(off, math.Abs(c.width/math.Abs(c.inv)-level-slope/math.Abs(c.inv)))
		}
		limit := max(1.5*median(off), 0.06*y/n)
		var next []cut
		for _, c := range kept {
			if c.width/math.Abs(c.inv)-level-slope/math.Abs(c.inv) < limit {
				next = append(next, c)
			}
		}
		if len(next) == len(kept) {
			break
		}
		kept = next
	}
	return kept
}

func median(all []float64) float64 {
	some := slices.Clone(all)
	slices.Sort(some)
	return some[len(some)/2]
}

// straight is the weighted fit, with a ridge for the bend. scatter is that of a row, degrees.
func straight(rows []cut, weight []float64) (turned, bend, se, scatter float64) {
	var n, x, xx, y, xy float64
	for i, c := range rows {
		w := weight[i]
		n += w
		x += w * c.inv
		xx += w * c.inv * c.inv
		y += w * c.off
		xy += w * c.inv * c.off
	}
	scatter = 0.3 // to begin with
	for range 3 {
		ridge := math.Pow(scatter/(tapSE*180/math.Pi), 2)
		det := n*(xx+ridge) - x*x
		turned = ((xx+ridge)*y - x*xy) / det
		bend = (n*xy - x*y) / det
		sum := 0.0
		for i, c := range rows {
			e := c.off - turned - bend*c.inv
			sum += weight[i] * e * e
		}
		scatter = math.Sqrt(max(sum/max(n-2, 1), 1e-4))
		se = scatter * math.Sqrt((xx+ridge)/det)
	}
	// Rows beside each other share their pixels: not each of them is a witness of its own.
	return turned, bend, se * sharedRows, scatter
}

// sharedRows is by how much the error of a line is more than that of rows that know nothing of each other.
const sharedRows = 1.6
