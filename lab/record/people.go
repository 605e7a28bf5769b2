package record

import (
	"encoding/json"
	"strings"

	"yugen/store"
)

// entrance is what the record says of who may come in.
type entrance struct {
	people map[string]string // by id
	tokens map[string]string
	signIn string
	// installation is what it has decided of itself.
	installation string
}

func (e *entrance) see(c store.Change) {
	if c.Action == store.SettingsAction {
		e.installation = c.After
	}
	if c.Action != store.PersonAction {
		return
	}
	if value, is := strings.CutPrefix(c.After, store.SignIn+" "); is {
		e.signIn = value
		return
	}
	var of struct{ Person, Token string }
	if json.Unmarshal([]byte(c.After), &of) != nil {
		return
	}
	switch {
	case of.Token != "":
		e.tokens[of.Token] = c.After
	case of.Person != "":
		e.people[of.Person] = c.After
	}
}

// checkEntrance compares people, tokens and whether people sign in with what the record says.
func (r *recorded) checkEntrance(t *store.Tx) error {
	list, err := t.People()
	if err != nil {
		return err
	}
	for _, p := range list {
		if r.entrance.people[p.ID] != p.Recorded() {
			r.say("What %s may do, or whether they may come in, was changed past the record.", p.Name)
		}
		delete(r.entrance.people, p.ID)
	}
	tokens, err := t.Tokens()
	if err != nil {
		return err
	}
	for _, k := range tokens {
		if r.entrance.tokens[k.ID] != k.Recorded() {
			r.say("The token for %s was changed past the record.", k.Name)
		}
		delete(r.entrance.tokens, k.ID)
	}
	decided, err := t.Setting(store.InstallationSetting)
	if err != nil {
		return err
	}
	if decided != r.entrance.installation {
		r.say("The settings of the installation were changed past the record.")
	}
	if gone := len(r.entrance.people) + len(r.entrance.tokens); gone > 0 {
		r.say("People or tokens of which the record tells are missing: %d.", gone)
	}
	on, err := t.Setting(store.SignIn)
	if err == nil && on != r.entrance.signIn {
		r.say("Whether people sign in was changed past the record.")
	}
	return err
}
