package server

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

// Entrance is how the application is reached, and by whom.
type Entrance struct {
	Analyst string   // who acts where nobody signs in and a request does not say
	Hosts   []string // names and addresses, with port, under which it may be asked
	People  bool     // people sign in
	Secure  bool     // it is reached by https, so that cookies go nowhere else
	// Behind says that a proxy on this machine passes requests on, and in the last entry of X-Forwarded-For from where.
	Behind bool
	Away   time.Duration // how long somebody may be away before they sign in again; 0 is the usual
}

// Of sessions: how long they last at most, and how often somebody's being there is noted at most, as a share of how long they may be away.
const (
	longestSession = 12 * time.Hour
	UsualAway      = 20 * time.Minute
	noted          = 20
)

// waiting is how many sign-ins may stand in line; more are refused, since each costs much.
const waiting = 16

func (s *server) newSessions() {
	s.entrance.Away = cmp.Or(s.entrance.Away, UsualAway)
	m := scs.New()
	m.Store = sessions{s.lab.Sessions()}
	m.Lifetime, m.HashTokenInStore = longestSession, true
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.SameSite, m.Cookie.Secure = "yugen", true, http.SameSiteStrictMode, s.entrance.Secure
	m.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		slog.Error("sessions cannot be kept", "path", r.URL.Path, "error", err)
		http.Error(w, "Sessions cannot be kept just now.", http.StatusInternalServerError)
	}
	s.sessions, s.line = m, make(chan struct{}, waiting)
}

// actor is who a request is from: the person of a session or a token, or where nobody signs in whoever it says.
func (s *server) actor(c *echo.Context) (people.Actor, error) {
	if !s.entrance.People {
		return people.Actor{Name: s.named(c), Alone: true}, nil
	}
	ctx := c.Request().Context()
	if text, found := strings.CutPrefix(c.Request().Header.Get("Authorization"), "Bearer "); found {
		a, err := s.lab.ByToken(ctx, strings.TrimSpace(text))
		if errors.Is(err, store.ErrNotFound) {
			err = problem{Status: http.StatusUnauthorized, Detail: "This token is none, or has ended."}
		}
		return a, err
	}
	id := s.sessions.GetString(ctx, "person")
	if id == "" {
		return people.Actor{}, nil
	}
	away := time.Since(time.UnixMilli(s.sessions.GetInt64(ctx, "seen")))
	if away > s.entrance.Away {
		return people.Actor{}, errors.Join(problem{Status: http.StatusUnauthorized, Detail: fmt.Sprintf("You were away for more than %s, so sign in again. Nothing is lost.", s.entrance.Away)}, s.sessions.Destroy(ctx))
	}
	a, err := s.lab.Here(ctx, id, s.sessions.GetInt(ctx, "generation"))
	if errors.Is(err, store.ErrNotFound) {
		return people.Actor{}, errors.Join(problem{Status: http.StatusUnauthorized, Detail: "This session was ended. Sign in again; nothing is lost."}, s.sessions.Destroy(ctx))
	}
	if err == nil && away > s.entrance.Away/noted {
		s.sessions.Put(ctx, "seen", time.Now().UnixMilli())
	}
	return a, err
}

// stillThere is how often a stream that stays open asks whether its session still holds.
func (e Entrance) stillThere() time.Duration {
	return min(30*time.Second, max(e.Away/noted, 100*time.Millisecond))
}

// still tells whether who asked for something that goes on may still come in.
func (s *server) still(c *echo.Context) error {
	a, _ := c.Get("actor").(people.Actor)
	if !s.entrance.People || a.Limits != nil {
		return nil
	}
	now, err := s.sessions.Load(context.WithoutCancel(context.Background()), s.sessions.Token(c.Request().Context()))
	if err != nil {
		return err
	}
	if s.sessions.GetString(now, "person") != a.ID {
		return store.ErrNotFound
	}
	_, err = s.lab.Here(now, a.ID, s.sessions.GetInt(now, "generation"))
	return err
}

// may lets a request through that its actor has the right for.
func (s *server) may(c *echo.Context, id, method string) (people.Actor, error) {
	right, there := rightFor(id, method)
	a, err := s.actor(c)
	if err != nil && right == people.Anyone && there { // an ended session keeps nobody from signing in
		return people.Actor{}, nil
	}
	switch {
	case err != nil:
		return a, err
	case a.Alone, there && a.May(right):
		return a, nil
	case a.ID == "":
		return a, problem{Status: http.StatusUnauthorized, Detail: "Sign in first."}
	}
	if method != http.MethodGet {
		if err := s.lab.Refused(c.Request().Context(), id, a.Name); err != nil {
			return a, err
		}
	}
	return a, problem{Status: http.StatusForbidden, Detail: fmt.Sprintf("%s may not do this: it wants the right to %s.", a.Name, says(right))}
}

func says(r people.Right) string {
	for _, row := range people.Table {
		if row.Right == r {
			return strings.ToLower(row.Says[:1]) + row.Says[1:]
		}
	}
	return "change what nobody may"
}

// named is the analyst that a request names.
func (s *server) named(c *echo.Context) string {
	name, err := url.PathUnescape(c.Request().Header.Get("Yugen-Analyst"))
	if name = strings.TrimSpace(name); err != nil || name == "" || len(name) > 100 {
		return s.entrance.Analyst
	}
	return name
}

// placed tells the record from where a change is asked.
func (s *server) placed(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		place, _, err := net.SplitHostPort(r.RemoteAddr)
		if err != nil {
			place = r.RemoteAddr
		}
		if ip := net.ParseIP(place); s.entrance.Behind && ip != nil && ip.IsLoopback() {
			list := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
			if last := net.ParseIP(strings.TrimSpace(list[len(list)-1])); last != nil {
				place = last.String()
			}
		}
		c.SetRequest(r.WithContext(store.From(r.Context(), place)))
		return next(c)
	}
}

// Myself is who somebody is here, and what they may do.
type Myself struct {
	SignsIn bool           `json:"signs_in"` // people sign in here
	Name    string         `json:"name"`     // empty for who has not
	Roles   []people.Role  `json:"roles"`
	Rights  []people.Right `json:"rights"`
}

func (s *server) whoami(a people.Actor) Myself {
	w := Myself{SignsIn: s.entrance.People, Name: a.Name, Roles: a.Roles, Rights: a.Rights()}
	if w.Roles == nil {
		w.Roles = []people.Role{}
	}
	return w
}

// signIn lets somebody in. Their session is a new one, so that one which was slipped to them is worth nothing.
func (s *server) signIn(c *call, name, password string) (any, error) {
	if !s.entrance.People {
		return nil, problem{Status: http.StatusConflict, Detail: "Nobody signs in here."}
	}
	select {
	case s.line <- struct{}{}:
		defer func() { <-s.line }()
	default:
		return nil, problem{Status: http.StatusTooManyRequests, Detail: "Too many sign in at once. Wait a moment, and try again."}
	}
	ctx := c.Request().Context()
	p, err := s.lab.SignIn(ctx, name, password)
	if errors.Is(err, lab.ErrNotThem) {
		return nil, problem{Status: http.StatusUnauthorized, Detail: "This name and password do not belong together."}
	}
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, "person", p.ID)
	s.sessions.Put(ctx, "generation", p.Generation)
	s.sessions.Put(ctx, "seen", time.Now().UnixMilli())
	return s.whoami(people.Actor{ID: p.ID, Name: p.Name, Roles: p.Roles}), nil
}

func (s *server) signOut(c *call, everywhere bool) (any, error) {
	if c.actor.Limits != nil {
		return nil, problem{Status: http.StatusForbidden, Detail: "A token does not sign anybody out."}
	}
	if c.actor.ID != "" {
		if err := s.lab.SignedOut(c.Request().Context(), c.actor, everywhere); err != nil {
			return nil, err
		}
		if err := s.sessions.Destroy(c.Request().Context()); err != nil {
			return nil, err
		}
	}
	return s.whoami(people.Actor{Alone: !s.entrance.People}), nil
}
