package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

const password = "kettle leaf and morning"

// staffed is a server where people sign in: one of each role, named after it.
func staffed(t *testing.T, in Entrance) (address string, l *lab.Lab) {
	t.Helper()
	address, l, _ = staffedStore(t, in)
	return address, l
}

func staffedStore(t *testing.T, in Entrance) (address string, l *lab.Lab, s *store.Store) {
	t.Helper()
	s, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	l = lab.New(s)
	l.Backups = t.TempDir()
	t.Cleanup(func() { l.Close(); s.Close() })
	for _, r := range people.Roles {
		if _, err := l.AddPerson(t.Context(), lab.PersonAsked{Name: "The " + string(r), Roles: []people.Role{r}, Password: password}, "console"); err != nil {
			t.Fatal(err)
		}
	}
	web := httptest.NewUnstartedServer(nil)
	in.People, in.Hosts = true, append(in.Hosts, web.Listener.Addr().String())
	if web.Config.Handler, err = New(l, in); err != nil {
		t.Fatal(err)
	}
	web.Start()
	t.Cleanup(web.Close)
	return web.URL, l, s
}

// browser keeps cookies, as one does.
type browser struct {
	t       *testing.T
	address string
	http.Client
}

func newBrowser(t *testing.T, address string) *browser {
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &browser{t, address, http.Client{Jar: jar}}
}

func (b *browser) ask(method, path, body string, headers ...string) (int, string, *http.Response) {
	b.t.Helper()
	r, err := http.NewRequestWithContext(b.t.Context(), method, b.address+path, strings.NewReader(body))
	if err != nil {
		b.t.Fatal(err)
	}
	for k := 0; k < len(headers); k += 2 {
		r.Header.Set(headers[k], headers[k+1])
	}
	answer, err := b.Do(r)
	if err != nil {
		b.t.Fatal(err)
	}
	defer answer.Body.Close()
	if strings.HasPrefix(answer.Header.Get("Content-Type"), "text/event-stream") {
		return answer.StatusCode, "", answer
	}
	data, err := io.ReadAll(answer.Body)
	if err != nil {
		b.t.Fatal(err)
	}
	return answer.StatusCode, string(data), answer
}

func (b *browser) signIn(name, word string) (int, string, *http.Response) {
	b.t.Helper()
	body, _ := json.Marshal(SigningIn{name, word})
	return b.ask("POST", "/api/session", string(body))
}

// Every route asks every role: what the table does not allow is refused before anything is read, what it allows is not; and nothing is to be had without signing in.
func TestEveryRouteAsksForItsRight(t *testing.T) {
	address, _ := staffed(t, Entrance{})
	s := &server{}
	type route struct{ method, path, id string }
	var routes []route
	for _, o := range s.operations() {
		routes = append(routes, route{o.method, o.path, o.id})
	}
	for _, o := range s.streams() {
		routes = append(routes, route{o.method, o.path, o.id})
	}
	var ids []string
	for _, r := range routes {
		ids = append(ids, r.id)
		if _, there := rightFor(r.id, r.method); !there {
			t.Errorf("nobody has said who may %s", r.id)
		}
	}
	for id := range rights {
		if !slices.Contains(ids, id) {
			t.Errorf("%s has a right and no route", id)
		}
	}
	// These would do their work: what they ask for is looked at in the tests below them.
	busy := []string{"openDemo", "backup", "signOut", "signOutEverywhere", "events"}
	checked := 0
	for _, role := range append([]people.Role{""}, people.Roles...) {
		b := newBrowser(t, address)
		if status, body, _ := b.signIn("The "+string(role), password); role != "" && status != http.StatusOK {
			t.Fatalf("%s: %d %s", role, status, body)
		}
		for _, r := range routes {
			right, _ := rightFor(r.id, r.method)
			may := right == people.Anyone || people.Actor{Roles: []people.Role{role}}.May(right)
			if may && slices.Contains(busy, r.id) {
				continue
			}
			path := r.path
			for _, part := range strings.Split(r.path, "/") {
				if strings.HasPrefix(part, ":") {
					path = strings.Replace(path, part, "none", 1)
				}
			}
			status, body, _ := b.ask(r.method, "/api"+path, "{", "If-Match", "*")
			want := map[bool]int{true: http.StatusUnauthorized, false: http.StatusForbidden}[role == ""]
			refused := status == http.StatusUnauthorized && r.id != "signIn" || status == http.StatusForbidden
			if may == refused || !may && status != want {
				t.Errorf("%s as %q: %d %.150s", r.id, role, status, body)
			}
			checked++
		}
	}
	if checked < 800 {
		t.Errorf("only %d were checked", checked)
	}
}

// Somebody signs in by a cookie that no script and no other site has, acts by their own name whatever a header says, and is out when they sign out.
func TestASessionIsOnesOwn(t *testing.T) {
	address, l := staffed(t, Entrance{Secure: false})
	b := newBrowser(t, address)
	if status, body, _ := b.ask("GET", "/api/session", ""); status != http.StatusOK || !strings.Contains(body, `"signs_in":true,"name":"","roles":[],"rights":[]`) {
		t.Errorf("before: %d %s", status, body)
	}
	for _, wrong := range [][2]string{{"The analyst", "not the password"}, {"Somebody", password}} {
		if status, body, r := b.signIn(wrong[0], wrong[1]); status != http.StatusUnauthorized || !strings.Contains(body, "do not belong together") || len(r.Cookies()) > 0 {
			t.Errorf("%v: %d %s", wrong, status, body)
		}
	}
	status, body, r := b.signIn("the analyst", password)
	if status != http.StatusOK || !strings.Contains(body, `"name":"The analyst"`) || len(r.Cookies()) != 1 {
		t.Fatalf("%d %s", status, body)
	}
	if c := r.Cookies()[0]; !c.HttpOnly || c.SameSite != http.SameSiteStrictMode || c.Secure || c.Path != "/" {
		t.Errorf("%+v", c)
	}
	first := r.Cookies()[0].Value
	if _, _, again := b.signIn("the analyst", password); again.Cookies()[0].Value == first {
		t.Error("a session that was there before is the one after signing in")
	}
	status, body, _ = b.ask("POST", "/api/batches", `{"study": "S", "name": "N"}`, "Yugen-Analyst", "The%20keeper")
	if status != http.StatusOK {
		t.Fatalf("%d %s", status, body)
	}
	var made Made
	if err := json.Unmarshal([]byte(body), &made); err != nil {
		t.Fatal(err)
	}
	if _, body, _ := b.ask("GET", "/api/batches/"+made.ID+"/record", ""); !strings.Contains(body, "The analyst") || strings.Contains(body, "keeper") {
		t.Errorf("the record: %s", body)
	}
	other := newBrowser(t, address)
	other.signIn("The analyst", password)
	if status, _, _ := b.ask("DELETE", "/api/session", ""); status != http.StatusOK {
		t.Errorf("signing out: %d", status)
	}
	if status, _, _ := b.ask("GET", "/api/studies", ""); status != http.StatusUnauthorized {
		t.Errorf("after signing out: %d", status)
	}
	if status, _, _ := other.ask("GET", "/api/studies", ""); status != http.StatusOK {
		t.Errorf("another browser: %d", status)
	}
	b.signIn("The analyst", password)
	if status, _, _ := b.ask("POST", "/api/session/everywhere", ""); status != http.StatusOK {
		t.Errorf("everywhere: %d", status)
	}
	if status, _, _ := other.ask("GET", "/api/studies", ""); status != http.StatusUnauthorized {
		t.Errorf("another browser after it: %d", status)
	}
	if list, err := l.People(t.Context()); err != nil || list[0].LastHere == nil {
		t.Errorf("%+v, %v", list, err)
	}
}

// Who is away too long signs in again; a changed password ends the other sessions and not one's own.
func TestSessionsEnd(t *testing.T) {
	address, _ := staffed(t, Entrance{Away: 600 * time.Millisecond})
	b := newBrowser(t, address)
	b.signIn("The analyst", password)
	for range 4 {
		time.Sleep(200 * time.Millisecond)
		if status, body, _ := b.ask("GET", "/api/studies", ""); status != http.StatusOK {
			t.Fatalf("somebody at work is sent away: %d %s", status, body)
		}
	}
	time.Sleep(900 * time.Millisecond)
	if status, body, _ := b.ask("GET", "/api/studies", ""); status != http.StatusUnauthorized || !strings.Contains(body, "You were away") {
		t.Errorf("%d %s", status, body)
	}
	address, _ = staffed(t, Entrance{})
	b, other := newBrowser(t, address), newBrowser(t, address)
	b.signIn("The analyst", password)
	other.signIn("The analyst", password)
	if status, body, _ := b.ask("POST", "/api/session/password", `{"present": "`+password+`", "next": "evening rain on bamboo"}`); status != http.StatusOK {
		t.Fatalf("%d %s", status, body)
	}
	if status, _, _ := b.ask("GET", "/api/studies", ""); status != http.StatusOK {
		t.Errorf("one's own session: %d", status)
	}
	if status, _, _ := other.ask("GET", "/api/studies", ""); status != http.StatusUnauthorized {
		t.Errorf("the other session: %d", status)
	}
}

// A token reads and does not write where it may read; it makes no token and signs nobody out. A method is not undone by somebody who may not change methods.
func TestTokensAndUndoKeepToTheirRights(t *testing.T) {
	address, l := staffed(t, Entrance{})
	b := newBrowser(t, address)
	b.signIn("The method developer", password)
	_, body, _ := b.ask("POST", "/api/tokens", `{"name": "copies", "rights": ["look"], "days": 3}`)
	var k lab.ShownToken
	if err := json.Unmarshal([]byte(body), &k); err != nil || k.Text == "" {
		t.Fatalf("%s", body)
	}
	script := newBrowser(t, address)
	by := []string{"Authorization", "Bearer " + k.Text}
	for _, c := range []struct {
		method, path, body string
		want               int
	}{
		{"GET", "/api/studies", "", 200}, {"POST", "/api/batches", `{"study": "S", "name": "N"}`, 403}, {"POST", "/api/tokens", `{"name": "more", "rights": ["look"], "days": 3}`, 422},
		{"POST", "/api/session/everywhere", "", 403}, {"GET", "/api/people", "", 403},
	} {
		if status, body, _ := script.ask(c.method, c.path, c.body, by...); status != c.want {
			t.Errorf("%s %s: %d %s", c.method, c.path, status, body)
		}
	}
	if status, _, _ := script.ask("GET", "/api/studies", "", "Authorization", "Bearer yugen_0"); status != http.StatusUnauthorized {
		t.Errorf("a token that is none: %d", status)
	}
	_, body, _ = b.ask("POST", "/api/readings", `{"study": "T", "name": "One", "compound": "X", "unit": "mg/L", "text": "1\t10\n2\t20\n5\t50\nPond\t33"}`)
	var typed MadeBatches
	if err := json.Unmarshal([]byte(body), &typed); err != nil || len(typed.IDs) != 1 {
		t.Fatalf("%s", body)
	}
	kept, err := l.Batch(t.Context(), typed.IDs[0])
	if err != nil {
		t.Fatal(err)
	}
	m := kept.Version.Method
	m.Compounds = slices.Clone(m.Compounds)
	m.Compounds[0].Name = "Y"
	if _, err := l.SaveMethod(t.Context(), kept.ID, kept.Revision, m, "another name", "The method developer"); err != nil {
		t.Fatal(err)
	}
	a := newBrowser(t, address)
	a.signIn("The analyst", password)
	if status, body, _ := a.ask("POST", "/api/batches/"+kept.ID+"/undo", `{"reason": ""}`, "If-Match", "*"); status != http.StatusForbidden {
		t.Errorf("an analyst undoes a method: %d %s", status, body)
	}
	if status, body, _ := b.ask("POST", "/api/batches/"+kept.ID+"/undo", `{"reason": ""}`, "If-Match", "*"); status != http.StatusOK {
		t.Errorf("its developer does: %d %s", status, body)
	}
}

// From where something is asked is what the proxy on this machine says last, where there is one; else what anybody claims counts for nothing.
func TestTheProxySaysFromWhere(t *testing.T) {
	for behind, want := range map[bool]string{true: "203.0.113.9", false: "127.0.0.1"} {
		address, _, s := staffedStore(t, Entrance{Behind: behind})
		b := newBrowser(t, address)
		b.ask("POST", "/api/session", fmt.Sprintf(`{"name": "The analyst", "password": %q}`, password), "X-Forwarded-For", "198.51.100.7, 203.0.113.9")
		var at []string
		err := s.Read(t.Context(), func(tx *store.Tx) error {
			return tx.EachChange(func(c store.Change) error {
				if c.Subject == "signed in" {
					at = append(at, c.Place)
				}
				return nil
			})
		})
		if err != nil || !slices.Equal(at, []string{want}) {
			t.Errorf("behind %v: %v, %v", behind, at, err)
		}
	}
}

// Cookies of an installation that is reached by TLS go nowhere else.
func TestCookiesAreSecureOverTLS(t *testing.T) {
	address, _ := staffed(t, Entrance{Secure: true})
	_, _, r := newBrowser(t, address).signIn("The reader", password)
	if len(r.Cookies()) != 1 || !r.Cookies()[0].Secure || r.Header.Get("Strict-Transport-Security") == "" {
		t.Errorf("%+v", r.Cookies())
	}
	if bytes.Contains([]byte(r.Header.Get("Set-Cookie")), []byte("Domain")) {
		t.Error("the cookie names a domain")
	}
}

// A stream of events that stays open ends with the session that it was opened in, and goes on in another one of the same person.
func TestAStreamEndsWithItsSession(t *testing.T) {
	address, _ := staffed(t, Entrance{Away: 2 * time.Second})
	one, other := newBrowser(t, address), newBrowser(t, address)
	one.signIn("The analyst", password)
	other.signIn("The analyst", password)
	open := func(b *browser) (ended chan struct{}) {
		q, err := http.NewRequestWithContext(t.Context(), "GET", address+"/api/events", nil) // which ends with the test at the latest
		if err != nil {
			t.Fatal(err)
		}
		r, err := b.Do(q)
		if err != nil || r.StatusCode != 200 {
			t.Fatalf("%v %v", r, err)
		}
		ended = make(chan struct{})
		go func() {
			_, _ = io.Copy(io.Discard, r.Body)
			r.Body.Close()
			close(ended)
		}()
		return ended
	}
	ends, goesOn := open(one), open(other)
	if status, _, _ := one.ask("DELETE", "/api/session", ""); status != 200 {
		t.Fatalf("signing out answers %d", status)
	}
	select {
	case <-ends:
	case <-time.After(20 * time.Second):
		t.Error("the stream goes on after signing out")
	}
	select {
	case <-goesOn:
		t.Error("the stream of another session has ended, too")
	case <-time.After(500 * time.Millisecond):
	}
}

// What somebody asks for and may not do stands in the record, with who it was.
func TestRefusalsStandInTheRecord(t *testing.T) {
	address, l := staffed(t, Entrance{})
	b := newBrowser(t, address)
	b.signIn("The reader", password)
	if status, _, _ := b.ask("POST", "/api/backups", ""); status != 403 {
		t.Fatalf("a reader's backup answers %d", status)
	}
	page, err := l.FindRecord(t.Context(), store.Wanted{Who: "The reader", Action: store.RefusedAction}, 0)
	if err != nil || len(page.Rows) != 1 || page.Rows[0].Subject != "backup" {
		t.Errorf("%+v, %v", page.Rows, err)
	}
}
