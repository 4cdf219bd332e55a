package shop

import (
	"context"
	"fmt"
	"time"

	"idlehiss/core/trace"
	"idlehiss/logbook"
)

// Export is a hold as a trace whose judge line carries all that was asked, with
// comment lines to stand above it.
func (s *Shop) Export(ctx context.Context, id string) (*trace.Trace, []string, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.find(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	tr, notes := l.export()
	return tr, notes, nil
}

// ExportHold is Export on a book that no shop has open.
func ExportHold(ctx context.Context, book *logbook.Book, id string) (*trace.Trace, []string, error) {
	return (&Shop{book: book, live: map[string]*live{}}).Export(ctx, id)
}

func (l *live) export() (*trace.Trace, []string) {
	tr := l.trace()
	tr.Settings = l.settings()
	notes := []string{fmt.Sprintf("%s, %s, %s", l.machine, l.hold.Purpose, l.hold.At.Format(time.RFC3339))}
	if l.hold.Simulated {
		notes = append(notes, "simulated")
	}
	return tr, notes
}

// settings are the judge's flags for this hold.
func (l *live) settings() string {
	q := l.question()
	num := func(v float64) string { return fmt.Sprintf("%.10g", v) }
	out := fmt.Sprintf("--limit '%skPa in 1min' --ambient %skPa --at=%skPa", num(q.LimitPaPerS*60/1e3), num(q.AmbientPa/1e3), num(*q.AtPa/1e3))
	if q.GasM3 > 0 {
		out += fmt.Sprintf(" --gas '%sL ± %sL'", num(q.GasM3*1e3), num(q.GasSE*1e3))
		if q.GasByStrokes {
			out += " --by-strokes"
		}
	}
	if q.LiquidM3 > 0 && q.GasM3 > 0 && len(l.warmth) > 0 {
		out += fmt.Sprintf(" --liquid %sL", num(q.LiquidM3*1e3))
	}
	if q.WarmthUnread {
		out += " --warmth-unread"
	}
	if q.StrokeM3 > 0 {
		out += fmt.Sprintf(" --stroke %scm3", num(q.StrokeM3*1e6))
	}
	if d := q.Gauge.DivisionPa; d > 0 {
		out += fmt.Sprintf(" --division %skPa", num(d/1e3))
	} else {
		out += fmt.Sprintf(" --digital %skPa", num(q.Gauge.DigitalPa/1e3))
	}
	if c := q.Gauge.ClassPercent; c > 0 {
		out += " --class " + num(c)
	}
	if q.RigPaPerS != 0 {
		out += fmt.Sprintf(" --rig '%skPa/min ± %skPa/min'", num(q.RigPaPerS*60/1e3), num(q.RigSE*60/1e3))
	}
	return out + " --live"
}
