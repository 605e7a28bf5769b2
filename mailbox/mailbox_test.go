package mailbox

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http/httptest"
	"net/smtp"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// opened is a mailbox that takes messages up at an address.
func opened(t *testing.T, folder string) (m *Mailbox, address string) {
	t.Helper()
	m, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = m.Serve(t.Context(), l) }() // ends with the test
	return m, l.Addr().String()
}

func send(address, subject, text string, to ...string) error {
	if len(to) == 0 {
		to = []string{"analyst@lab.example"}
	}
	return smtp.SendMail(address, nil, "yugen@localhost", to, []byte("From: yugen@localhost\r\nTo: "+to[0]+"\r\nSubject: "+subject+"\r\nDate: Mon, 04 May 2026 09:00:00 +0000\r\n\r\n"+text))
}

func subjects(t *testing.T, m *Mailbox) string {
	t.Helper()
	list, err := m.Messages()
	if err != nil {
		t.Fatal(err)
	}
	var all []string
	for _, one := range list {
		all = append(all, one.Subject)
	}
	return strings.Join(all, " ")
}

// Messages are listed the newest first, also after the mailbox was opened anew and some were thrown away; none takes the place of another.
func TestNoMessageTakesAnothersPlace(t *testing.T) {
	folder := t.TempDir()
	m, address := opened(t, folder)
	for k := range 5 {
		if err := send(address, fmt.Sprint("n", k), "a line\r\n.\r\n..\r\nmore\r\n"); err != nil {
			t.Fatal(err)
		}
	}
	if got := subjects(t, m); got != "n4 n3 n2 n1 n0" {
		t.Errorf("%s", got)
	}
	if list, _ := m.Messages(); list[0].Text != "a line\n.\n..\nmore\n" || list[0].At.IsZero() || list[0].To != "analyst@lab.example" {
		t.Errorf("%+v", list[0])
	}
	for _, gone := range []string{"00001.eml", "00002.eml"} {
		if err := os.Remove(filepath.Join(folder, gone)); err != nil {
			t.Fatal(err)
		}
	}
	m, address = opened(t, folder)
	if err := send(address, "n5", ""); err != nil {
		t.Fatal(err)
	}
	if got := subjects(t, m); got != "n5 n4 n3 n2" {
		t.Errorf("after some were thrown away: %s", got)
	}
}

// What is too large, or to too many, is refused and not kept; a file that is no message is named; what a message says is no part of the page.
func TestTheMailboxIsBounded(t *testing.T) {
	folder := t.TempDir()
	m, address := opened(t, folder)
	if err := send(address, "large", strings.Repeat("x", maxBytes+1)); err == nil {
		t.Error("a message that is too large was taken")
	}
	many := make([]string, maxTo+1)
	for k := range many {
		many[k] = fmt.Sprintf("p%d@lab.example", k)
	}
	if err := send(address, "many", "", many...); err == nil {
		t.Error("a message to too many was taken")
	}
	if got := subjects(t, m); got != "" {
		t.Errorf("kept was %s", got)
	}
	if err := send(address, "<script>alert(1)</script>", "<b>bold</b>\r\n"); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(folder, "00000.eml"), []byte{0, 1, 2}, 0o600); err != nil {
		t.Fatal(err)
	}
	w := httptest.NewRecorder()
	m.ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
	if page := w.Body.String(); strings.Contains(page, "<script>") || strings.Contains(page, "<b>bold") || !strings.Contains(page, "cannot be read") || strings.Count(page, "<article>") != 2 {
		t.Errorf("the page is %s", page)
	}
	w = httptest.NewRecorder()
	m.ServeHTTP(w, httptest.NewRequest("GET", "/messages", nil))
	var list []Message
	if err := json.Unmarshal(w.Body.Bytes(), &list); err != nil || len(list) != 2 || list[0].Subject != "<script>alert(1)</script>" {
		t.Errorf("%+v %v", list, err)
	}
}

// A folder that cannot be made is said.
func TestAMailboxWithoutAFolder(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(filepath.Join(file, "box")); err == nil || !strings.Contains(err.Error(), "cannot be made") {
		t.Error(err)
	}
}
