package trace

import "idlehiss/core/quantity"

// Most loggers write a time and a pressure a row, in plain digits, and a million of them. Such rows are read as they
// lie, in one go over their bytes. A row that has anything else in it is read as rows are; what the two give is the same.

// pairs reads such rows up to one that is none, or to the end, or so many, and tells how many.
func (rd *reader) pairs(most int) (n int) {
	p, ok := rd.c.(*plainRows)
	if !ok || len(rd.cols) != 2 || rd.cols[0].role != timeCol || rd.cols[0].clock || rd.cols[1].role != pressureCol ||
		rd.cols[1].vacuum || rd.cols[1].absolute || rd.commas[0] == decimals || rd.commas[1] == decimals {
		return 0
	}
	times, pressures := rd.cols[0].unit, rd.cols[1].unit
	for ; n < most && p.next < len(p.raw); n++ {
		s, _, at, ok := digits(p.raw, p.next)
		if !ok || at >= len(p.raw) || p.raw[at] != p.comma {
			return n
		}
		v, places, at, ok := digits(p.raw, at+1)
		if at < len(p.raw) && p.raw[at] == '\r' {
			at++
		}
		if !ok || at < len(p.raw) && p.raw[at] != '\n' {
			return n
		}
		x := Reading{AtS: times.SI(s), GaugePa: pressures.SI(v), How: Read}
		if x.AtS < rd.last || !quantity.PossibleSeconds(x.AtS) || x.GaugePa < -rd.ambient*(1+1e-6) || x.GaugePa > mostPa {
			return n // it is refused with its words
		}
		rd.last = x.AtS
		rd.took(x, rd.cols[1], pressures.SI(lastDigits[places]))
		p.next, p.line = at+1, p.line+1
	}
	return n
}

// took adds a reading of the near gauge; digit is the size of the last digit of its figure, Pa.
func (rd *reader) took(r Reading, col column, digit float64) {
	rd.t.Unit = col.unit
	if rd.t.DigitPa == 0 || digit < rd.t.DigitPa {
		rd.t.DigitPa = digit
	}
	rd.t.Readings = append(rd.t.Readings, r)
}

// digits reads a number of nothing but digits with a minus sign and a point, from a place on, as bare does of a text:
// its value, how many digits follow its point, and the place after it.
func digits(raw []byte, from int) (v float64, places, at int, ok bool) {
	minus := from < len(raw) && raw[from] == '-'
	if at = from; minus {
		at++
	}
	first, point, mantissa := at, -1, int64(0)
	for ; at < len(raw); at++ {
		if c := raw[at] - '0'; c <= 9 {
			mantissa = mantissa*10 + int64(c)
		} else if raw[at] == '.' && point < 0 && at > from {
			point = at
		} else {
			break
		}
		if at-first > exactDigits {
			return 0, 0, at, false
		}
	}
	n := at - first
	if point >= 0 {
		places, n = at-1-point, n-1
	}
	if n == 0 || n > exactDigits {
		return 0, 0, at, false
	}
	if v = float64(mantissa); places > 0 {
		v /= tens[places]
	}
	if minus {
		v = -v
	}
	return v, places, at, true
}
