package holds

import (
	"context"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// TypedReading is one reading by a person.
type TypedReading struct {
	desk.Write
	Value *float64  `json:"value,omitempty" doc:"as read, in the gauge's unit; or text"`
	Text  string    `json:"text,omitempty" maxLength:"40" doc:"as typed, in any unit; a bare figure is in the gauge's"`
	Into  string    `json:"into,omitempty" maxLength:"20" doc:"read that long after the supply was shut, as 2:30 or 150 s; absent: at the moment of writing"`
	How   trace.How `json:"how" enum:"read,mark,camera" doc:"mark: the needle crossed that mark at that moment; camera: a camera saw it there"`
	Gauge Side      `json:"gauge,omitempty" minimum:"0" maximum:"100" doc:"2: the gauge at the other end; 100: the thermometer, °C"`
}

// Reading takes down a reading by a person.
func (r *Room) Reading(ctx context.Context, holdID string, in TypedReading) (desk.Receipt, error) {
	return r.press(ctx, holdID, in.Write, in, func(k *keeper) (desk.Receipt, error) { return k.reading(ctx, in) }, func(k *keeper) { k.settled(ctx) })
}

func (k *keeper) reading(ctx context.Context, in TypedReading) (desk.Receipt, error) {
	rec := &k.now.record
	face, side := rec.rig.Gauge, Near
	switch in.Gauge {
	case 0, Near:
	case Thermometer:
		return k.temperature(ctx, in)
	default:
		if in.Gauge != Far || rec.rig.Far == nil {
			return desk.Receipt{}, desk.Refuse("gauge", "this hold has no gauge %d: 1 is its own, 2 one at the other end where there is one, %d the thermometer", in.Gauge, Thermometer)
		}
		face, side = rec.rig.Far.Gauge, Far
	}
	ring, u := face.Ring()
	value, late, err := rec.typed(face, in)
	switch now := k.room.desk.Clock.Now(); {
	case err == nil && late != nil && late.After(now):
		err = desk.Refuse("into", "%s in is still to come: the supply was shut %s ago", in.Into, quantity.Duration(now.Sub(*rec.hold.IsolatedAt).Seconds()))
	case err == nil:
		err = onFace(ring, u, value)
	}
	if err != nil {
		return desk.Receipt{}, err
	}
	if ln := k.line(side); ln != nil && ln.stand != nil {
		return desk.Receipt{}, desk.Conflicts("the simulated gauge of this hold speaks by itself: readings are not typed on it")
	}
	var row logbook.Reading
	receipt, ran, err := desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		st, err := k.room.desk.StampWithin(in.Write, rec.hold.At)
		at := st.At
		if late != nil {
			at, err = *late, nil
		}
		if err != nil {
			return desk.Receipt{}, err
		}
		row = logbook.Reading{HoldID: rec.hold.ID, Gauge: int(side), Seq: rec.lastSeq(side) + 1, At: at, Value: value, Unit: u.Symbol, How: string(in.How), By: st.By, Device: st.Device}
		receipt := desk.Received(in.Write, rec.hold.ID, changedReadings)
		receipt.Seq = row.Seq
		return receipt, tx.Arrive(row)
	})
	if err == nil && ran {
		taken := rec.taken(row)
		if g, was := rec.unseen(side, taken); was {
			_ = k.room.desk.Take(ctx, func(tx *logbook.Tx) error { return tx.AddGap(g) }) // were it refused, the times still show it
			rec.gaps = append(rec.gaps[:len(rec.gaps):len(rec.gaps)], g)
		}
		if side == Near && !k.inOrder(taken.AtS) {
			k.touched()
		}
		rec.add(side, taken)
		k.sent.whole = true
		k.publish()
	}
	return receipt, err
}

// typed is a reading in the unit of its gauge, and its moment where it comes from a slip of paper.
func (rec *record) typed(face runsheet.Gauge, in TypedReading) (value float64, late *time.Time, err error) {
	switch {
	case in.Value != nil && in.Text == "":
		value = *in.Value
	case in.Value != nil || in.Text == "":
		return 0, nil, desk.Refuse("value", "give the reading once: value in the gauge's unit, or text as it was typed")
	default:
		if value, err = face.TypedOn(in.Text, rec.rig.draws(), rec.rig.AmbientPa); err != nil {
			return 0, nil, desk.Refuse("text", "%v", err)
		}
	}
	if rec.rig.draws() && value > 0 {
		value = -value // under vacuum 7 and −7 mean the same
	}
	if in.Into == "" {
		return value, nil, nil
	}
	if rec.hold.IsolatedAt == nil {
		return 0, nil, desk.Refuse("into", "the supply is still open. Shut the supply, then add readings by their time")
	}
	into, err := quantity.Parse(in.Into, quantity.Time, quantity.MustNamed("s", quantity.Time), rec.rig.AmbientPa)
	if err != nil {
		return 0, nil, desk.Refuse("into", "%v", err)
	}
	at := rec.hold.IsolatedAt.Add(time.Duration(into.Low * float64(time.Second)))
	return value, &at, nil
}

// unseen is the gap before a reading by camera, where the one before it is long past.
func (rec *record) unseen(s Side, now reading) (g logbook.Gap, was bool) {
	all := rec.side(s).all
	if n := len(all); n == 0 || now.How() != trace.Camera || all[n-1].How() != trace.Camera || now.AtS-all[n-1].AtS < 2*gapAfter.Seconds() {
		return g, false
	}
	return logbook.Gap{HoldID: rec.hold.ID, From: rec.moment(all[len(all)-1].AtS), To: rec.moment(now.AtS), Why: trace.Unseen.Gap()}, true
}

// onFace refuses a reading that the gauge's face does not have.
func onFace(ring runsheet.Ring, u quantity.Unit, value float64) error {
	if ring.Shows(value) {
		return nil
	}
	return desk.Refuse("value", "%g %s is off the face of this gauge. Type a reading from %g to %g %s", value, u.Symbol, ring.From, ring.To, u.Symbol)
}

// temperature takes down what a thermometer shows.
func (k *keeper) temperature(ctx context.Context, in TypedReading) (desk.Receipt, error) {
	rec := &k.now.record
	if in.Value == nil || !quantity.PossibleCelsius(*in.Value) {
		return desk.Receipt{}, desk.Refuse("value", "that is no temperature of a loop: type what the thermometer shows, in °C, such as 84")
	}
	st, err := k.room.desk.StampWithin(in.Write, rec.hold.At)
	if err != nil {
		return desk.Receipt{}, err
	}
	receipt, ran, err := desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
		return desk.Received(in.Write, rec.hold.ID, changedReadings), tx.AddReadings(logbook.Reading{HoldID: rec.hold.ID, Gauge: int(Thermometer), Seq: len(rec.warmth) + 1, At: st.At, Value: *in.Value, Unit: "°C", How: string(trace.Read), By: st.By, Device: st.Device})
	})
	if err == nil && ran {
		rec.warmth = append(rec.warmth, trace.Sample{AtS: rec.axis(st.At), Value: *in.Value})
		trace.InTime(rec.warmth)
		k.touched() // what was read between two temperatures changes with the second
		k.publish()
	}
	return receipt, err
}
