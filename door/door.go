// Package door is who is let in: this computer always, any other device with the shop's
// PIN. It owns the count of wrong PINs; what else it knows is in the book. Pages ask it;
// it knows of no other room.
package door

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync"
	"time"

	"golang.org/x/crypto/bcrypt"

	"idlehiss/desk"
	"idlehiss/logbook"
)

const PinSetting = "pin"

var pinForm = regexp.MustCompile(`^[0-9]{4,12}$`)

// DeviceView is another device that is let in.
type DeviceView struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
	Seen  time.Time `json:"seen"`
}

// DoorView is who may come in.
type DoorView struct {
	PinSet  bool         `json:"pin_set"`
	Devices []DeviceView `json:"devices"`
}

// tries counts wrong PINs of one address in a row.
type tries struct {
	wrong int
	until time.Time
}

// Wrong PINs from one address are answered at once so often, and then ever later.
const (
	FreeTries     = 5
	firstWait     = time.Minute
	longWait      = time.Hour
	mostDoublings = 10
)

// Room is the door of a shop.
type Room struct {
	desk *desk.Desk

	mu    sync.Mutex       // guards tries
	tries map[string]tries // wrong PINs, by address
}

// New opens it.
func New(d *desk.Desk) *Room { return &Room{desk: d, tries: map[string]tries{}} }

// SetPin sets the shop's PIN, which signs every other device out. An empty one
// takes it away: then only this computer is served.
func SetPin(ctx context.Context, book *logbook.Book, pin string, now time.Time) error {
	hash := ""
	if pin != "" {
		if !pinForm.MatchString(pin) {
			return desk.Refuse("pin", "a PIN is 4 to 12 digits")
		}
		raw, err := bcrypt.GenerateFromPassword([]byte(pin), bcrypt.DefaultCost)
		if err != nil {
			return err
		}
		hash = string(raw)
	}
	return book.Batch(ctx, func(tx *logbook.Tx) error {
		return errors.Join(tx.SetSetting(PinSetting, hash), tx.SignOut("", now))
	})
}

// HasPin reports whether other devices could be let in.
func HasPin(ctx context.Context, book *logbook.Book) (bool, error) {
	hash, err := book.Setting(ctx, PinSetting)
	return hash != "", err
}

// SetPin is SetPin while the shop is open.
func (r *Room) SetPin(ctx context.Context, pin string) (DoorView, error) {
	if err := SetPin(ctx, r.desk.Book, pin, r.desk.Clock.Now()); err != nil {
		return DoorView{}, err
	}
	r.desk.Tell(desk.DoorNews, desk.Changed{Changed: []string{"devices"}})
	return r.Door(ctx)
}

// Door shows who may come in.
func (r *Room) Door(ctx context.Context) (DoorView, error) {
	v := DoorView{Devices: []DeviceView{}}
	var err error
	if v.PinSet, err = HasPin(ctx, r.desk.Book); err != nil {
		return v, err
	}
	ds, err := r.desk.Book.Devices(ctx)
	for _, d := range ds {
		v.Devices = append(v.Devices, deviceView(d))
	}
	return v, err
}

func deviceView(d logbook.Device) DeviceView { return DeviceView{d.ID, d.Name, d.Since, d.Seen} }

// Enter lets a device in that knows the PIN and gives the token it is known by
// from then on. Wrong ones from one address are answered ever later.
func (r *Room) Enter(ctx context.Context, from, pin, name string) (token string, v DeviceView, err error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return "", v, desk.Refuse("name", "give this device a name, such as 'Ilse's phone', so that it can be signed out again")
	}
	hash, err := r.desk.Book.Setting(ctx, PinSetting)
	if err != nil {
		return "", v, err
	}
	if hash == "" {
		return "", v, desk.Conflicts("this shop has no PIN yet: set one on its own computer, under Devices")
	}
	// The check itself takes a while by intent; it is done without the lock.
	if wait := r.wait(from); wait > 0 {
		return "", v, &desk.Refusal{Field: "pin", Says: fmt.Sprintf("too many wrong PINs from here: try again in %s", wait.Round(time.Second)), Kind: desk.TooMany}
	}
	right := bcrypt.CompareHashAndPassword([]byte(hash), []byte(pin)) == nil
	r.tried(from, right)
	if !right {
		return "", v, desk.Refuse("pin", "that is not the PIN of this shop")
	}
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return "", v, err
	}
	token = base64.RawURLEncoding.EncodeToString(raw)
	at := r.desk.Clock.Now()
	d := logbook.Device{ID: desk.NewID(), Name: name, Since: at, Seen: at}
	err = r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddDevice(d, tokenHash(token)) })
	return token, deviceView(d), err
}

// wait is how long an address must wait before its next try.
func (r *Room) wait(from string) time.Duration {
	r.mu.Lock()
	defer r.mu.Unlock()
	return time.Until(r.tries[from].until)
}

func (r *Room) tried(from string, right bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if right {
		delete(r.tries, from)
		return
	}
	t := r.tries[from]
	if t.wrong++; t.wrong >= FreeTries {
		t.until = time.Now().Add(min(longWait, firstWait<<min(t.wrong-FreeTries, mostDoublings)))
	}
	r.tries[from] = t
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// seenEvery is how exactly it is kept when a device was last there.
const seenEvery = time.Minute

// Known finds the device that a token stands for.
func (r *Room) Known(ctx context.Context, token string) (DeviceView, bool) {
	d, err := r.desk.Book.DeviceOf(ctx, tokenHash(token))
	if err != nil {
		return DeviceView{}, false
	}
	if now := r.desk.Clock.Now(); now.Sub(d.Seen) > seenEvery {
		// Only for the list of devices: that it could not be kept shuts nobody out.
		_ = r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SeeDevice(d.ID, now) })
	}
	return deviceView(d), true
}

// SignOut lets a device in no more.
func (r *Room) SignOut(ctx context.Context, id string) (DoorView, error) {
	err := r.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SignOut(id, r.desk.Clock.Now()) })
	if errors.Is(err, logbook.ErrNotFound) {
		return DoorView{}, desk.NotThere(err)
	}
	if err != nil {
		return DoorView{}, err
	}
	r.desk.Tell(desk.DoorNews, desk.Changed{ID: id, Changed: []string{"devices"}})
	return r.Door(ctx)
}
