package instrument

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Client speaks to an instrument at an address, as http://127.0.0.1:8791.
type Client struct {
	Address string
	HTTP    http.Client
}

// askWithin bounds one request that is no stream.
const askWithin = 5 * time.Second

// ErrRefused marks what an instrument does not do; the text says why.
var ErrRefused = errors.New("the instrument refuses")

// Sentence is an error without the mark that it bears, as a sentence.
func Sentence(err, mark error) string {
	text := strings.TrimPrefix(err.Error(), mark.Error()+": ")
	r, n := utf8.DecodeRuneInString(text)
	text = string(unicode.ToUpper(r)) + text[n:]
	if !strings.HasSuffix(text, ".") && !strings.HasSuffix(text, "?") {
		text += "."
	}
	return text
}

func (c *Client) ask(ctx context.Context, method, path string, body, into any) error {
	ctx, cancel := context.WithTimeout(ctx, askWithin)
	defer cancel()
	var sent io.Reader
	if body != nil {
		data, err := json.Marshal(body)
		if err != nil {
			return err
		}
		sent = bytes.NewReader(data)
	}
	req, err := http.NewRequestWithContext(ctx, method, strings.TrimSuffix(c.Address, "/")+"/api"+path, sent)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := c.HTTP.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	data, err := io.ReadAll(io.LimitReader(res.Body, MaxLine))
	if err != nil {
		return err
	}
	if res.StatusCode != http.StatusOK {
		var no Refusal
		if json.Unmarshal(data, &no) == nil && no.Detail != "" {
			return fmt.Errorf("%w: %s", ErrRefused, no.Detail)
		}
		return fmt.Errorf("%s answers %s", c.Address, res.Status)
	}
	return json.Unmarshal(data, into)
}

// Description asks what it is.
func (c *Client) Description(ctx context.Context) (d Description, err error) {
	err = c.ask(ctx, http.MethodGet, "/instrument", nil, &d)
	return d, err
}

// State asks how it stands.
func (c *Client) State(ctx context.Context) (s State, err error) {
	err = c.ask(ctx, http.MethodGet, "/state", nil, &s)
	return s, err
}

// Take sends a list.
func (c *Client) Take(ctx context.Context, list List, who string) (s State, err error) {
	err = c.ask(ctx, http.MethodPut, "/list", Asked{list, who}, &s)
	return s, err
}

// Do asks something of it.
func (c *Client) Do(ctx context.Context, a Act) (s State, err error) {
	err = c.ask(ctx, http.MethodPost, "/acts", a, &s)
	return s, err
}

// Heard says to which number events are on disk.
func (c *Client) Heard(ctx context.Context, n int64) error {
	return c.ask(ctx, http.MethodPost, "/heard", Heard{n}, &Heard{})
}

// Faults lists what can be made to go wrong with a stand-in.
func (c *Client) Faults(ctx context.Context) (f Faults, err error) {
	err = c.ask(ctx, http.MethodGet, "/faults", nil, &f)
	return f, err
}

// Fault makes something go wrong with a stand-in.
func (c *Client) Fault(ctx context.Context, name string) (s State, err error) {
	err = c.ask(ctx, http.MethodPost, "/faults", Fault{name}, &s)
	return s, err
}

// silence is after how long without a sign a stream is given up.
const silence = 20 * time.Second

// Listen hears events after a number until the stream ends; hear is called with as many as have come together, in order, and ends it with an error.
func (c *Client) Listen(ctx context.Context, after int64, hear func([]Event) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, fmt.Sprintf("%s/api/events?after=%d", strings.TrimSuffix(c.Address, "/"), after), nil)
	if err != nil {
		return err
	}
	res, err := c.HTTP.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("%s answers %s", c.Address, res.Status)
	}
	alive := time.AfterFunc(silence, cancel)
	defer alive.Stop()
	lines := bufio.NewReaderSize(res.Body, 1<<16)
	var heard []Event
	for {
		line, err := readLine(lines)
		if err != nil {
			return err
		}
		alive.Reset(silence)
		if data, ok := bytes.CutPrefix(line, []byte("data: ")); ok {
			var e Event
			if err := json.Unmarshal(data, &e); err != nil {
				return fmt.Errorf("%s tells what is no event: %w", c.Address, err)
			}
			if e.N <= after { // told twice
				continue
			}
			heard, after = append(heard, e), e.N
		}
		if len(heard) > 0 && (lines.Buffered() == 0 || len(heard) >= 100) {
			if err := hear(heard); err != nil {
				return err
			}
			heard = nil
		}
	}
}

// readLine reads a line of bounded length.
func readLine(r *bufio.Reader) ([]byte, error) {
	var whole []byte
	for {
		part, err := r.ReadSlice('\n')
		whole = append(whole, part...)
		if err == nil {
			return bytes.TrimRight(whole, "\r\n"), nil
		}
		if !errors.Is(err, bufio.ErrBufferFull) {
			return nil, err
		}
		if len(whole) > MaxLine {
			return nil, errors.New("an instrument tells an event that is larger than it may be")
		}
	}
}
