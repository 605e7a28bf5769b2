package store

import (
	"database/sql"
	"encoding/json"
	"time"

	"yugen/people"
)

// KeptPerson is somebody who may come in, or might once.
type KeptPerson struct {
	ID         string
	Name       string
	Roles      []people.Role
	Password   string // hashed
	MadeAt     time.Time
	ClosedAt   *time.Time // since when they may not come in any more
	LastHere   *time.Time
	Failures   int // to sign in, since it went well last
	WaitUntil  *time.Time
	Generation int // sessions of another one have ended
}

// PersonAction marks rows of the record that tell of people, of tokens and of coming in.
const PersonAction = "people"

// SignIn is the setting that says whether people sign in: on or off.
const SignIn = "sign-in"

// Recorded is what the record says of a person.
func (p KeptPerson) Recorded() string {
	text, _ := json.Marshal(struct { // of plain words, which always have a form
		Person string        `json:"person"`
		Name   string        `json:"name"`
		Roles  []people.Role `json:"roles"`
		Closed bool          `json:"closed"`
	}{p.ID, p.Name, p.Roles, p.ClosedAt != nil})
	return string(text)
}

const personColumns = "id, name, roles, password, made_at, closed_at, last_here, failures, wait_until, generation"

func scanPerson(scan func(...any) error) (KeptPerson, error) {
	var p KeptPerson
	var roles, made, closed, last, wait string
	if err := scan(&p.ID, &p.Name, &roles, &p.Password, &made, &closed, &last, &p.Failures, &wait, &p.Generation); err != nil {
		return p, err
	}
	p.MadeAt, p.ClosedAt, p.LastHere, p.WaitUntil = unstamp(made), moment(closed), moment(last), moment(wait)
	return p, json.Unmarshal([]byte(roles), &p.Roles)
}

// moment is a time that may be missing.
func moment(s string) *time.Time {
	if s == "" {
		return nil
	}
	at := unstamp(s)
	return &at
}

func stampOf(at *time.Time) string {
	if at == nil {
		return ""
	}
	return stamp(*at)
}

// People are all that ever might come in, by name.
func (t *Tx) People() ([]KeptPerson, error) {
	list := []KeptPerson{}
	err := t.each("SELECT "+personColumns+" FROM people ORDER BY name", nil, func(r *sql.Rows) error {
		p, err := scanPerson(r.Scan)
		list = append(list, p)
		return err
	})
	return list, err
}

// PersonNamed is the person of a name, in whatever letters.
func (t *Tx) PersonNamed(name string) (KeptPerson, error) { return t.person("name = ?", name) }

// Person is the one of an id.
func (t *Tx) Person(id string) (KeptPerson, error) { return t.person("id = ?", id) }

func (t *Tx) person(where, value string) (p KeptPerson, err error) {
	err = ErrNotFound
	if failed := t.each("SELECT "+personColumns+" FROM people WHERE "+where, []any{value}, func(r *sql.Rows) error {
		p, err = scanPerson(r.Scan)
		return err
	}); failed != nil {
		return p, failed
	}
	return p, err
}

// PutPerson keeps a person, new or changed.
func (t *Tx) PutPerson(p KeptPerson) error {
	roles, err := json.Marshal(p.Roles)
	if err != nil {
		return err
	}
	return t.exec("INSERT INTO people("+personColumns+") VALUES (?,?,?,?,?,?,?,?,?,?) ON CONFLICT (id) DO UPDATE SET name = excluded.name, roles = excluded.roles, password = excluded.password, closed_at = excluded.closed_at, last_here = excluded.last_here, failures = excluded.failures, wait_until = excluded.wait_until, generation = excluded.generation",
		p.ID, p.Name, string(roles), p.Password, stamp(p.MadeAt), stampOf(p.ClosedAt), stampOf(p.LastHere), p.Failures, stampOf(p.WaitUntil), p.Generation)
}

// Token lets a script act as its person, with less.
type Token struct {
	ID       string
	PersonID string
	Name     string
	Rights   []people.Right
	Hash     string // of what the script shows
	MadeAt   time.Time
	EndsAt   time.Time
	LastUsed *time.Time
}

// Recorded is what the record says of a token.
func (k Token) Recorded() string {
	text, _ := json.Marshal(struct {
		Token  string         `json:"token"`
		Person string         `json:"of"`
		Name   string         `json:"name"`
		Rights []people.Right `json:"rights"`
		Ends   string         `json:"ends"`
	}{k.ID, k.PersonID, k.Name, k.Rights, stamp(k.EndsAt)})
	return string(text)
}

// Tokens are those of everybody, the newest first.
func (t *Tx) Tokens() ([]Token, error) { return t.tokens("") }

// TokenOf is the one with this hash.
func (t *Tx) TokenOf(hash string) (Token, error) {
	list, err := t.tokens(" WHERE hash = ?", hash)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Token{}, err
	}
	return list[0], nil
}

func (t *Tx) tokens(where string, values ...any) ([]Token, error) {
	list := []Token{}
	err := t.each("SELECT id, person_id, name, rights, hash, made_at, ends_at, last_used FROM tokens"+where+" ORDER BY id DESC", values, func(r *sql.Rows) error {
		var k Token
		var rights, made, ends, used string
		if err := r.Scan(&k.ID, &k.PersonID, &k.Name, &rights, &k.Hash, &made, &ends, &used); err != nil {
			return err
		}
		k.MadeAt, k.EndsAt, k.LastUsed = unstamp(made), unstamp(ends), moment(used)
		list = append(list, k)
		return json.Unmarshal([]byte(rights), &list[len(list)-1].Rights)
	})
	return list, err
}

// PutToken keeps a token, new or ended or used.
func (t *Tx) PutToken(k Token) error {
	rights, err := json.Marshal(k.Rights)
	if err != nil {
		return err
	}
	return t.exec("INSERT INTO tokens(id, person_id, name, rights, hash, made_at, ends_at, last_used) VALUES (?,?,?,?,?,?,?,?) ON CONFLICT (id) DO UPDATE SET ends_at = excluded.ends_at, last_used = excluded.last_used",
		k.ID, k.PersonID, k.Name, string(rights), k.Hash, stamp(k.MadeAt), stamp(k.EndsAt), stampOf(k.LastUsed))
}

// Session is what a browser that signed in is known by: a hash of its token.
func (t *Tx) Session(token string) (data []byte, err error) {
	err = t.row("SELECT data FROM sessions WHERE token = ? AND ends_at > ?", []any{token, stamp(t.now)}, &data)
	return data, err
}

// PutSession keeps a session, and lets go of those that have ended.
func (t *Tx) PutSession(token string, data []byte, ends time.Time) error {
	if err := t.exec("DELETE FROM sessions WHERE ends_at <= ?", stamp(t.now)); err != nil {
		return err
	}
	return t.exec("INSERT INTO sessions(token, data, ends_at) VALUES (?,?,?) ON CONFLICT (token) DO UPDATE SET data = excluded.data, ends_at = excluded.ends_at", token, data, stamp(ends))
}

// EndSession lets go of a session.
func (t *Tx) EndSession(token string) error {
	return t.exec("DELETE FROM sessions WHERE token = ?", token)
}

// Setting is a setting of the installation; empty where there is none.
func (t *Tx) Setting(name string) (value string, err error) {
	list, err := []string{}, error(nil)
	err = t.each("SELECT value FROM settings WHERE name = ?", []any{name}, func(r *sql.Rows) error {
		var v string
		err := r.Scan(&v)
		list = append(list, v)
		return err
	})
	if len(list) > 0 {
		value = list[0]
	}
	return value, err
}

// PutSetting keeps a setting of the installation.
func (t *Tx) PutSetting(name, value string) error {
	return t.exec("INSERT INTO settings(name, value) VALUES (?,?) ON CONFLICT (name) DO UPDATE SET value = excluded.value", name, value)
}

// Now is the time of the transaction.
func (t *Tx) Now() time.Time { return t.now }
