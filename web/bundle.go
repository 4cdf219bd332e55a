package web

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"os"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"idlehiss/bundle"
	"idlehiss/desk"
	"idlehiss/shop"
)

// largestBundle is as large as one may be that comes from a page, bytes; the command line takes any.
const largestBundle = 1 << 30

const zipType = "application/zip"

// bundleIn is how long one may be on its way.
const bundleIn = 20 * time.Minute

// bundleRoutes are described by hand: what goes through them is files.
func bundleRoutes(r *gin.Engine, api huma.API, s *shop.Shop) {
	doc := api.OpenAPI()
	plan := &huma.MediaType{Schema: doc.Components.Schemas.Schema(reflect.TypeFor[bundle.Takeover](), true, "")}
	file := &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}
	describe := func(id, method, path, summary string, params []*huma.Param, body *huma.RequestBody, kind string, answer *huma.MediaType) {
		doc.AddOperation(&huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, Parameters: params, RequestBody: body,
			Responses: map[string]*huma.Response{"200": {Description: summary, Content: map[string]*huma.MediaType{kind: answer}}}})
	}
	in := &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{zipType: file}}
	text := func(name string) *huma.Param {
		return &huma.Param{Name: name, In: "query", Schema: &huma.Schema{Type: huma.TypeString}}
	}
	describe("bundle", http.MethodGet, "/api/bundle", "A job, a machine or the whole book as a bundle", []*huma.Param{text("job"), text("machine")}, nil, zipType, file)
	describe("look-at-bundle", http.MethodPost, "/api/bundle/look", "What taking a bundle over would do", nil, in, "application/json", plan)
	describe("take-bundle", http.MethodPost, "/api/bundle", "Take a bundle over", []*huma.Param{text("by"), text("device")}, in, "application/json", plan)
	r.GET("/api/bundle", func(c *gin.Context) { sendBundle(c, s) })
	r.POST("/api/bundle/look", func(c *gin.Context) {
		takeBundle(c, func(f bundle.From) (bundle.Takeover, error) { return s.Bundles.Look(c.Request.Context(), f) })
	})
	r.POST("/api/bundle", func(c *gin.Context) {
		w := desk.Write{ID: desk.NewID(), By: c.Query("by"), Device: c.Query("device")}
		if len(w.By) > mostName || len(w.Device) > mostName {
			refused(c, http.StatusUnprocessableEntity, "a name has sixty letters at most")
			return
		}
		if v := visiting(c); v.device != nil && !v.here {
			w.SentBy(v.device.Name, cmp.Or(v.device.Person, v.device.Name))
		}
		takeBundle(c, func(f bundle.From) (bundle.Takeover, error) { return s.Bundles.Take(c.Request.Context(), w, f) })
	})
}

// sendBundle writes a bundle as it is made. What breaks off in the middle breaks the download: half a zip is none.
func sendBundle(c *gin.Context, s *shop.Shop) {
	w := bundle.Asked(c.Query("job"), c.Query("machine"))
	found, err := s.Bundles.Find(c.Request.Context(), w)
	if err != nil {
		refuse(c, desk.Sought(err))
		return
	}
	now, _ := s.Now()
	c.Header("Content-Type", zipType)
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", found.FileName(now)))
	if err := s.Bundles.Write(c.Request.Context(), c.Writer, found); err != nil {
		slog.Error("a bundle broke off", "of", w.Of, "id", w.ID, "error", err)
		panic(http.ErrAbortHandler)
	}
}

// takeBundle keeps what is sent in a file for as long as it is looked at.
func takeBundle(c *gin.Context, do func(bundle.From) (bundle.Takeover, error)) {
	file, err := os.CreateTemp("", "idlehiss-bundle-*")
	if err != nil {
		refuse(c, err)
		return
	}
	defer os.Remove(file.Name())
	defer file.Close()
	conn := http.NewResponseController(c.Writer)
	_ = conn.SetReadDeadline(time.Now().Add(bundleIn)) // a recorder has none
	size, err := io.Copy(file, http.MaxBytesReader(c.Writer, c.Request.Body, largestBundle))
	_ = conn.SetReadDeadline(time.Time{})
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
