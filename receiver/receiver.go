// Package receiver is a small stand-in for a laboratory's information system: it takes up documents that are sent to it, keeps them in a folder, and lists them.
package receiver

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

// Document is one that was taken up.
type Document struct {
	Name   string    `json:"name"`
	SHA256 string    `json:"sha256"`
	Size   int64     `json:"size"`
	At     time.Time `json:"taken_up_at"`
}

// Receiver takes documents up into a folder.
type Receiver struct {
	folder string
	mu     sync.Mutex
	list   []Document
}

// Bounds of what is taken up.
const (
	maxBytes     = 64 << 20
	maxName      = 300
	maxDocuments = 100_000
)

const listFile = "taken-up.jsonl"

// Open opens a folder with what was taken up before.
func Open(folder string) (*Receiver, error) {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made: %w", folder, err)
	}
	r := &Receiver{folder: folder}
	data, err := os.ReadFile(filepath.Join(folder, listFile))
	if errors.Is(err, os.ErrNotExist) {
		return r, nil
	}
	if err != nil {
		return nil, err
	}
	if n := len(data); n > 0 && data[n-1] != '\n' { // the power failed in the middle of a line: the next one begins on its own
		if err := r.write([]byte("\n")); err != nil {
			return nil, err
		}
	}
	for _, line := range strings.Split(string(data), "\n") {
		var d Document
		if json.Unmarshal([]byte(line), &d) == nil { // a line that was cut off is of a document that is sent again
			r.list = append(r.list, d)
		}
	}
	return r, nil
}

// ServeHTTP takes a document up (PUT /documents/SHA256?name=), hands it back (GET /documents/SHA256), lists all as JSON (GET /documents) and on a page (GET /).
func (r *Receiver) ServeHTTP(w http.ResponseWriter, q *http.Request) {
	hash, one := strings.CutPrefix(q.URL.Path, "/documents/")
	switch {
	case q.Method == http.MethodPut && one:
		r.take(w, q, hash)
	case q.Method == http.MethodGet && one && known(hash):
		http.ServeFile(w, q, filepath.Join(r.folder, hash))
	case q.Method == http.MethodGet && q.URL.Path == "/documents":
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(r.Documents())
	case q.Method == http.MethodGet && q.URL.Path == "/":
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_ = page.Execute(w, r.Documents())
	default:
		http.NotFound(w, q)
	}
}

// Documents are those that were taken up, in the order in which they came.
func (r *Receiver) Documents() []Document {
	r.mu.Lock()
	defer r.mu.Unlock()
	return append([]Document{}, r.list...)
}

func known(hash string) bool {
	raw, err := hex.DecodeString(hash)
	return err == nil && len(raw) == sha256.Size && hash == strings.ToLower(hash)
}

func (r *Receiver) take(w http.ResponseWriter, q *http.Request, hash string) {
	name := q.URL.Query().Get("name")
	if name == "" || len(name) > maxName {
		http.Error(w, "a document needs a name of at most 300 letters", http.StatusBadRequest)
		return
	}
	data, err := io.ReadAll(http.MaxBytesReader(w, q.Body, maxBytes))
	if err != nil {
		http.Error(w, "the document was not sent to its end, or is larger than 64 MB", http.StatusRequestEntityTooLarge)
		return
	}
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != hash {
		http.Error(w, "the document is not what its checksum says; send it again", http.StatusUnprocessableEntity)
		return
	}
	created, err := r.keep(Document{name, hash, int64(len(data)), time.Now().UTC()}, data)
	switch {
	case err != nil:
		http.Error(w, "it could not be kept: "+err.Error(), http.StatusInsufficientStorage)
	case created:
		w.WriteHeader(http.StatusCreated)
	default: // it is here already: sent again it changes nothing
		w.WriteHeader(http.StatusOK)
	}
}

func (r *Receiver) keep(d Document, data []byte) (created bool, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, have := range r.list {
		if have.SHA256 == d.SHA256 && have.Name == d.Name {
			return false, nil
		}
	}
	if len(r.list) >= maxDocuments {
		return false, errors.New("the list is full")
	}
	part := filepath.Join(r.folder, ".part")
	if err := os.WriteFile(part, data, 0o644); err != nil {
		return false, err
	}
	if err := os.Rename(part, filepath.Join(r.folder, d.SHA256)); err != nil {
		return false, err
	}
	line, err := json.Marshal(d)
	if err != nil {
		return false, err
	}
	if err := r.write(append(line, '\n')); err != nil {
		return false, err
	}
	r.list = append(r.list, d)
	return true, nil
}

// write adds to the list on disk.
func (r *Receiver) write(line []byte) error {
	f, err := os.OpenFile(filepath.Join(r.folder, listFile), os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(line)
	return errors.Join(err, f.Sync(), f.Close())
}

var page = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Taken up</title>
<style>body{font:14px/1.5 serif;margin:40px auto;max-width:900px;color:#1b1e25;background:#f7f5ef}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:3px 10px 3px 0;border-bottom:1px solid #dbd6ca;font-variant-numeric:tabular-nums}td.n{text-align:right}</style></head>
<body><h1>Taken up</h1><p>{{len .}} documents. This is a stand-in for a laboratory's information system.</p>
<table><tr><th>When, UTC</th><th>Name</th><th>Bytes</th><th>SHA-256</th></tr>
{{range .}}<tr><td>{{.At.Format "2006-01-02 15:04:05"}}</td><td><a href="/documents/{{.SHA256}}">{{.Name}}</a></td><td class="n">{{.Size}}</td><td>{{slice .SHA256 0 12}}</td></tr>
{{end}}</table></body></html>
`))
