package lab

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"mime"
	"mime/quotedprintable"
	"net"
	"net/mail"
	"net/smtp"
	"net/url"
	"slices"
	"strings"
	"time"

	"yugen/jobs"
)

// Messages is where messages go when work has ended or something wants somebody.
type Messages struct {
	server   string // host and port
	from, to mail.Address
	queue    chan message
	again    time.Duration
	patience time.Duration
}

type message struct {
	subject, text string
	since         time.Time
}

const (
	maxMessages     = 200 // that wait
	messageAgain    = 15 * time.Second
	messagePatience = time.Hour
)

// NewMessages reads where messages go: a server as smtp://127.0.0.1:2525, and an address.
func NewMessages(server, to, from string) (*Messages, error) {
	u, err := url.Parse(server)
	if err != nil || u.Scheme != "smtp" || u.Port() == "" {
		return nil, refuse("%q is no mail server; it is as smtp://127.0.0.1:2525", server)
	}
	m := &Messages{server: u.Host, queue: make(chan message, maxMessages), again: messageAgain, patience: messagePatience}
	for _, one := range []struct {
		text string
		into *mail.Address
	}{{to, &m.to}, {from, &m.from}} {
		address, err := mail.ParseAddress(one.text)
		if err != nil {
			return nil, refuse("%q is no address for messages", one.text)
		}
		*one.into = *address
	}
	return m, nil
}

// message puts a message in line; where nobody wants any, or too many wait, there is none.
func (l *Lab) message(subject, format string, args ...any) {
	if l.Messages == nil {
		return
	}
	select {
	case l.Messages.queue <- message{subject, fmt.Sprintf(format, args...), time.Now()}:
	default:
		slog.Error("too many messages wait; one is not sent", "subject", subject)
	}
}

// Send sends messages until the context ends. One that cannot be sent is tried again, and given up after an hour.
func (m *Messages) Send(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case one := <-m.queue:
			for {
				err := m.send(one)
				if err == nil {
					break
				}
				if time.Since(one.since) > m.patience {
					slog.Error("a message cannot be sent", "subject", one.subject, "error", err)
					break
				}
				select {
				case <-ctx.Done():
					slog.Error("a message was not sent", "subject", one.subject, "error", err)
					return
				case <-time.After(m.again):
				}
			}
		}
	}
}

func (m *Messages) send(one message) error {
	var b bytes.Buffer
	fmt.Fprintf(&b, "From: %s\r\nTo: %s\r\nSubject: %s\r\nDate: %s\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n",
		&m.from, &m.to, mime.QEncoding.Encode("utf-8", one.subject), one.since.Format(time.RFC1123Z))
	w := quotedprintable.NewWriter(&b)
	_, err := w.Write([]byte(strings.ReplaceAll(strings.ReplaceAll(one.text, "\r\n", "\n"), "\n", "\r\n") + "\r\n"))
	if err = errors.Join(err, w.Close()); err != nil {
		return err
	}
	c, err := net.DialTimeout("tcp", m.server, sendWithin)
	if err != nil {
		return err
	}
	defer c.Close()
	if err := c.SetDeadline(time.Now().Add(sendWithin)); err != nil {
		return err
	}
	host, _, err := net.SplitHostPort(m.server)
	if err != nil {
		return err
	}
	client, err := smtp.NewClient(c, host)
	if err != nil {
		return err
	}
	if err := errors.Join(client.Mail(m.from.Address), client.Rcpt(m.to.Address)); err != nil {
		return err
	}
	to, err := client.Data()
	if err != nil {
		return err
	}
	if _, err = to.Write(b.Bytes()); err != nil {
		return err
	}
	return errors.Join(to.Close(), client.Quit())
}

// longKinds are the kinds of work of whose end somebody is told; of others only when they fail.
var longKinds = []jobs.Kind{jobs.Set, jobs.Resolve, jobs.Backup, jobs.Check, jobs.Process}

// seenAnyhow is how long one who processes a batch once more still looks at the screen.
const seenAnyhow = 20 * time.Second

// jobTold tells somebody that work has ended.
func (l *Lab) jobTold(j jobs.Job) {
	switch {
	case j.State == jobs.Failed:
		l.message(fmt.Sprintf("Failed: %s, %s", j.Kind, j.Subject), "%s\nAsked for by %s.", j.Message, j.Who)
	case j.Kind == jobs.Process && j.Ended != nil && j.Ended.Sub(j.Since) < seenAnyhow:
	case j.State == jobs.Done && slices.Contains(longKinds, j.Kind):
		l.message(fmt.Sprintf("Done: %s, %s", j.Kind, j.Subject), "%s", strings.TrimSpace(fmt.Sprintf("%s\nAsked for by %s, begun %s.", j.Outcome, j.Who, j.Since.Format("15:04"))))
	}
}
