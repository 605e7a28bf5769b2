package lab

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/lab/record"
	"yugen/people"
	"yugen/store"
)

const morning, evening = "kettle leaf and morning", "evening rain on bamboo"

// staffed is an empty installation with a keeper and an analyst.
func staffed(t *testing.T) (*Lab, Person, Person) {
	t.Helper()
	l := openLab(t)
	keeper := must[Person](t)(l.AddPerson(t.Context(), PersonAsked{Name: "L. Ferreira", Roles: []people.Role{people.Keeper}, Password: morning}, "console"))
	analyst := must[Person](t)(l.AddPerson(t.Context(), PersonAsked{Name: " M.  Okada ", Roles: []people.Role{people.Analyst}, Password: evening}, keeper.Name))
	return l, keeper, analyst
}

// Somebody comes in by name and password, in whatever letters the name is typed; who fails five times waits, also with the right password; the record tells all of it.
func TestPeopleSignIn(t *testing.T) {
	l, _, analyst := staffed(t)
	ctx := t.Context()
	p := must[store.KeptPerson](t)(l.SignIn(ctx, "m. okada", evening))
	if p.Name != "M. Okada" || p.LastHere == nil {
		t.Errorf("%+v", p)
	}
	if a := must[people.Actor](t)(l.Here(ctx, p.ID, p.Generation)); a.Name != "M. Okada" || !a.May(people.Work) || a.May(people.Keep) {
		t.Errorf("%+v", a)
	}
	if _, err := l.SignIn(ctx, "Nobody", evening); !errors.Is(err, ErrNotThem) {
		t.Errorf("a name that is not there: %v", err)
	}
	for range failuresAtOnce {
		if _, err := l.SignIn(ctx, "M. Okada", morning); !errors.Is(err, ErrNotThem) {
			t.Errorf("a wrong password: %v", err)
		}
	}
	if _, err := l.SignIn(ctx, "M. Okada", evening); err == nil || !strings.Contains(err.Error(), "Wait 1 minute") {
		t.Errorf("after five failures: %v", err)
	}
	// A name that is not there waits as long, so that waiting tells nothing.
	for range failuresAtOnce - 1 {
		if _, err := l.SignIn(ctx, "nobody", morning); !errors.Is(err, ErrNotThem) {
			t.Errorf("a name that is not there: %v", err)
		}
	}
	if _, err := l.SignIn(ctx, "Nobody", evening); err == nil || !strings.Contains(err.Error(), "Wait 1 minute") {
		t.Errorf("a name that is not there, after five failures: %v", err)
	}
	// Another password from a keeper lets them in again at once, and ends what was open.
	must[Person](t)(l.ChangePerson(ctx, analyst.ID, PersonAsked{Password: "a third one for today"}, "L. Ferreira"))
	if _, err := l.Here(ctx, p.ID, p.Generation); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a session outlives its password: %v", err)
	}
	must[store.KeptPerson](t)(l.SignIn(ctx, "M. Okada", "a third one for today"))
	var says []string
	if err := l.store.Read(ctx, func(tx *store.Tx) error {
		return tx.EachChange(func(c store.Change) error {
			if c.Action == store.PersonAction {
				says = append(says, c.Who+": "+c.Subject)
			}
			if strings.Contains(c.Before+c.After, "argon2") {
				t.Error("a password is in the record")
			}
			return nil
		})
	}); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"console: L. Ferreira may come in", "M. Okada: signed in", "unknown: an attempt to sign in failed", "M. Okada: an attempt to sign in failed", "L. Ferreira: M. Okada has another password"} {
		if !slices.Contains(says, want) {
			t.Errorf("%q is not in the record: %v", want, says)
		}
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) > 0 {
		t.Errorf("%v", v.Wrong)
	}
}

func TestWaitingGrowsAndEnds(t *testing.T) {
	l, _, analyst := staffed(t)
	var waits []time.Duration
	if err := l.store.Write(t.Context(), func(tx *store.Tx) error {
		p, err := tx.Person(analyst.ID)
		for range 14 {
			attempted(tx, &p, false)
			if p.WaitUntil != nil {
				waits = append(waits, p.WaitUntil.Sub(tx.Now()))
			}
		}
		if mayTry(tx, p) == nil {
			t.Error("somebody who has to wait may try")
		}
		past := tx.Now().Add(-time.Second)
		if p.WaitUntil = &past; mayTry(tx, p) != nil {
			t.Error("waiting does not end")
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if len(waits) != 10 || waits[0] != time.Minute || waits[1] != 2*time.Minute || waits[9] != time.Hour {
		t.Errorf("%v", waits)
	}
}

// The last keeper stays one; names are used once; roles and passwords are checked; who is closed is out at once and keeps the name.
func TestPeopleAreKept(t *testing.T) {
	l, keeper, analyst := staffed(t)
	ctx := t.Context()
	yes := true
	for says, do := range map[string]func() error{
		"is the last keeper": func() error { _, err := l.ChangePerson(ctx, keeper.ID, PersonAsked{Closed: &yes}, "x"); return err },
		"the last keeper; make": func() error {
			_, err := l.ChangePerson(ctx, keeper.ID, PersonAsked{Roles: []people.Role{people.Reader}}, "x")
			return err
		},
		"names are never used twice": func() error {
			_, err := l.AddPerson(ctx, PersonAsked{Name: "m. okada", Roles: []people.Role{people.Reader}, Password: morning}, "x")
			return err
		},
		"is no role": func() error {
			_, err := l.AddPerson(ctx, PersonAsked{Name: "X", Roles: []people.Role{"chief"}, Password: morning}, "x")
			return err
		},
		"at least one role": func() error { _, err := l.AddPerson(ctx, PersonAsked{Name: "X", Password: morning}, "x"); return err },
		"at least 12 signs": func() error {
			_, err := l.ChangePerson(ctx, analyst.ID, PersonAsked{Password: "short"}, "x")
			return err
		},
		"not your present": func() error {
			return l.ChangeOwnPassword(ctx, people.Actor{ID: analyst.ID, Name: analyst.Name}, "wrong", morning)
		},
	} {
		if err := do(); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
	if err := l.ChangeOwnPassword(ctx, people.Actor{ID: analyst.ID, Name: analyst.Name}, evening, "a second one of my own"); err != nil {
		t.Error(err)
	}
	p := must[store.KeptPerson](t)(l.SignIn(ctx, "M. Okada", "a second one of my own"))
	must[Person](t)(l.ChangePerson(ctx, analyst.ID, PersonAsked{Closed: &yes}, keeper.Name))
	if _, err := l.Here(ctx, p.ID, p.Generation); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("who is closed is still in: %v", err)
	}
	if _, err := l.SignIn(ctx, "M. Okada", "a second one of my own"); !errors.Is(err, ErrNotThem) {
		t.Errorf("who is closed comes in: %v", err)
	}
	if list := must[[]Person](t)(l.People(ctx)); len(list) != 2 || list[1].ClosedAt == nil {
		t.Errorf("%+v", list)
	}
	if err := openLab(t).LetPeopleSignIn(ctx, true, "x"); err == nil || !strings.Contains(err.Error(), "nobody could let others in") {
		t.Errorf("without a keeper: %v", err)
	}
	if err := l.LetPeopleSignIn(ctx, true, "x"); err != nil || !must[bool](t)(l.SigningIn(ctx)) {
		t.Error(err)
	}
}

// A token acts as its person with less, until it ends or its person is closed; its text is kept nowhere.
func TestTokensActForTheirPeople(t *testing.T) {
	l, keeper, analyst := staffed(t)
	ctx := t.Context()
	me := people.Actor{ID: analyst.ID, Name: analyst.Name, Roles: analyst.Roles}
	for _, asked := range []TokenAsked{{"", []people.Right{people.Look}, 3}, {"n", nil, 3}, {"n", []people.Right{people.Look}, 0}, {"n", []people.Right{people.Look}, 367}, {"n", []people.Right{people.Develop}, 3}, {"n", []people.Right{people.Keep}, 3}} {
		if _, err := l.NewToken(ctx, me, asked); !errors.Is(err, ErrRefused) {
			t.Errorf("%+v: %v", asked, err)
		}
	}
	k := must[ShownToken](t)(l.NewToken(ctx, me, TokenAsked{"night import", []people.Right{people.Look}, 30}))
	a := must[people.Actor](t)(l.ByToken(ctx, k.Text))
	if a.Name != "M. Okada (night import)" || !a.May(people.Look) || a.May(people.Work) {
		t.Errorf("%+v", a)
	}
	boss := people.Actor{ID: keeper.ID, Name: keeper.Name, Roles: keeper.Roles}
	must[ShownToken](t)(l.NewToken(ctx, boss, TokenAsked{"backup", []people.Right{people.Look}, 30}))
	if list := must[[]ShownToken](t)(l.Tokens(ctx, me)); len(list) != 1 || list[0].Text != "" || list[0].LastUsed == nil {
		t.Errorf("one's own: %+v", list)
	}
	if list := must[[]ShownToken](t)(l.Tokens(ctx, boss)); len(list) != 2 {
		t.Errorf("a keeper sees everybody's: %+v", list)
	}
	if _, err := l.ByToken(ctx, k.Text+"0"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another text: %v", err)
	}
	if err := l.EndToken(ctx, people.Actor{ID: "other"}, k.ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("somebody else ends it: %v", err)
	}
	if err := l.EndToken(ctx, boss, k.ID); err != nil {
		t.Error(err)
	}
	if _, err := l.ByToken(ctx, k.Text); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("it has ended: %v", err)
	}
}

// Who gives themselves a role past the record is found, as is a token that lasts longer, somebody let in by nobody, and signing in turned off.
func TestPeopleChangedPastTheRecordAreFound(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	l := New(s)
	keeper := must[Person](t)(l.AddPerson(t.Context(), PersonAsked{Name: "L. Ferreira", Roles: []people.Role{people.Keeper}, Password: morning}, "console"))
	must[ShownToken](t)(l.NewToken(t.Context(), people.Actor{ID: keeper.ID, Name: keeper.Name, Roles: keeper.Roles}, TokenAsked{"copies", []people.Right{people.Look}, 3}))
	if err := l.LetPeopleSignIn(t.Context(), true, "console"); err != nil {
		t.Fatal(err)
	}
	l.Close()
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if wrong := found(t, dir); len(wrong) > 0 {
		t.Fatalf("untouched: %v", wrong)
	}
	for how, want := range map[string]string{
		`UPDATE people SET roles = '["keeper","reviewer"]'`:            "What L. Ferreira may do",
		"UPDATE people SET closed_at = made_at":                        "What L. Ferreira may do",
		"UPDATE tokens SET ends_at = '2099-01-01T00:00:00.000000000Z'": "The token for copies",
		"DELETE FROM tokens":                                           "of which the record tells are missing: 1",
		"INSERT INTO people SELECT id || 'x', 'Ghost', roles, password, made_at, closed_at, last_here, failures, wait_until, generation FROM people": "What Ghost may do",
		"UPDATE settings SET value = 'off'": "Whether people sign in",
	} {
		if wrong := strings.Join(found(t, altered(t, dir, how)), " "); !strings.Contains(wrong, want) {
			t.Errorf("%s: found %q, want %q", how, wrong, want)
		}
	}
}
