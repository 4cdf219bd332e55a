package web

import (
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"os"
	"time"

	"github.com/gin-gonic/gin"

	"idlehiss/bundle"
	"idlehiss/desk"
	"idlehiss/logbook"
	"idlehiss/shop"
)

// largestBundle is as large as one may be that comes from a page, bytes; the command line takes any.
const largestBundle = 1 << 30

// bundleIn is how long one may be on its way.
const bundleIn = 20 * time.Minute

// bundleRoutes stand beside the described interface: what goes through them is files.
func bundleRoutes(r *gin.Engine, s *shop.Shop) {
	r.GET("/api/bundle", func(c *gin.Context) { sendBundle(c, s) })
	r.POST("/api/bundle/look", func(c *gin.Context) {
		takeBundle(c, func(f bundle.From) (bundle.Plan, error) { return s.Bundles.Look(c.Request.Context(), f) })
	})
	r.POST("/api/bundle", func(c *gin.Context) {
		w := desk.Write{ID: desk.NewID(), By: c.Query("by"), Device: c.Query("device")}
		if len(w.By) > mostName || len(w.Device) > mostName {
			refused(c, http.StatusUnprocessableEntity, "a name has sixty letters at most")
			return
		}
		if v := visiting(c); v.device != nil && !v.here {
			w.SentBy(v.device.Name, v.device.Person)
		}
		takeBundle(c, func(f bundle.From) (bundle.Plan, error) { return s.Bundles.Take(c.Request.Context(), w, f) })
	})
}

// sendBundle writes a bundle as it is made. What breaks off in the middle breaks the download: half a zip is none.
func sendBundle(c *gin.Context, s *shop.Shop) {
	w := bundle.Asked(c.Query("job"), c.Query("machine"))
	found, err := s.Bundles.Find(c.Request.Context(), w)
	if errors.Is(err, logbook.ErrNotFound) {
		err = desk.NotThere(err)
	}
	if err != nil {
		refuse(c, err)
		return
	}
	now, _ := s.Now()
	c.Header("Content-Type", "application/zip")
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", found.FileName(now)))
	if err := s.Bundles.Write(c.Request.Context(), c.Writer, found); err != nil {
		slog.Error("a bundle broke off", "of", w.Of, "id", w.ID, "error", err)
		panic(http.ErrAbortHandler)
	}
}

// takeBundle keeps what is sent in a file for as long as it is looked at.
func takeBundle(c *gin.Context, do func(bundle.From) (bundle.Plan, error)) {
	file, err := os.CreateTemp("", "idlehiss-bundle-*")
	if err != nil {
		refuse(c, err)
		return
	}
	defer os.Remove(file.Name())
	defer file.Close()
	_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(bundleIn)) // a recorder has none
	size, err := io.Copy(file, http.MaxBytesReader(c.Writer, c.Request.Body, largestBundle))
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		refused(c, http.StatusRequestEntityTooLarge, "this is larger than a bundle that a page may send: use idlehiss import")
		return
	}
	if err != nil {
		refused(c, http.StatusBadRequest, "the file did not arrive whole: send it again")
		return
	}
	plan, err := do(bundle.From{ReaderAt: file, Size: size})
	if err != nil {
		refuse(c, err)
		return
	}
	c.JSON(http.StatusOK, plan)
}
