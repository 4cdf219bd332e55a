package web

import (
	"net"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"idlehiss/door"
	"idlehiss/shop"
)

// doorCookie carries a device's token; a script sends it as a bearer token.
const doorCookie = "hiss_door"

// deviceKey is where a request keeps the device it comes from.
const deviceKey = "device"

// guarded lets in this computer and the devices that are signed in. The page itself
// is open to all, so that it can ask for the PIN.
func guarded(s *shop.Shop) gin.HandlerFunc {
	return func(c *gin.Context) {
		path := c.Request.URL.Path
		if thisComputer(c.Request) {
			if !ownName(c.Request.Host) {
				refused(c, http.StatusForbidden, "ask for it by its own address, such as http://127.0.0.1:8340")
			}
			return
		}
		if !strings.HasPrefix(path, "/api/") || path == "/api/door" {
			return
		}
		token, _ := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer ")
		if token == "" {
			token, _ = c.Cookie(doorCookie)
		}
		d, ok := s.Door.Known(c.Request.Context(), token)
		if !ok {
			refused(c, http.StatusUnauthorized, "this device is not signed in: enter the shop's PIN")
			return
		}
		c.Set(deviceKey, d.ID)
		if path == "/api/pin" || path == "/api/keep/backup" || strings.HasPrefix(path, "/api/devices/") {
			refused(c, http.StatusForbidden, "only the shop's own computer sets the PIN, signs devices out and makes backups")
		}
	}
}

func refused(c *gin.Context, status int, says string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: says})
}

// thisComputer reports whether a request comes from the computer that serves it.
func thisComputer(r *http.Request) bool {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	ip := net.ParseIP(host)
	return err == nil && ip != nil && ip.IsLoopback()
}

// ownName guards against a foreign page whose name was made to point here.
func ownName(host string) bool {
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	host = strings.Trim(host, "[]")
	return host == "localhost" || net.ParseIP(host) != nil
}

// doorState answers what a page needs to know before it is let in.
type doorState struct {
	ThisComputer bool             `json:"this_computer"`
	SignedIn     bool             `json:"signed_in"`
	PinSet       bool             `json:"pin_set"`
	Device       *door.DeviceView `json:"device"`
}

type entering struct {
	Pin  string `json:"pin"`
	Name string `json:"name"`
}

// doorRoutes stand beside the described interface, since they set a cookie.
func doorRoutes(r *gin.Engine, s *shop.Shop) {
	r.GET("/api/door", func(c *gin.Context) {
		v, err := s.Door.Door(c.Request.Context())
		if err != nil {
			refuse(c, err)
			return
		}
		st := doorState{ThisComputer: thisComputer(c.Request), PinSet: v.PinSet}
		st.SignedIn = st.ThisComputer
		if token, err := c.Cookie(doorCookie); err == nil && !st.ThisComputer {
			if d, ok := s.Door.Known(c.Request.Context(), token); ok {
				st.SignedIn, st.Device = true, &d
			}
		}
		c.JSON(http.StatusOK, st)
	})
	r.POST("/api/door", func(c *gin.Context) {
		var in entering
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 4096)
		if err := c.ShouldBindJSON(&in); err != nil {
			refused(c, http.StatusBadRequest, `send {"pin": "…", "name": "…"}`)
			return
		}
		from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
		if err != nil {
			from = c.Request.RemoteAddr
		}
		token, d, err := s.Door.Enter(c.Request.Context(), from, in.Pin, in.Name)
		if err != nil {
			refuse(c, err)
			return
		}
		http.SetCookie(c.Writer, &http.Cookie{Name: doorCookie, Value: token, Path: "/", MaxAge: 365 * 86400, HttpOnly: true, SameSite: http.SameSiteStrictMode})
		c.JSON(http.StatusOK, gin.H{"device": d, "token": token})
	})
}
