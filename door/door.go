// Package door is who is let in and as what: this computer, and other devices with a PIN: the owner's, or that of the
// hands; loggers with a token of their own. What it knows is in the book, over restarts. Pages ask it; it knows of no
// other room.
package door

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// settings keep the hashes of the PINs.
var settings = map[terms.Role]string{terms.Owner: "owner-pin", terms.Hand: "pin"}

// How long a device is let in: while it is used, half a year at most; one that is borrowed, for a day's work.
const (
	unusedFor   = 30 * 24 * time.Hour
	letInFor    = 180 * 24 * time.Hour
	borrowedFor = 12 * time.Hour
	seenEvery   = time.Minute // how exactly it is kept when a device was last there
)

// checksAtOnce is how many PINs are looked at together: it takes a while by intent, and must not take the machine.
const checksAtOnce = 2

// DeviceView is another device that is let in, or a logger.
type DeviceView struct {
	ID     string     `json:"id"`
	Name   string     `json:"name"`
	Role   terms.Role `json:"role"`
	Person string     `json:"person"`
	Gauges []string   `json:"gauges"` // those of a logger
	Since  time.Time  `json:"since"`
	Seen   time.Time  `json:"seen"`
	Until  *time.Time `json:"until"` // of a borrowed one
}

// DoorView is who may come in.
type DoorView struct {
	PinSet   bool         `json:"pin_set"`   // hands may come in
	OwnerSet bool         `json:"owner_set"` // the owner's actions ask for the owner's PIN
	Devices  []DeviceView `json:"devices"`
	Wrong    *WrongView   `json:"wrong"`
}

// Room is the door of a shop.
type Room struct {
	Wall func() time.Time // the computer's clock: sessions and waits do not run with a shop's that runs faster

	desk   *desk.Desk
	tally  *tally
	checks chan struct{}
}

// New opens it.
func New(d *desk.Desk) *Room {
	r := &Room{Wall: time.Now, desk: d, checks: make(chan struct{}, checksAtOnce)}
	r.tally = &tally{d, func() time.Time { return r.Wall() }}
	return r
}

// SetPin sets the PIN of a role, which signs every device of that role out. An empty one takes it away. Others are let
// in only where there is an owner's PIN.
func SetPin(ctx context.Context, book *logbook.Book, role terms.Role, pin string, now time.Time) error {
	hash := ""
	has, err := Pins(ctx, book)
	switch {
	case err != nil:
		return err
	case role == terms.Hand && pin != "" && !has[terms.Owner]:
		return desk.Refuse("pin", "set the owner's PIN first: without it whoever comes in could change it")
	case role == terms.Owner && pin == "" && has[terms.Hand]:
		return desk.Refuse("pin", "take the hands' PIN away first")
	case pin != "":
		if err := good("pin", pin); err != nil {
			return err
		}
		for other := range settings {
			if same, err := fits(ctx, book, other, pin); other != role && (err != nil || same) {
				return errors.Join(err, desk.Refuse("pin", "that is the other PIN: choose one that differs"))
			}
		}
		raw, err := bcrypt.GenerateFromPassword([]byte(pin), bcrypt.DefaultCost)
		if err != nil {
			return err
		}
		hash = string(raw)
	}
	return book.Batch(ctx, func(tx *logbook.Tx) error {
		return errors.Join(tx.SetSetting(settings[role], hash), tx.SignOutRole(role, now))
	})
}

func fits(ctx context.Context, book *logbook.Book, role terms.Role, pin string) (bool, error) {
	hash, err := book.Setting(ctx, settings[role])
	return err == nil && hash != "" && bcrypt.CompareHashAndPassword([]byte(hash), []byte(pin)) == nil, err
}

// Pins reports which are set.
func Pins(ctx context.Context, book *logbook.Book) (map[terms.Role]bool, error) {
	kept, err := book.Settings(ctx, settings[terms.Owner], settings[terms.Hand])
	out := map[terms.Role]bool{}
	for role, name := range settings {
		out[role] = kept[name] != ""
	}
	return out, err
}

// Pins reports which are set.
func (r *Room) Pins(ctx context.Context) (map[terms.Role]bool, error) { return Pins(ctx, r.desk.Book) }

// PinWish is a PIN that is to be set or taken away.
type PinWish struct {
	Pin  string `json:"pin" maxLength:"72" doc:"six digits or more, or a phrase of ten letters or more; empty takes it away"`
	Now  string `json:"now,omitempty" maxLength:"72" doc:"the owner's PIN that is set, where one is: whoever finds a device that the owner left cannot change it"`
	From string `json:"-"`
}

// SetPin is SetPin while the shop is open, by whoever knows the owner's PIN. A wrong one counts like every other.
func (r *Room) SetPin(ctx context.Context, role terms.Role, in PinWish) (DoorView, error) {
	has, err := r.Pins(ctx)
	if err != nil {
		return DoorView{}, err
	}
	if has[terms.Owner] {
		right, err := r.tally.reserve(ctx, in.From)
		if err != nil {
			return DoorView{}, err
		}
		switch is, err := r.check(ctx, in.Now); {
		case err != nil:
			return DoorView{}, err
		case is != terms.Owner:
			r.wrong(in.From)
			return DoorView{}, desk.Refuse("now", "that is not the owner's present PIN")
		}
		if err := right(); err != nil {
			return DoorView{}, err
		}
	}
	if err := SetPin(ctx, r.desk.Book, role, in.Pin, r.Wall()); err != nil {
		return DoorView{}, err
	}
	slog.Info("A PIN was set or taken away, and the devices of its role are out", "role", role)
	r.desk.Tell(desk.DoorNews, desk.Changed{Changed: []string{string(role)}})
	return r.Door(ctx)
}

// Door shows who may come in.
func (r *Room) Door(ctx context.Context) (DoorView, error) {
	v := DoorView{Devices: []DeviceView{}}
	has, err := Pins(ctx, r.desk.Book)
	if err != nil {
		return v, err
	}
	v.PinSet, v.OwnerSet = has[terms.Hand], has[terms.Owner]
	ds, err := r.desk.Book.Devices(ctx)
	if err != nil {
		return v, err
	}
	for _, d := range ds {
		if !r.over(d) {
			v.Devices = append(v.Devices, deviceView(d))
		}
	}
	v.Wrong, err = r.Wrong(ctx)
	return v, err
}

func deviceView(d logbook.Device) DeviceView {
	return DeviceView{d.ID, d.Name, d.Role, d.Person, append([]string{}, d.Gauges...), d.Since, d.Seen, d.Until}
}

// Wrong is what the bench tells of wrong PINs; nil where there were few lately.
func (r *Room) Wrong(ctx context.Context) (*WrongView, error) { return r.tally.lately(ctx) }

// Forgive lets everybody try again at once.
func (r *Room) Forgive(ctx context.Context) (DoorView, error) {
	if err := r.tally.forget(ctx); err != nil {
		return DoorView{}, err
	}
	r.desk.Tell(desk.BenchNews, desk.Changed{Changed: []string{"door"}})
	return r.Door(ctx)
}

// over reports whether a device's time is over.
func (r *Room) over(d logbook.Device) bool {
	now := r.Wall()
	return d.Until != nil && !now.Before(*d.Until) || now.Sub(d.Seen) > unusedFor || d.Role != terms.Logger && now.Sub(d.Since) > letInFor
}

// Entering is a device that wants to come in.
type Entering struct {
	From     string // its address; Here for this computer
	Pin      string
	Name     string // of the device
	Person   string
	Borrowed bool
}

// Enter lets a device in that knows a PIN, as what that PIN is for, and gives the token it is known by from then on.
func (r *Room) Enter(ctx context.Context, in Entering) (token string, v DeviceView, err error) {
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return "", v, desk.Refuse("name", "give this device a name, such as 'Ilse's phone', so that it can be signed out again")
	}
	has, err := Pins(ctx, r.desk.Book)
	if err != nil {
		return "", v, err
	}
	if !has[terms.Owner] && !has[terms.Hand] {
		return "", v, desk.Conflicts("this shop has no PIN yet: set one on its own computer, under Devices")
	}
	right, err := r.tally.reserve(ctx, in.From)
	if err != nil {
		return "", v, err
	}
	role, err := r.check(ctx, in.Pin)
	if err != nil {
		return "", v, err
	}
	if role == "" {
		r.wrong(in.From, "device", name)
		return "", v, desk.Refuse("pin", "that is not the PIN of this shop")
	}
	if err := right(); err != nil {
		return "", v, err
	}
	at := r.Wall()
	d := logbook.Device{ID: desk.NewID(), Name: name, Role: role, Person: strings.TrimSpace(in.Person), Since: at, Seen: at}
	if in.Borrowed || in.From == Here { // nobody else sits down at this computer as the owner
		until := at.Add(borrowedFor)
		d.Until = &until
	}
	return r.admit(ctx, d)
}

func (r *Room) wrong(from string, more ...any) {
	slog.Warn("A wrong PIN was entered", append([]any{"from", from}, more...)...)
	r.desk.Tell(desk.BenchNews, desk.Changed{Changed: []string{"door"}})
}

// check is which role a PIN is of; "" for none. It holds no lock.
func (r *Room) check(ctx context.Context, pin string) (terms.Role, error) {
	select {
	case r.checks <- struct{}{}:
		defer func() { <-r.checks }()
	case <-ctx.Done():
		return "", ctx.Err()
	}
	if len(pin) > mostBytes {
		return "", nil
	}
	for _, role := range []terms.Role{terms.Owner, terms.Hand} {
		if ok, err := fits(ctx, r.desk.Book, role, pin); err != nil || ok {
			return role, err
		}
	}
	return "", nil
}

// mostDevices are let in at once; a shop has a dozen.
const mostDevices = 200

func (r *Room) admit(ctx context.Context, d logbook.Device) (token string, v DeviceView, err error) {
	in, err := r.desk.Book.Devices(ctx)
	if err != nil {
		return "", v, err
	}
	if in = slices.DeleteFunc(in, r.over); len(in) >= mostDevices {
		return "", v, desk.Conflicts("%d devices are in, and no more are let in: sign out those that are not used, under Devices", len(in))
	}
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return "", v, err
	}
	token = base64.RawURLEncoding.EncodeToString(raw)
	err = r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddDevice(d, tokenHash(token)) })
	if err == nil {
		slog.Info("A device was let in", "id", d.ID, "name", d.Name, "as", d.Role)
	}
	r.desk.Tell(desk.DoorNews, desk.Changed{ID: "in", Changed: []string{"devices"}})
	return token, deviceView(d), err
}

// AddLogger makes a token with which the readings of named gauges are posted, and nothing else is done.
func (r *Room) AddLogger(ctx context.Context, name string, gauges []string) (token string, v DeviceView, err error) {
	name = strings.TrimSpace(name)
	switch {
	case name == "":
		return "", v, desk.Refuse("name", "give the logger a name, so that it can be signed out again")
	case len(gauges) == 0:
		return "", v, desk.Refuse("gauges", "name the gauges whose readings it posts")
	}
	at := r.Wall()
	return r.admit(ctx, logbook.Device{ID: desk.NewID(), Name: name, Role: terms.Logger, Gauges: gauges, Since: at, Seen: at})
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// Known finds the device that a token stands for.
func (r *Room) Known(ctx context.Context, token string) (DeviceView, bool) {
	d, err := r.desk.Book.DeviceOf(ctx, tokenHash(token))
	if err != nil || r.over(d) {
		return DeviceView{}, false
	}
	if now := r.Wall(); now.Sub(d.Seen) > seenEvery {
		// Only for the list of devices: that it could not be kept shuts nobody out.
		_ = r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SeeDevice(d.ID, now) })
	}
	return deviceView(d), true
}

// Name notes who uses a device.
func (r *Room) Name(ctx context.Context, id, person string) error {
	return r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.NamePerson(id, strings.TrimSpace(person)) })
}

// SignOut lets a device in no more.
func (r *Room) SignOut(ctx context.Context, id string) (DoorView, error) {
	err := r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SignOut(id, r.Wall()) })
	if err != nil {
		return DoorView{}, desk.Sought(err)
	}
	slog.Info("A device was signed out", "id", id)
	r.desk.Tell(desk.DoorNews, desk.Changed{ID: id, Changed: []string{"devices"}})
	return r.Door(ctx)
}
