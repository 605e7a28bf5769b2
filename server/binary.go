package server

import (
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"yugen/formats"
)

// binary adds the routes whose bodies are not JSON: files in, traces and documents out, events.
func (s *server) binary(e *echo.Echo) {
	e.POST("/api/batches/:batch/files", s.importFile)
	e.GET("/api/batches/:batch/injections/:injection/trace", s.trace)
	e.GET("/api/batches/:batch/injections/:injection/raw", s.raw)
	e.GET("/api/batches/:batch/report.pdf", s.document("application/pdf", "report.pdf"))
	e.GET("/api/batches/:batch/results.csv", s.document("text/csv; charset=utf-8", "results.csv"))
	e.GET("/api/batches/:batch/results.xlsx", s.document("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "results.xlsx"))
	e.GET("/api/batches/:batch/reports/:report", s.keptReport)
	e.GET("/api/events", s.events)
}

// importFile takes one file as the whole body; its name comes in the query.
func (s *server) importFile(c *echo.Context) error {
	data, err := io.ReadAll(http.MaxBytesReader(c.Response(), c.Request().Body, formats.MaxBytes))
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		return problem{http.StatusRequestEntityTooLarge, fmt.Sprintf("The file is larger than %d MB.", formats.MaxBytes>>20)}
	}
	if err != nil {
		return problem{http.StatusBadRequest, "The file did not arrive whole. Try again."}
	}
	out, err := s.lab.Import(c.Request().Context(), c.Param("batch"), c.QueryParam("name"), data, s.who(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// trace answers times (s) and values as little-endian float64 pairs, reduced to the least and greatest value of each of
// the asked number of columns.
func (s *server) trace(c *echo.Context) error {
	tr, err := s.lab.TraceOf(c.Request().Context(), c.Param("batch"), c.Param("injection"))
	if err != nil {
		return err
	}
	from, to, columns := tr.StartS, tr.EndS(), 2000.0
	for name, into := range map[string]*float64{"from": &from, "to": &to, "columns": &columns} {
		text := c.QueryParam(name)
		if text == "" {
			continue
		}
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return problem{http.StatusBadRequest, name + " is not a number."}
		}
		*into = v
	}
	times, values := tr.Envelope(from, to, int(math.Max(1, math.Min(columns, 20000))))
	out := make([]byte, 0, 16*len(times))
	for i := range times {
		out = binary.LittleEndian.AppendUint64(out, math.Float64bits(times[i]))
		out = binary.LittleEndian.AppendUint64(out, math.Float64bits(values[i]))
	}
	return c.Blob(http.StatusOK, "application/octet-stream", out)
}

func attach(c *echo.Context, name string) {
	c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(name))
}

func (s *server) raw(c *echo.Context) error {
	name, data, err := s.lab.RawOf(c.Request().Context(), c.Param("batch"), c.Param("injection"))
	if err != nil {
		return err
	}
	attach(c, name)
	return c.Blob(http.StatusOK, "application/octet-stream", data)
}

func (s *server) document(contentType, name string) echo.HandlerFunc {
	return func(c *echo.Context) error {
		data, err := s.lab.Document(c.Request().Context(), c.Param("batch"), name, c.QueryParam("layout"), c.QueryParam("injection"))
		if err != nil {
			return err
		}
		if c.QueryParam("open") == "" {
			attach(c, name)
		}
		return c.Blob(http.StatusOK, contentType, data)
	}
}

func (s *server) keptReport(c *echo.Context) error {
	data, err := s.lab.KeptReport(c.Request().Context(), c.Param("batch"), strings.TrimSuffix(c.Param("report"), ".pdf"))
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "application/pdf", data)
}

// events tells open windows which batch has changed, as server-sent events.
func (s *server) events(c *echo.Context) error {
	changes, stop := s.lab.Watch()
	defer stop()
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	flush := http.NewResponseController(w)
	if _, err := io.WriteString(w, ": open\n\n"); err != nil {
		return nil
	}
	_ = flush.Flush()
	for {
		select {
		case <-c.Request().Context().Done():
			return nil
		case e := <-changes:
			text, err := json.Marshal(e)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(w, "data: %s\n\n", text); err != nil {
				return nil // the window is gone
			}
			_ = flush.Flush()
		}
	}
}
