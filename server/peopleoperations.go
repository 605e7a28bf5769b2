package server

import (
	"net/http"

	"yugen/lab"
	"yugen/people"
)

// SigningIn is a name with its password.
type SigningIn struct {
	Name     string `json:"name"`
	Password string `json:"password"`
}

// PasswordChange is a new password with the one before.
type PasswordChange struct {
	Present string `json:"present"`
	Next    string `json:"next"`
}

// Staff is who may come in, and what the roles may do.
type Staff struct {
	People []lab.Person  `json:"people"`
	Table  []people.Row  `json:"table"`
	Roles  []people.Role `json:"roles"`
}

func (s *server) staff(c *call) (any, error) {
	list, err := s.lab.People(c.Request().Context())
	return Staff{list, people.Table, people.Roles}, err
}

// peopleOperations are about who may come in.
func (s *server) peopleOperations() []operation {
	return []operation{
		{http.MethodGet, "/session", "session", "Who one is here, and what one may do", nil, nil, Myself{}, func(c *call, _ any) (any, error) {
			return s.whoami(c.actor), nil
		}},
		{http.MethodPost, "/session", "signIn", "Sign in by name and password", nil, &SigningIn{}, Myself{}, func(c *call, body any) (any, error) {
			b := body.(*SigningIn)
			return s.signIn(c, b.Name, b.Password)
		}},
		{http.MethodDelete, "/session", "signOut", "Sign out", nil, nil, Myself{}, func(c *call, _ any) (any, error) { return s.signOut(c, false) }},
		{http.MethodPost, "/session/everywhere", "signOutEverywhere", "Sign out of every browser", nil, nil, Myself{}, func(c *call, _ any) (any, error) { return s.signOut(c, true) }},
		{http.MethodPost, "/session/password", "changePassword", "Change one's own password; every session ends", nil, &PasswordChange{}, Myself{}, func(c *call, body any) (any, error) {
			b := body.(*PasswordChange)
			if err := s.lab.ChangeOwnPassword(c.Request().Context(), c.actor, b.Present, b.Next); err != nil {
				return nil, err
			}
			return s.signIn(c, c.actor.Name, b.Next)
		}},
		{http.MethodGet, "/people", "people", "Who may come in, and what the roles may do", nil, nil, Staff{}, func(c *call, _ any) (any, error) { return s.staff(c) }},
		{http.MethodPost, "/people", "addPerson", "Let somebody in", nil, &lab.PersonAsked{}, Staff{}, func(c *call, body any) (any, error) {
			if _, err := s.lab.AddPerson(c.Request().Context(), *body.(*lab.PersonAsked), c.who); err != nil {
				return nil, err
			}
			return s.staff(c)
		}},
		{http.MethodPatch, "/people/:person", "changePerson", "Change roles or password of somebody, or whether they may come in", nil, &lab.PersonAsked{}, Staff{}, func(c *call, body any) (any, error) {
			if _, err := s.lab.ChangePerson(c.Request().Context(), c.Param("person"), *body.(*lab.PersonAsked), c.who); err != nil {
				return nil, err
			}
			return s.staff(c)
		}},
		{http.MethodGet, "/tokens", "tokens", "Tokens that have not ended", nil, nil, []lab.ShownToken{}, func(c *call, _ any) (any, error) {
			return s.lab.Tokens(c.Request().Context())
		}},
		{http.MethodPost, "/tokens", "newToken", "Make a token that acts as oneself, with less; its text is shown once", nil, &lab.TokenAsked{}, lab.ShownToken{}, func(c *call, body any) (any, error) {
			return s.lab.NewToken(c.Request().Context(), c.actor, *body.(*lab.TokenAsked))
		}},
		{http.MethodDelete, "/tokens/:token", "endToken", "End a token", nil, nil, []lab.ShownToken{}, func(c *call, _ any) (any, error) {
			if err := s.lab.EndToken(c.Request().Context(), c.actor, c.Param("token")); err != nil {
				return nil, err
			}
			return []lab.ShownToken{}, nil
		}},
	}
}
