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
		v, point, at, ok := digits(p.raw, at+1)
		places := 0
		if point >= 0 {
			places = at - 1 - point
		}
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
