package lab

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"yugen/people"
	"yugen/store"
)

// ErrNotThem says that a name and a password do not belong together; which of them is wrong is not told.
var ErrNotThem = errors.New("this name and password do not belong together")

// Of failed attempts: after so many somebody waits, and each further failure doubles it.
const (
	failuresAtOnce = 5
	firstWait      = time.Minute
	longestWait    = time.Hour
)

// Person is somebody who may come in, as others see them.
type Person struct {
	ID       string        `json:"id"`
	Name     string        `json:"name"`
	Roles    []people.Role `json:"roles"`
	LastHere *time.Time    `json:"last_here"`
	ClosedAt *time.Time    `json:"closed_at"`
}

func asPerson(p store.KeptPerson) Person {
	return Person{p.ID, p.Name, p.Roles, p.LastHere, p.ClosedAt}
}

// PersonAsked is what is said of a person: empty fields stay as they are.
type PersonAsked struct {
	Name     string        `json:"name,omitempty"`
	Roles    []people.Role `json:"roles,omitempty"`
	Password string        `json:"password,omitempty"`
	Closed   *bool         `json:"closed,omitempty"`
}

// SigningIn tells whether people sign in here; alone is who works where they do not.
func (l *Lab) SigningIn(ctx context.Context) (on bool, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		value, err := t.Setting(store.SignIn)
		on = value == "on"
		return err
	})
	return on, err
}

// LetPeopleSignIn turns signing in on or off. It needs a keeper who may come in, so that nobody is locked out.
func (l *Lab) LetPeopleSignIn(ctx context.Context, on bool, who string) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		before, err := t.Setting(store.SignIn)
		now := map[bool]string{true: "on", false: "off"}[on]
		if err != nil || before == now || before == "" && !on {
			return err
		}
		if on {
			if n, err := keepers(t); err != nil || n == 0 {
				return errors.Join(err, refuse("nobody could let others in: make the first keeper with 'yugen people add NAME --role keeper'"))
			}
		}
		if err := t.PutSetting(store.SignIn, now); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, Action: store.PersonAction, Subject: "people sign in: " + now, Before: before, After: store.SignIn + " " + now})
		return err
	})
}

// keepers are how many may come in.
func keepers(t *store.Tx) (n int, err error) {
	list, err := t.People()
	for _, p := range list {
		if p.ClosedAt == nil && slices.Contains(p.Roles, people.Keeper) {
			n++
		}
	}
	return n, err
}

// People are all that ever might come in.
func (l *Lab) People(ctx context.Context) (list []Person, err error) {
	list = []Person{}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		kept, err := t.People()
		for _, p := range kept {
			list = append(list, asPerson(p))
		}
		return err
	})
	return list, err
}

// AddPerson lets somebody in, by a password that they change themselves.
func (l *Lab) AddPerson(ctx context.Context, asked PersonAsked, who string) (Person, error) {
	asked.Name = strings.Join(strings.Fields(asked.Name), " ")
	if n := utf8.RuneCountInString(asked.Name); n == 0 || n > 80 {
		return Person{}, refuseAt("/name", "a person has a name of at most 80 letters")
	}
	if err := checkPerson(asked, asked.Name); err != nil {
		return Person{}, err
	}
	p := store.KeptPerson{ID: store.NewID(), Name: asked.Name, Roles: asked.Roles, Password: people.Hashed(asked.Password)}
	err := l.store.Write(ctx, func(t *store.Tx) error {
		if _, err := t.PersonNamed(p.Name); !errors.Is(err, store.ErrNotFound) {
			return errors.Join(err, refuseAt("/name", "there is a %s already; names are never used twice, since the record speaks of them", p.Name))
		}
		p.MadeAt = t.Now()
		return recordPerson(t, p, who, "may come in", "")
	})
	return asPerson(p), err
}

func checkPerson(asked PersonAsked, name string) error {
	if len(asked.Roles) == 0 {
		return refuseAt("/roles", "a person has at least one role")
	}
	for _, r := range asked.Roles {
		if !slices.Contains(people.Roles, r) {
			return refuseAt("/roles", "%q is no role; there are %s", r, rolesInWords(people.Roles))
		}
	}
	if why := people.Weak(asked.Password, name); why != "" {
		return refuseAt("/password", "%s", why)
	}
	return nil
}

func rolesInWords(list []people.Role) string {
	words := make([]string, len(list))
	for k, r := range list {
		words[k] = string(r)
	}
	return strings.Join(words, ", ")
}

func recordPerson(t *store.Tx, p store.KeptPerson, who, what, before string) error {
	if err := t.PutPerson(p); err != nil {
		return err
	}
	_, err := t.Record(store.Change{Who: who, Action: store.PersonAction, Subject: p.Name + " " + what, Before: before, After: p.Recorded()})
	return err
}

// ChangePerson changes the roles or the password of somebody, or whether they may come in. All their sessions end where one of these changes. The last keeper stays one.
func (l *Lab) ChangePerson(ctx context.Context, id string, asked PersonAsked, who string) (out Person, err error) {
	hash := ""
	if asked.Password != "" {
		hash = people.Hashed(asked.Password)
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		p, err := t.Person(id)
		if err != nil {
			return err
		}
		before, what := p.Recorded(), []string{}
		full := asked
		if len(full.Roles) == 0 {
			full.Roles = p.Roles
		}
		if hash == "" {
			full.Password = "a password that stays as it is"
		}
		if err := checkPerson(full, p.Name); err != nil {
			return err
		}
		if len(asked.Roles) > 0 && !slices.Equal(asked.Roles, p.Roles) {
			p.Roles, what = asked.Roles, append(what, "is "+rolesInWords(asked.Roles))
		}
		if hash != "" {
			p.Password, p.Failures, p.WaitUntil, what = hash, 0, nil, append(what, "has another password")
		}
		if asked.Closed != nil && *asked.Closed != (p.ClosedAt != nil) {
			now := t.Now()
			p.ClosedAt = map[bool]*time.Time{true: &now}[*asked.Closed]
			what = append(what, map[bool]string{true: "may not come in any more", false: "may come in again"}[*asked.Closed])
		}
		if out = asPerson(p); len(what) == 0 {
			return nil
		}
		p.Generation++
		if err := recordPerson(t, p, who, strings.Join(what, ", "), before); err != nil {
			return err
		}
		if n, err := keepers(t); err != nil || n == 0 {
			return errors.Join(err, refuse("%s is the last keeper; make another one first", p.Name))
		}
		return nil
	})
	return out, err
}

// SignIn lets somebody in by name and password. Their session is to hold the generation: with another one it has ended.
func (l *Lab) SignIn(ctx context.Context, name, password string) (store.KeptPerson, error) {
	return l.prove(ctx, name, password, "signed in", "an attempt to sign in failed")
}

// prove asks whether a name and a password belong together, counts the attempt, and tells the record how it went. A name that is not there is treated as one that is.
func (l *Lab) prove(ctx context.Context, name, password, well, ill string) (store.KeptPerson, error) {
	name = strings.Join(strings.Fields(name), " ")
	var p store.KeptPerson
	there := false
	read := func(t *store.Tx) (err error) {
		p, err = t.PersonNamed(name)
		if there = err == nil && p.ClosedAt == nil; err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if !there {
			p = l.strangers.of(name)
		}
		return mayTry(t, p)
	}
	if err := l.store.Read(ctx, read); err != nil {
		return p, err
	}
	hash := ""
	if there {
		hash = p.Password
	}
	fits := people.Fits(hash, password)
	err := l.store.Write(ctx, func(t *store.Tx) error {
		if err := read(t); err != nil { // again, of several attempts at once
			return err
		}
		fits = fits && p.Password == hash
		attempted(t, &p, fits)
		who, says := "unknown", ill
		if there {
			who = p.Name
			if err := t.PutPerson(p); err != nil {
				return err
			}
		} else {
			l.strangers.put(name, p)
		}
		if fits {
			says = well
		}
		_, err := t.Record(store.Change{Who: who, Action: store.PersonAction, Subject: says})
		return err
	})
	if err == nil && !fits {
		err = ErrNotThem
	}
	return p, err
}

// strangers counts attempts under names that are not there, so that waiting does not tell which names are. They are forgotten with the program, or where there are too
// many.
type strangers struct {
	mu    sync.Mutex
	tried map[string]store.KeptPerson
}

const mostStrangers = 10_000

func (s *strangers) of(name string) store.KeptPerson {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.tried[strings.ToLower(name)]
}

func (s *strangers) put(name string, p store.KeptPerson) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.tried == nil || len(s.tried) >= mostStrangers {
		s.tried = map[string]store.KeptPerson{}
	}
	s.tried[strings.ToLower(name)] = p
}

// mayTry refuses somebody who has failed too often, for a while.
func mayTry(t *store.Tx, p store.KeptPerson) error {
	if p.WaitUntil == nil || !p.WaitUntil.After(t.Now()) {
		return nil
	}
	return refuse("that was too often. Wait %s", waitInWords(p.WaitUntil.Sub(t.Now())))
}

func waitInWords(d time.Duration) string {
	if minutes := int(d.Minutes() + 0.5); minutes > 1 {
		return fmt.Sprintf("%d minutes", minutes)
	}
	return "1 minute"
}

// attempted counts an attempt.
func attempted(t *store.Tx, p *store.KeptPerson, well bool) {
	now := t.Now()
	if well {
		p.Failures, p.WaitUntil, p.LastHere = 0, nil, &now
		return
	}
	if p.Failures++; p.Failures >= failuresAtOnce {
		until := now.Add(min(longestWait, firstWait<<min(10, p.Failures-failuresAtOnce)))
		p.WaitUntil = &until
	}
}

// Here is who a session is of, as long as they may come in and their sessions were not ended.
func (l *Lab) Here(ctx context.Context, id string, generation int) (people.Actor, error) {
	var a people.Actor
	err := l.store.Read(ctx, func(t *store.Tx) error {
		p, err := t.Person(id)
		if err != nil {
			return err
		}
		if p.ClosedAt != nil || p.Generation != generation {
			return store.ErrNotFound
		}
		a = people.Actor{ID: p.ID, Name: p.Name, Roles: p.Roles}
		return nil
	})
	return a, err
}

// SignedOut tells the record that somebody went, here or everywhere.
func (l *Lab) SignedOut(ctx context.Context, a people.Actor, everywhere bool) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		says := "signed out"
		if everywhere {
			says = "signed out everywhere"
			p, err := t.Person(a.ID)
			if err != nil {
				return err
			}
			p.Generation++
			if err := t.PutPerson(p); err != nil {
				return err
			}
		}
		_, err := t.Record(store.Change{Who: a.Name, Action: store.PersonAction, Subject: says})
		return err
	})
}

// ChangeOwnPassword takes a new password from somebody who knows the present one. All their sessions end.
func (l *Lab) ChangeOwnPassword(ctx context.Context, a people.Actor, present, next string) error {
	if _, err := l.prove(ctx, a.Name, present, "gave the present password, to change it", "an attempt to change the password failed"); errors.Is(err, ErrNotThem) {
		return refuseAt("/present", "this is not your present password")
	} else if err != nil {
		return err
	}
	_, err := l.ChangePerson(ctx, a.ID, PersonAsked{Password: next}, a.Name)
	return err
}
