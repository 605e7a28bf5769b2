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
	"time"

	"github.com/labstack/echo/v5"

	"yugen/core/channels"
	"yugen/core/signal"
	"yugen/formats"
	"yugen/lab"
	"yugen/lab/taking"
)

// stream is a route whose body or answer is not JSON alone: files in, traces and documents out, events. The table of them is also what the contract is
// written from.
type stream struct {
	method, path, id, summary string
	query                     []string
	answers                   map[int]streamAnswer
	handle                    echo.HandlerFunc
}

// streamAnswer is what comes back: a value of the contract, or content of a kind.
type streamAnswer struct {
	contentType string
	value       any
}

func (s *server) streams() []stream {
	const batchPath, injectionPath = "/batches/:batch", "/batches/:batch/injections/:injection"
	whole := func(contentType string) map[int]streamAnswer {
		return map[int]streamAnswer{http.StatusOK: {contentType: contentType}}
	}
	const xlsx = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	return []stream{
		{http.MethodPost, batchPath + "/files", "importFile", "Add a file to a batch: wait for what becomes of it, or, with later=1, until it is safe", []string{"name", "later"},
			map[int]streamAnswer{http.StatusOK: {"application/json", taking.Outcome{}}, http.StatusAccepted: {"application/json", taking.Arrived{}}}, s.importFile},
		{http.MethodPost, batchPath + "/looks", "lookAt", "Send a file to be looked at: what it holds is told, and nothing is kept until it is taken", []string{"name"},
			map[int]streamAnswer{http.StatusOK: {"application/json", taking.Looked{}}}, s.lookAt},
		{http.MethodGet, injectionPath + "/trace", "trace", "Times (s) and values of a trace as little-endian float64 pairs, reduced to the least and greatest value of each of so many columns", []string{"from", "to", "columns", "signal", "channel", "ions", "less", "lined", "reference", "heights"},
			whole("application/octet-stream"), s.trace},
		{http.MethodGet, injectionPath + "/raw", "raw", "The file of an injection as it came", nil, whole("application/octet-stream"), s.raw},
		{http.MethodGet, batchPath + "/report.pdf", "report", "A report as PDF", []string{"layout", "injection", "open"}, whole("application/pdf"), s.document("application/pdf", "report.pdf")},
		{http.MethodGet, batchPath + "/results.csv", "resultsCSV", "All results as CSV", nil, whole("text/csv"), s.document("text/csv; charset=utf-8", "results.csv")},
		{http.MethodGet, batchPath + "/table.csv", "table", "Any quantities as CSV, with their ids between commas", []string{"columns"}, whole("text/csv"), s.table},
		{http.MethodGet, batchPath + "/summary.csv", "summaryCSV", "A summary as CSV, one table for each measure or each compound", append(summaryQuery, "each", "statistics"), whole("text/csv"), s.summary("csv", "text/csv; charset=utf-8")},
		{http.MethodGet, batchPath + "/summary.xlsx", "summaryXLSX", "A summary as a workbook, whose statistics are formulas", append(summaryQuery, "each", "statistics"), whole(xlsx), s.summary("xlsx", xlsx)},
		{http.MethodGet, batchPath + "/resolved.csv", "resolvedCSV", "The compounds of a resolved batch against its samples, as CSV", nil, whole("text/csv"), s.resolved("csv", "text/csv; charset=utf-8")},
		{http.MethodGet, batchPath + "/resolved.xlsx", "resolvedXLSX", "The same as a workbook, with shares of the total as formulas", nil, whole(xlsx), s.resolved("xlsx", xlsx)},
		{http.MethodGet, batchPath + "/trends.svg", "trendsSVG", "Trends as a picture of its true size", append(trendsQuery, "style", "open"), whole("image/svg+xml"), s.figure("svg", "image/svg+xml")},
		{http.MethodGet, batchPath + "/trends.pdf", "trendsPDF", "Trends as PDF of their true size", append(trendsQuery, "style", "open"), whole("application/pdf"), s.figure("pdf", "application/pdf")},
		{http.MethodGet, batchPath + "/results.xlsx", "resultsXLSX", "All results as a workbook with formulas", nil, whole(xlsx), s.document(xlsx, "results.xlsx")},
		{http.MethodGet, batchPath + "/reports/:report", "keptReport", "A kept report as it was made", nil, whole("application/pdf"), s.keptReport},
		{http.MethodGet, batchPath + "/sets/:set/files/:position", "setFile", "A report of a set as it was made", []string{"open"}, whole("application/octet-stream"), s.setFile},
		{http.MethodGet, batchPath + "/sets/:set/reports.zip", "setZip", "All that was made of a set, with its checksums", nil, whole("application/zip"), s.setZip},
		{http.MethodPost, "/libraries/file", "takeLibrary", "Take the spectra of a file (JSON, JCAMP-DX, CSV) into a library", []string{"name"}, map[int]streamAnswer{http.StatusOK: {"application/json", lab.LibraryTaken{}}}, s.takeLibrary},
		{http.MethodGet, "/libraries/file", "libraryFile", "A library as json, csv or jdx", []string{"name", "as"}, whole("application/octet-stream"), s.libraryFile},
		{http.MethodGet, "/record.csv", "recordCSV", "Rows of the record by person, kind, batch, words and time, as CSV", recordQuery, whole("text/csv"), s.recordCSV},
		{http.MethodGet, "/record.jsonl", "recordJSON", "The same rows with what stood before and after, a line of JSON each, and a last line that signs them", recordQuery, whole("application/x-ndjson"), s.recordJSON},
		{http.MethodGet, "/openapi.json", "contract", "This contract", nil, whole("application/json"), contract},
		{http.MethodGet, "/fonts/:font", "font", "A font that reports are set in", nil, whole("font/ttf"), s.font},
		{http.MethodGet, "/events", "events", "What changes, as server-sent events: an unnamed one for a batch with its revision, one named job for a job", nil, whole("text/event-stream"), s.events},
	}
}

// importFile takes one file as the whole body; its name comes in the query. With later=1 it answers as soon as the file is safe, before it is taken in; what
// becomes of it stands among the batch's arrivals then.
func (s *server) importFile(c *echo.Context) error {
	body := &arriving{from: http.MaxBytesReader(c.Response(), c.Request().Body, formats.MaxBytes)}
	ctx, id, name := c.Request().Context(), c.Param("batch"), c.QueryParam("name")
	if c.QueryParam("later") != "" {
		out, err := s.lab.Arrive(ctx, id, name, body, who(c))
		if err != nil {
			return body.problem(err)
		}
		return c.JSON(http.StatusAccepted, out)
	}
	out, err := s.lab.Receive(ctx, id, name, body, who(c))
	if err != nil {
		return body.problem(err)
	}
	return c.JSON(http.StatusOK, out)
}

// arriving is the body of a file; it remembers how reading it failed.
type arriving struct {
	from   io.Reader
	failed error
}

func (a *arriving) Read(p []byte) (int, error) {
	n, err := a.from.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		a.failed = err
	}
	return n, err
}

// problem is what the sender is told of an error.
func (a *arriving) problem(err error) error {
	var large *http.MaxBytesError
	switch {
	case errors.As(a.failed, &large):
		return problem{Status: http.StatusRequestEntityTooLarge, Detail: fmt.Sprintf("The file is larger than %d MB.", formats.MaxBytes>>20)}
	case a.failed != nil:
		return problem{Status: http.StatusBadRequest, Detail: "The file did not arrive whole. Try again."}
	}
	return err
}

// trace answers times (s) and values as little-endian float64 pairs, reduced to the least and greatest value of each of
// the asked number of columns.
func (s *server) trace(c *echo.Context) error {
	which := lab.Asked{Channel: c.QueryParam("channel")}
	if text := c.QueryParam("signal"); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 {
			return problem{Status: http.StatusBadRequest, Detail: "signal is the place of a signal in its file, counted from 0."}
		}
		which.Place = &n
	}
	if words := c.QueryParam("ions"); words != "" {
		s, err := channels.ParseIons(words)
		if err != nil {
			return problem{Status: http.StatusBadRequest, Detail: formats.Sentence(err)}
		}
		which.Derived = &s
	}
	treatment := treatmentOf(c)
	var tr signal.Trace
	var err error
	if which.Place == nil && treatment != (lab.Treatment{}) {
		var done lab.Treated
		tr, done, err = s.lab.TreatedTrace(c.Request().Context(), c.Param("batch"), c.Param("injection"), which.Channel, treatment)
		c.Response().Header().Set("X-Shift-Min", strconv.FormatFloat(done.ShiftMin, 'f', 5, 64))
		c.Response().Header().Set("X-Factor", strconv.FormatFloat(done.Factor, 'g', 6, 64))
	} else {
		tr, err = s.lab.TraceOf(c.Request().Context(), c.Param("batch"), c.Param("injection"), which)
	}
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
			return problem{Status: http.StatusBadRequest, Detail: name + " is not a number."}
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

// table answers any quantities as delimited text.
func (s *server) table(c *echo.Context) error {
	data, err := s.lab.Table(c.Request().Context(), c.Param("batch"), between(c.QueryParam("columns")))
	if err != nil {
		return err
	}
	attach(c, "table.csv")
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", data)
}

// summaryQuery are the parameters that say what a summary is of.
var summaryQuery = []string{"measures", "columns", "of", "by", "batches"}

func summaryAsked(c *echo.Context) lab.SummaryAsked {
	return lab.SummaryAsked{Measures: between(c.QueryParam("measures")), Columns: unescaped(between(c.QueryParam("columns"))), Of: c.QueryParam("of"), By: c.QueryParam("by"), Batches: between(c.QueryParam("batches"))}
}

// unescaped are words in which commas, as in the name of a group, were escaped once more so that they do not part them.
func unescaped(list []string) []string {
	for k, word := range list {
		if whole, err := url.PathUnescape(word); err == nil {
			list[k] = whole
		}
	}
	return list
}

// between are the words between commas.
func between(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return r == ',' })
}

func (s *server) summary(as, contentType string) echo.HandlerFunc {
	return func(c *echo.Context) error {
		data, err := s.lab.SummaryFile(c.Request().Context(), c.Param("batch"), summaryAsked(c), c.QueryParam("each"), between(c.QueryParam("statistics")), as)
		if err != nil {
			return err
		}
		attach(c, "summary."+as)
		return c.Blob(http.StatusOK, contentType, data)
	}
}

func (s *server) resolved(as, contentType string) echo.HandlerFunc {
	return func(c *echo.Context) error {
		data, err := s.lab.ResolvedFile(c.Request().Context(), c.Param("batch"), as)
		if err != nil {
			return err
		}
		attach(c, "resolved."+as)
		return c.Blob(http.StatusOK, contentType, data)
	}
}

func (s *server) figure(as, contentType string) echo.HandlerFunc {
	return func(c *echo.Context) error {
		data, err := s.lab.TrendsFigure(c.Request().Context(), c.Param("batch"), trendsAsked(c), c.QueryParam("style"), as)
		if err != nil {
			return err
		}
		if c.QueryParam("open") == "" {
			attach(c, "trends."+as)
		}
		return c.Blob(http.StatusOK, contentType, data)
	}
}

// treatmentOf is what is to be done to traces for looking at them.
func treatmentOf(c *echo.Context) lab.Treatment {
	return lab.Treatment{Less: c.QueryParam("less"), LinedUp: c.QueryParam("lined"), To: c.QueryParam("reference"), Heights: c.QueryParam("heights")}
}

func attach(c *echo.Context, name string) {
	c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(name))
}

func (s *server) raw(c *echo.Context) error {
	name, came, err := s.lab.RawOf(c.Request().Context(), c.Param("batch"), c.Param("injection"))
	if err != nil {
		return err
	}
	attach(c, name)
	c.Response().Header().Set("Content-Type", "application/octet-stream")
	http.ServeContent(c.Response(), c.Request(), "", time.Time{}, came)
	return nil
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

func (s *server) font(c *echo.Context) error {
	data := lab.Font(c.Param("font"))
	if data == nil {
		return problem{Status: http.StatusNotFound, Detail: "There is no font of this name."}
	}
	c.Response().Header().Set("Cache-Control", "public, max-age=31536000")
	return c.Blob(http.StatusOK, "font/ttf", data)
}

// events tells open windows which batch or job has changed, as server-sent events.
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
	asked := time.NewTicker(s.entrance.stillThere())
	defer asked.Stop()
	for {
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-asked.C: // a stream that stays open ends with the session it was opened in
			if err := s.still(c); err != nil {
				return nil
			}
		case e := <-changes:
			kind, about := "message", any(e)
			if e.Job != nil {
				kind, about = "job", e.Job
			}
			text, err := json.Marshal(about)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(w, "event: %s\ndata: %s\n\n", kind, text); err != nil {
				return nil // the window is gone
			}
			_ = flush.Flush()
		}
	}
}
