package web

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"idlehiss/core/terms"
	"idlehiss/door"
	"idlehiss/shop"
)

// guarded lets in this computer and the devices that are signed in, each to what is its own. The page itself is open to
// all, so that it can ask for the PIN.
func (o Options) guarded(s *shop.Shop) gin.HandlerFunc {
	return func(c *gin.Context) {
		path := c.Request.URL.Path
		if !behind(path) {
			return
		}
		v := o.look(c, s)
		if v.in() {
			known(c.Request.Context())
		}
		if atDoor(path) {
			return
		}
		switch {
		case !v.in():
			refused(c, http.StatusUnauthorized, "this device is not signed in: enter the shop's PIN")
		case v.device != nil && v.device.Role == terms.Logger && !posts(c.Request, v.device.Gauges):
			refused(c, http.StatusForbidden, "this token posts the readings of "+strings.Join(v.device.Gauges, ", ")+", and does nothing else")
		case owners(c.Request):
			pins, err := s.Door.Pins(c.Request.Context())
			switch {
			case err != nil:
				refuse(c, err)
				c.Abort()
			case !v.owner(pins) && !(v.here && !pins[terms.Owner] && path == ownersPin):
				if v.device != nil {
					slog.Warn("A device asked for what is the owner's", "id", v.device.ID, "name", v.device.Name, "path", path)
				}
				refused(c, http.StatusForbidden, "this is the owner's: enter the owner's PIN under Devices")
			}
		}
	}
}

// behind reports whether a path is answered only to those who are let in: all but the page's own files.
func behind(path string) bool {
	for _, at := range []string{"/api/", "/openapi", "/schemas/"} {
		if strings.HasPrefix(path, at) {
			return true
		}
	}
	return false
}

// atDoor reports whether a path is where one comes in or leaves.
func atDoor(path string) bool { return path == "/api/door" || path == "/api/door/out" }

// posts reports whether a request posts a reading of one of the gauges, or asks for the time to do it by.
func posts(r *http.Request, gauges []string) bool {
	if r.Method == http.MethodGet && r.URL.Path == "/api/clock" {
		return true
	}
	for _, id := range gauges {
		if r.Method == http.MethodPost && r.URL.Path == "/api/gauges/"+id+"/readings" {
			return true
		}
	}
	return false
}

const ownersPin = "/api/pins/owner"

// owners reports whether a request is for the owner alone: PINs, devices, what kit there is and where a gauge is asked,
// backups, the book as a bundle, a stranger's bundle. What a hand does with the kit, such as a zero check or a loan, is not.
func owners(r *http.Request) bool {
	if q := r.URL.Query(); r.URL.Path == "/api/bundle" && q.Get("job") == "" && q.Get("machine") == "" || r.URL.Path == "/api/bundle/look" {
		return true // the whole book, or a stranger's
	}
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		return false
	}
	for _, at := range []string{"/api/pins/", "/api/devices/", "/api/loggers", "/api/wrong-pins", "/api/keep/", "/api/shop/"} {
		if strings.HasPrefix(r.URL.Path, at) {
			return true
		}
	}
	switch r.URL.Path {
	case "/api/bundle", "/api/kit/gauges", "/api/kit/pumps", "/api/kit/fittings":
		return true
	}
	return false
}

func refused(c *gin.Context, status int, says string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: says})
}

// doorState answers what a page needs to know before it is let in.
type doorState struct {
	ThisComputer bool       `json:"this_computer"`
	SignedIn     bool       `json:"signed_in"`
	PinSet       bool       `json:"pin_set"`
	Owner        bool       `json:"owner"` // the owner's actions are this page's
	Device       string     `json:"device"`
	Person       string     `json:"person"`
	Role         terms.Role `json:"role"`
	Borrowed     bool       `json:"borrowed"` // the device is out again by itself
	Stream       string     `json:"stream"`   // where the event stream is now: what is asked for from here on is not older
	Listed       int        `json:"listed"`   // number of the last event that changes what is listed
}

// Enter is what a device gives to come in.
type Enter struct {
	Pin      string `json:"pin"`
	Name     string `json:"name"`
	Person   string `json:"person"`
	Borrowed bool   `json:"borrowed"`
}

// most is what a device's name and a person's may be long, and a body at the door, bytes.
const (
	mostName = 60
	mostBody = 4096
	bodyIn   = 5 * time.Second // as long as the described interface gives
)

// doorRoutes stand beside the described interface, since they set a cookie.
func (o Options) doorRoutes(r *gin.Engine, s *shop.Shop) {
	r.GET("/api/door", func(c *gin.Context) {
		pins, err := s.Door.Pins(c.Request.Context())
		if err != nil {
			refuse(c, err)
			return
		}
		v := visiting(c)
		st := doorState{ThisComputer: v.here, SignedIn: v.in(), PinSet: pins[terms.Owner] || pins[terms.Hand], Owner: v.owner(pins)}
		st.Stream, st.Listed = s.StreamAt()
		if v.device != nil {
			st.Device, st.Person, st.Role = v.device.Name, v.device.Person, v.device.Role
			st.Borrowed = !v.here && v.device.Until != nil
		}
		c.JSON(http.StatusOK, st)
	})
	r.POST("/api/door", func(c *gin.Context) {
		var in Enter
		_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(bodyIn)) // a recorder has none
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, mostBody)
		if err := c.ShouldBindJSON(&in); err != nil || len(in.Name) > mostName || len(in.Person) > mostName {
			refused(c, http.StatusBadRequest, `send {"pin": "…", "name": "…", "person": "…"}`)
			return
		}
		token, d, err := s.Door.Enter(c.Request.Context(), door.Entering{From: visiting(c).from, Pin: in.Pin, Name: in.Name, Person: in.Person, Borrowed: in.Borrowed})
		if err != nil {
			refuse(c, err)
			return
		}
		o.setCookie(c, token, cookieLasts)
		c.JSON(http.StatusOK, gin.H{"device": d})
	})
	r.POST("/api/door/out", func(c *gin.Context) {
		if v := visiting(c); v.device != nil {
			if _, err := s.Door.SignOut(c.Request.Context(), v.device.ID); err != nil {
				refuse(c, err)
				return
			}
		}
		o.setCookie(c, "", -1)
		c.JSON(http.StatusOK, gin.H{})
	})
}

// cookieLasts is as long as browsers keep one, seconds; the server ends a session before.
const cookieLasts = 400 * 86400

func (o Options) setCookie(c *gin.Context, token string, lasts int) {
	http.SetCookie(c.Writer, &http.Cookie{Name: o.cookie(), Value: token, Path: "/", MaxAge: lasts, HttpOnly: true, Secure: o.Secure, SameSite: http.SameSiteStrictMode})
}

// deviceRoutes are for whoever owns the shop, and for a device to say who uses it.
func deviceRoutes(api huma.API, d *door.Room) {
	get(api, "devices", "/api/devices", "Devices that are let in", func(ctx context.Context, _ *none) (door.DoorView, error) { return d.Door(ctx) })
	type newPin struct {
		Role terms.Role `path:"role"`
		Body door.PinWish
	}
	post(api, "set-pin", "/api/pins/{role}", "Set the owner's PIN or that of the hands; every device of that role is signed out", func(ctx context.Context, in *newPin) (door.DoorView, error) {
		if in.Role == terms.Logger {
			return door.DoorView{}, errNoLogger
		}
		v, _ := ctx.Value(visitorOf{}).(visitor)
		in.Body.From = v.from
		return d.SetPin(ctx, in.Role, in.Body)
	})
	post(api, "sign-out", "/api/devices/{id}/out", "Sign a device out", func(ctx context.Context, in *byID) (door.DoorView, error) { return d.SignOut(ctx, in.ID) })
	post(api, "forgive", "/api/wrong-pins/forget", "Let everybody try a PIN again at once", func(ctx context.Context, _ *none) (door.DoorView, error) { return d.Forgive(ctx) })
	post(api, "add-logger", "/api/loggers", "Make a token with which the readings of named gauges are posted; it is shown this once", func(ctx context.Context, in *body[NewLogger]) (AddedLogger, error) {
		token, v, err := d.AddLogger(ctx, in.Body.Name, in.Body.Gauges)
		return AddedLogger{token, v}, err
	})
	type person struct {
		Person string `json:"person" maxLength:"60"`
	}
	post(api, "used-by", "/api/me", "Say who uses this device", func(ctx context.Context, in *body[person]) (none, error) {
		v, _ := ctx.Value(visitorOf{}).(visitor)
		if v.device == nil {
			return none{}, nil
		}
		return none{}, d.Name(ctx, v.device.ID, in.Body.Person)
	})
}

var errNoLogger = errors.New("a logger has a token, no PIN")

// NewLogger is a logger that is to be let in.
type NewLogger struct {
	Name   string   `json:"name" maxLength:"60"`
	Gauges []string `json:"gauges" maxItems:"50" doc:"ids of the gauges whose readings it posts"`
}

// AddedLogger is a logger with its token.
type AddedLogger struct {
	Token  string          `json:"token"`
	Logger door.DeviceView `json:"logger"`
}
