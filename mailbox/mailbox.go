// Package mailbox is a small stand-in for a mail server: it takes messages up by SMTP, keeps each as a file, and lists them.
package mailbox

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"mime"
	"mime/quotedprintable"
	"net"
	"net/http"
	"net/mail"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Bounds of what is taken up.
const (
	maxBytes    = 1 << 20
	maxTo       = 20
	maxMessages = 10_000
	within      = 20 * time.Second
)

// Message is one that was taken up.
type Message struct {
	File    string    `json:"file"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Text    string    `json:"text"`
	At      time.Time `json:"at"`
}

// Mailbox keeps messages in a folder.
type Mailbox struct {
	folder string
	mu     sync.Mutex
	n      int
}

// Open opens a folder, which is made where it is not there.
func Open(folder string) (*Mailbox, error) {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made: %w", folder, err)
	}
	m := &Mailbox{folder: folder}
	names, err := m.names()
	for _, name := range names { // some may have been thrown away
		if n, err := strconv.Atoi(strings.TrimSuffix(filepath.Base(name), ".eml")); err == nil {
			m.n = max(m.n, n)
		}
	}
	return m, err
}

func (m *Mailbox) names() ([]string, error) {
	names, err := filepath.Glob(filepath.Join(m.folder, "*.eml"))
	slices.Sort(names)
	return names, err
}

// Serve takes messages up by SMTP until the context ends.
func (m *Mailbox) Serve(ctx context.Context, l net.Listener) error {
	s := smtp.NewServer(m)
	s.Domain, s.MaxMessageBytes, s.MaxRecipients = "localhost", maxBytes, maxTo
	s.ReadTimeout, s.WriteTimeout = within, within
	stop := context.AfterFunc(ctx, func() { _ = s.Close() }) // Serve says what is wrong
	defer stop()
	if err := s.Serve(l); err != nil && ctx.Err() == nil {
		return err
	}
	return nil
}

// NewSession begins to take messages up.
func (m *Mailbox) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{box: m}, nil }

type session struct{ box *Mailbox }

func (s *session) Mail(string, *smtp.MailOptions) error { return nil }
func (s *session) Rcpt(string, *smtp.RcptOptions) error { return nil }
func (s *session) Reset()                               {}
func (s *session) Logout() error                        { return nil }

// Data keeps one message.
func (s *session) Data(r io.Reader) error {
	data, err := io.ReadAll(io.LimitReader(r, maxBytes))
	if err != nil {
		return err
	}
	s.box.mu.Lock()
	defer s.box.mu.Unlock()
	if s.box.n >= maxMessages {
		return errors.New("the mailbox is full")
	}
	s.box.n++
	return os.WriteFile(filepath.Join(s.box.folder, fmt.Sprintf("%05d.eml", s.box.n)), data, 0o644)
}

// Messages lists what was taken up, the newest first; one that cannot be read is named.
func (m *Mailbox) Messages() ([]Message, error) {
	names, err := m.names()
	if err != nil {
		return nil, err
	}
	list := []Message{}
	for _, name := range slices.Backward(names) {
		data, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		list = append(list, read(filepath.Base(name), data))
	}
	return list, nil
}

func read(name string, data []byte) Message {
	out := Message{File: name}
	m, err := mail.ReadMessage(bytes.NewReader(data))
	if err != nil {
		out.Subject = "cannot be read: " + err.Error()
		return out
	}
	words := new(mime.WordDecoder)
	if out.Subject, err = words.DecodeHeader(m.Header.Get("Subject")); err != nil {
		out.Subject = m.Header.Get("Subject")
	}
	out.From, out.To = m.Header.Get("From"), m.Header.Get("To")
	out.At, _ = m.Header.Date() // absent where it is none
	body := m.Body
	if strings.EqualFold(m.Header.Get("Content-Transfer-Encoding"), "quoted-printable") {
		body = quotedprintable.NewReader(body)
	}
	text, err := io.ReadAll(body)
	if err != nil {
		text = append(text, "\n(the rest cannot be read)"...)
	}
	out.Text = strings.ReplaceAll(string(text), "\r\n", "\n")
	return out
}

var page = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Mailbox</title>
<style>body{font:15px/1.5 serif;max-width:46em;margin:2em auto;background:#f6f3ec;color:#1b1e25}article{border-top:1px solid #bdbab1;padding:.6em 0}pre{font:inherit;white-space:pre-wrap;margin:.3em 0}small{color:#5d626c}</style>
<h1>Mailbox</h1>{{range .}}<article><b>{{.Subject}}</b><br><small>{{.From}} to {{.To}}, {{.At.Format "2 January 15:04"}}</small><pre>{{.Text}}</pre></article>{{else}}<p>Nothing yet.</p>{{end}}</html>`))

// ServeHTTP lists the messages: as a page, and at /messages as JSON.
func (m *Mailbox) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	list, err := m.Messages()
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	if r.URL.Path == "/messages" {
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(list) // the other side is gone
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = page.Execute(w, list) // the other side is gone
}
