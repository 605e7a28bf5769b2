package lab

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yugen/people"
	"yugen/store"
)

// ShownToken is a token as its people see it; its text is shown once.
type ShownToken struct {
	ID       string         `json:"id"`
	Name     string         `json:"name"`
	Person   string         `json:"person"`
	Rights   []people.Right `json:"rights"`
	EndsAt   time.Time      `json:"ends_at"`
	LastUsed *time.Time     `json:"last_used"`
	Text     string         `json:"text,omitempty"`
}

// TokenAsked is what a token is to be: at most a year, and not more than its person.
type TokenAsked struct {
	Name   string         `json:"name"`
	Rights []people.Right `json:"rights"`
	Days   int            `json:"days"`
}

const tokenBegins = "yugen_"

// Tokens are those that have not ended: everybody's for who keeps the house, else one's own.
func (l *Lab) Tokens(ctx context.Context, a people.Actor) (list []ShownToken, err error) {
	list = []ShownToken{}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		kept, err := t.Tokens()
		if err != nil {
			return err
		}
		for _, k := range kept {
			if !k.EndsAt.After(t.Now()) || k.PersonID != a.ID && !a.May(people.Keep) {
				continue
			}
			p, err := t.Person(k.PersonID)
			if err != nil {
				return err
			}
			list = append(list, ShownToken{ID: k.ID, Name: k.Name, Person: p.Name, Rights: k.Rights, EndsAt: k.EndsAt, LastUsed: k.LastUsed})
		}
		return nil
	})
	return list, err
}

// NewToken makes a token that acts as somebody, with less.
func (l *Lab) NewToken(ctx context.Context, a people.Actor, asked TokenAsked) (out ShownToken, err error) {
	asked.Name = strings.TrimSpace(asked.Name)
	switch n := utf8.RuneCountInString(asked.Name); {
	case a.ID == "":
		return out, refuse("a token acts as somebody who signs in; here nobody does")
	case a.Limits != nil:
		return out, refuse("a token makes no tokens")
	case n == 0 || n > 80:
		return out, refuseAt("/name", "a token has a name of at most 80 letters: what it is for")
	case asked.Days < 1 || asked.Days > 366:
		return out, refuseAt("/days", "a token ends after 1 to 366 days")
	case len(asked.Rights) == 0:
		return out, refuseAt("/rights", "a token may do something")
	}
	for _, r := range asked.Rights {
		if !a.May(r) || r == people.Anyone || r == people.Keep {
			return out, refuseAt("/rights", "a token of yours cannot have the right %q", r)
		}
	}
	secret := make([]byte, 24)
	_, _ = rand.Read(secret) // never fails
	text := tokenBegins + hex.EncodeToString(secret)
	err = l.store.Write(ctx, func(t *store.Tx) error {
		k := store.Token{ID: store.NewID(), PersonID: a.ID, Name: asked.Name, Rights: asked.Rights, Hash: tokenHash(text), MadeAt: t.Now(), EndsAt: t.Now().AddDate(0, 0, asked.Days)}
		if err := t.PutToken(k); err != nil {
			return err
		}
		out = ShownToken{ID: k.ID, Name: k.Name, Person: a.Name, Rights: k.Rights, EndsAt: k.EndsAt, Text: text}
		_, err := t.Record(store.Change{Who: a.Name, Action: store.PersonAction, Subject: fmt.Sprintf("a token for %s, until %s", k.Name, k.EndsAt.Format("2 January 2006")), After: k.Recorded()})
		return err
	})
	return out, err
}

func tokenHash(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}

// EndToken ends a token; keepers end anybody's.
func (l *Lab) EndToken(ctx context.Context, a people.Actor, id string) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		list, err := t.Tokens()
		if err != nil {
			return err
		}
		k := slices.IndexFunc(list, func(k store.Token) bool { return k.ID == id && (k.PersonID == a.ID || a.May(people.Keep)) })
		if k < 0 {
			return fmt.Errorf("this token: %w", store.ErrNotFound)
		}
		list[k].EndsAt = t.Now()
		if err := t.PutToken(list[k]); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: a.Name, Action: store.PersonAction, Subject: "the token for " + list[k].Name + " has ended", After: list[k].Recorded()})
		return err
	})
}

// tokenSeen is how often the last use of a token is noted at most.
const tokenSeen = time.Minute

// ByToken is who a token acts as.
func (l *Lab) ByToken(ctx context.Context, text string) (people.Actor, error) {
	var a people.Actor
	var k store.Token
	note := false
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		if k, err = t.TokenOf(tokenHash(text)); err != nil {
			return err
		}
		p, err := t.Person(k.PersonID)
		if err != nil {
			return err
		}
		if !k.EndsAt.After(t.Now()) || p.ClosedAt != nil {
			return store.ErrNotFound
		}
		note = k.LastUsed == nil || t.Now().Sub(*k.LastUsed) > tokenSeen
		a = people.Actor{ID: p.ID, Name: p.Name + " (" + k.Name + ")", Roles: p.Roles, Limits: k.Rights}
		return nil
	})
	if err != nil || !note {
		return a, err
	}
	return a, l.store.Write(ctx, func(t *store.Tx) error {
		now := t.Now()
		k.LastUsed = &now
		return t.PutToken(k)
	})
}
