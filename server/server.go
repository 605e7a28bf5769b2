// Package server answers HTTP: routes, requests, responses, events and the embedded front end. No rule of the job lives here.
package server

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"yugen/jobs"
	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

//go:embed all:dist
var dist embed.FS

// maxJSON bounds the body of a request that is not a file.
const maxJSON = 8 << 20

// New makes the handler for a lab.
func New(l *lab.Lab, in Entrance) (http.Handler, error) {
	s := &server{lab: l, entrance: in}
	s.newSessions()
	e := echo.New()
	e.HTTPErrorHandler = answerError
	e.Use(middleware.Recover(), onlyFrom(in.Hosts), s.headers, s.placed)
	for _, op := range s.operations() {
		e.Add(op.method, "/api"+op.path, s.typed(op))
	}
	for _, r := range s.streams() {
		e.Add(r.method, "/api"+r.path, s.streamed(r))
	}
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return nil, err
	}
	e.GET("/*", page(files))
	if in.People {
		return s.sessions.LoadAndSave(e), nil
	}
	return e, nil
}

type server struct {
	lab      *lab.Lab
	entrance Entrance
	sessions *scs.SessionManager
	line     chan struct{} // of those who sign in
}

// call is one request to an operation.
type call struct {
	*echo.Context
	actor    people.Actor
	who      string // the actor's name
	revision int    // that the caller read, from If-Match; 0 when not said
}

// operation is one typed request and answer. The table of them is also what the contract is written from.
type operation struct {
	method, path, id, summary string
	query                     []string
	body                      any // nil, or a pointer to a zero value
	answer                    any
	handle                    func(c *call, body any) (any, error)
}

// changes tells whether an operation changes a batch: it is then asked for what the caller had read.
func (op operation) changes() bool {
	_, view := op.answer.(View)
	return view && op.method != http.MethodGet || op.id == "sign" // who signs says what was seen
}

// readRevision takes the revision that the caller read from If-Match. A change without it is refused, so that nobody writes over what he has not seen;
// * says that this is wanted.
func (c *call) readRevision(wanted bool) error {
	tag := strings.TrimSpace(c.Request().Header.Get("If-Match"))
	switch {
	case tag == "" && wanted:
		return problem{Status: http.StatusPreconditionRequired, Detail: "A change must say which revision it is of: send If-Match with the ETag that was read, or * for any."}
	case tag == "" || tag == "*":
		return nil
	}
	n, err := strconv.Atoi(strings.Trim(tag, `"`))
	if err != nil || n < 1 || !strings.HasPrefix(tag, `"`) {
		return problem{Status: http.StatusBadRequest, Detail: "If-Match must hold the ETag that was read, in its quotes."}
	}
	c.revision = n
	return nil
}

// readJSON takes a body that is one JSON value of known fields and nothing more.
func readJSON(c *echo.Context, into any) error {
	d := json.NewDecoder(http.MaxBytesReader(c.Response(), c.Request().Body, maxJSON))
	d.DisallowUnknownFields()
	err := d.Decode(into)
	if err == nil {
		if _, after := d.Token(); errors.Is(after, io.EOF) {
			return nil
		} else if err = after; after == nil {
			err = errors.New("there is more behind the JSON value")
		}
	}
	var large *http.MaxBytesError
	var wrong *json.UnmarshalTypeError
	switch {
	case errors.As(err, &large):
		return problem{Status: http.StatusRequestEntityTooLarge, Detail: fmt.Sprintf("The request is larger than %d MB.", maxJSON>>20)}
	case errors.As(err, &wrong):
		return problem{Status: http.StatusBadRequest, Detail: fmt.Sprintf("The request cannot be read: %s cannot be a %s.", wrong.Field, wrong.Value), Pointer: "/" + strings.ReplaceAll(wrong.Field, ".", "/")}
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return problem{Status: http.StatusBadRequest, Detail: "The request cannot be read: its JSON is not complete."}
	}
	return problem{Status: http.StatusBadRequest, Detail: "The request cannot be read: " + err.Error() + "."}
}

func (s *server) typed(op operation) echo.HandlerFunc {
	return func(c *echo.Context) error {
		actor, err := s.may(c, op.id, op.method)
		if err != nil {
			return err
		}
		call := &call{Context: c, actor: actor, who: actor.Name}
		if err := call.readRevision(op.changes()); err != nil {
			return err
		}
		var body any
		if op.body != nil {
			body = fresh(op.body)
			if err := readJSON(c, body); err != nil {
				return err
			}
		}
		answer, err := op.handle(call, body)
		if err != nil {
			return err
		}
		if v, ok := answer.(View); ok {
			c.Response().Header().Set("ETag", fmt.Sprintf(`"%d"`, v.Batch.Revision))
		}
		return c.JSON(http.StatusOK, answer)
	}
}

// takesOut are the routes by which a copy of results, a report or the record leaves; the record tells of each.
var takesOut = map[string]bool{
	"report": true, "resultsCSV": true, "table": true, "summaryCSV": true, "summaryXLSX": true, "resolvedCSV": true, "resolvedXLSX": true, "trendsSVG": true, "trendsPDF": true,
	"resultsXLSX": true, "keptReport": true, "setFile": true, "setZip": true, "raw": true, "libraryFile": true, "recordCSV": true, "recordJSON": true,
}

// maxExportWords is how much of what was asked of an export the record tells.
const maxExportWords = 200

// streamed lets a stream through to whoever has the right for it.
func (s *server) streamed(r stream) echo.HandlerFunc {
	return func(c *echo.Context) error {
		actor, err := s.may(c, r.id, r.method)
		if err != nil {
			return err
		}
		c.Set("actor", actor)
		if takesOut[r.id] {
			what := path.Base(c.Request().URL.Path)
			if q := c.QueryString(); q != "" {
				what += "?" + q[:min(len(q), maxExportWords)]
			}
			if err := s.lab.TakenOut(c.Request().Context(), c.Param("batch"), what, actor.Name); err != nil {
				return err
			}
		}
		return r.handle(c)
	}
}

// who is the name of the actor of a stream.
func who(c *echo.Context) string {
	a, _ := c.Get("actor").(people.Actor)
	return a.Name
}

// problem is an error as a problem document (RFC 9457).
type problem struct {
	Status int    `json:"status"`
	Detail string `json:"detail"`
	// Pointer says which field of the request is wrong, as RFC 6901 has it.
	Pointer string `json:"pointer,omitempty"`
}

func (p problem) Error() string { return p.Detail }

// maxDetail is how many letters a sentence has at most: what was sent may stand in it, however long.
const maxDetail = 1000

func cut(sentence string) string {
	if letters := []rune(sentence); len(letters) > maxDetail {
		return string(letters[:maxDetail]) + " …"
	}
	return sentence
}

func answerError(c *echo.Context, err error) {
	if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Committed {
		return
	}
	p := problem{Status: http.StatusInternalServerError, Detail: "Something went wrong inside Yugen; the log says what. Nothing was changed."}
	var own problem
	var web *echo.HTTPError
	switch {
	case errors.As(err, &own):
		p = own
	case errors.Is(err, store.ErrNotFound) && err.Error() == store.ErrNotFound.Error():
		p = problem{Status: http.StatusNotFound, Detail: "It is not here: there is no batch of this address."}
	case errors.Is(err, store.ErrNotFound):
		p = problem{Status: http.StatusNotFound, Detail: "It is not here: " + lab.Reason(err)}
	case errors.Is(err, store.ErrSigned):
		p = problem{Status: http.StatusLocked, Detail: strings.TrimPrefix(lab.Reason(err), "Signed: ")}
	case errors.Is(err, store.ErrStale):
		p = problem{Status: http.StatusPreconditionFailed, Detail: "The batch was changed meanwhile, perhaps in another window. It has been read again; look, and repeat what you did."}
	case errors.Is(err, store.ErrDisk):
		slog.Error("the disk refuses", "path", c.Request().URL.Path, "error", err, "cause", errors.Unwrap(err))
		p = problem{Status: http.StatusInsufficientStorage, Detail: lab.Reason(err)}
	case errors.Is(err, lab.ErrSilent):
		p = problem{Status: http.StatusBadGateway, Detail: strings.TrimPrefix(lab.Reason(err), "Silent: ")}
	case errors.Is(err, jobs.ErrStopped):
		p = problem{Status: http.StatusConflict, Detail: "It was stopped before it was done. Ask again to start it anew."}
	case errors.Is(err, lab.ErrRefused):
		p = problem{Status: http.StatusUnprocessableEntity, Detail: lab.Reason(err), Pointer: lab.Pointer(err)}
	case errors.As(err, &web):
		p = problem{Status: web.Code, Detail: web.Message}
	default:
		var status echo.HTTPStatusCoder
		if errors.As(err, &status) {
			p = problem{Status: status.StatusCode(), Detail: http.StatusText(status.StatusCode())}
			break
		}
		if c.Request().Context().Err() == nil {
			slog.Error("request failed", "path", c.Request().URL.Path, "error", err)
		}
	}
	p.Detail = cut(p.Detail)
	body, _ := json.Marshal(struct {
		Type  string `json:"type"`
		Title string `json:"title"`
		problem
	}{"about:blank", http.StatusText(p.Status), p})
	_ = c.Blob(p.Status, "application/problem+json", body)
}

// onlyFrom refuses requests that name another host, or come from another site's page.
func onlyFrom(hosts []string) echo.MiddlewareFunc {
	allowed := map[string]bool{}
	for _, h := range hosts {
		allowed[h] = true
	}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			if !allowed[c.Request().Host] {
				return problem{Status: http.StatusForbidden, Detail: "This address is not served here."}
			}
			if origin := c.Request().Header.Get("Origin"); origin != "" {
				u, err := url.Parse(origin)
				if err != nil || !allowed[u.Host] {
					return problem{Status: http.StatusForbidden, Detail: "Requests from other sites are refused."}
				}
			}
			return next(c)
		}
	}
}

func (s *server) headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		if s.entrance.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if strings.HasPrefix(c.Request().URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		return next(c)
	}
}

// page serves the front end: hashed assets for good, and its one page for every place in the application.
func page(files fs.FS) echo.HandlerFunc {
	return func(c *echo.Context) error {
		path := strings.TrimPrefix(c.Request().URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			return problem{Status: http.StatusNotFound, Detail: "There is nothing at this address."}
		}
		if path != "" && path != "index.html" {
			if f, err := files.Open(path); err == nil {
				defer f.Close()
				if info, err := f.Stat(); err == nil && !info.IsDir() {
					if strings.HasPrefix(path, "assets/") {
						c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
					}
					http.ServeContent(c.Response(), c.Request(), path, info.ModTime(), f.(io.ReadSeeker))
					return nil
				}
			}
			if strings.HasPrefix(path, "assets/") {
				return problem{Status: http.StatusNotFound, Detail: "There is nothing at this address."}
			}
		}
		for _, name := range []string{"index.html", "placeholder.html"} {
			if html, err := fs.ReadFile(files, name); err == nil {
				c.Response().Header().Set("Cache-Control", "no-cache")
				return c.HTMLBlob(http.StatusOK, html)
			}
		}
		return problem{Status: http.StatusNotFound, Detail: "The front end is missing."}
	}
}
