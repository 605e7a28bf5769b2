package standin

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"yugen/instrument"
)

// sign is how often a stream without news says that it is there.
const sign = 5 * time.Second

// Handler serves the protocol.
func (i *Instrument) Handler() http.Handler {
	handlers := map[string]http.HandlerFunc{
		"instrument": func(w http.ResponseWriter, _ *http.Request) { answer(w, i.about) },
		"state":      func(w http.ResponseWriter, _ *http.Request) { answer(w, i.State()) },
		"list": func(w http.ResponseWriter, r *http.Request) {
			var asked instrument.Asked
			i.asked(w, r, &asked, func() error { return i.Take(asked.List, asked.Who) })
		},
		"act": func(w http.ResponseWriter, r *http.Request) {
			var a instrument.Act
			i.asked(w, r, &a, func() error { return i.Do(a) })
		},
		"events": i.stream,
		"heard": func(w http.ResponseWriter, r *http.Request) {
			var h instrument.Heard
			if read(w, r, &h) {
				i.Heard(h.N)
				answer(w, h)
			}
		},
		"faults": func(w http.ResponseWriter, _ *http.Request) { answer(w, instrument.Faults{Names: i.Faults()}) },
		"fault": func(w http.ResponseWriter, r *http.Request) {
			var f instrument.Fault
			i.asked(w, r, &f, func() error { return i.Fault(f.Name) })
		},
	}
	mux := http.NewServeMux()
	for _, op := range instrument.Operations {
		mux.HandleFunc(op.Method+" /api"+op.Path, handlers[op.ID])
	}
	// A page of another place must not command an instrument on this computer: what it sends without asking first is no JSON.
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet && r.Header.Get("Content-Type") != "application/json" {
			refused(w, http.StatusUnsupportedMediaType, "what is sent must be application/json")
			return
		}
		mux.ServeHTTP(w, r)
	})
}

func answer(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v) // the other side is gone
}

func refused(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(instrument.Refusal{Detail: detail}) // the other side is gone
}

func read(w http.ResponseWriter, r *http.Request, into any) bool {
	d := json.NewDecoder(http.MaxBytesReader(w, r.Body, instrument.MaxBody))
	d.DisallowUnknownFields()
	err := d.Decode(into)
	if err == nil {
		if _, after := d.Token(); !errors.Is(after, io.EOF) {
			err = errors.New("there is more behind the JSON value")
		}
	}
	if err != nil {
		refused(w, http.StatusBadRequest, "the request cannot be read: "+err.Error())
	}
	return err == nil
}

func (i *Instrument) asked(w http.ResponseWriter, r *http.Request, into any, do func() error) {
	if !read(w, r, into) {
		return
	}
	if err := do(); err != nil {
		refused(w, http.StatusUnprocessableEntity, instrument.Sentence(err, ErrRefused))
		return
	}
	answer(w, i.State())
}

// stream tells events as they come.
func (i *Instrument) stream(w http.ResponseWriter, r *http.Request) {
	after, err := strconv.ParseInt(r.URL.Query().Get("after"), 10, 64)
	if err != nil && r.URL.Query().Get("after") != "" || after < 0 {
		refused(w, http.StatusBadRequest, "after is the number of an event")
		return
	}
	w.Header().Set("Content-Type", "text/event-stream")
	flusher := http.NewResponseController(w)
	for {
		list, more := i.Since(after)
		for _, e := range list {
			line, err := e.Line()
			if err != nil {
				return
			}
			if _, err := fmt.Fprintf(w, "id: %d\ndata: %s\n\n", e.N, line); err != nil {
				return
			}
			after = e.N
		}
		if len(list) == 0 {
			_, _ = io.WriteString(w, ": still here\n\n") // an error shows at the flush
		}
		if flusher.Flush() != nil {
			return
		}
		if len(list) > 0 {
			continue
		}
		select {
		case <-r.Context().Done():
			return
		case <-more:
		case <-time.After(sign):
		}
	}
}
