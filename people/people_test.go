package people

import (
	"strings"
	"testing"
)

// The table is what the laboratory reads: a role may do what stands there and nothing else.
func TestRolesMayWhatTheTableSays(t *testing.T) {
	want := map[Role]string{
		Reader:    "look",
		Analyst:   "look work arrange",
		Developer: "look work develop arrange",
		Reviewer:  "look work arrange review approve put away",
		Keeper:    "look put away keep",
	}
	for role, rights := range want {
		var got []string
		for _, r := range (Actor{Roles: []Role{role}}).Rights() {
			got = append(got, string(r))
		}
		if strings.Join(got, " ") != rights {
			t.Errorf("%s may %v, want %s", role, got, rights)
		}
	}
	both := Actor{Roles: []Role{Reviewer, Keeper}}
	if !both.May(Keep) || !both.May(Work) || both.May(Develop) || both.May("alter the record") {
		t.Errorf("two roles: %v", both.Rights())
	}
	if alone := (Actor{Alone: true}); !alone.May(Keep) || !alone.May(Develop) {
		t.Error("who works alone may not do everything")
	}
	if none := (Actor{}); none.May(Look) || !none.May(Anyone) {
		t.Error("somebody without a role may look")
	}
}

// A token has its person's rights with less: never more than the person, never more than it was given.
func TestATokenIsItsPersonWithLess(t *testing.T) {
	token := Actor{Roles: []Role{Analyst}, Limits: []Right{Look, Keep}}
	if !token.May(Look) || token.May(Work) || token.May(Keep) {
		t.Errorf("it may %v", token.Rights())
	}
	if none := (Actor{Roles: []Role{Analyst}, Limits: []Right{}}); none.May(Look) {
		t.Error("a token of nothing may look")
	}
}

func TestPasswordsFitTheirHashAlone(t *testing.T) {
	const one = "kettle leaf and morning"
	hash := Hashed(one)
	if !strings.HasPrefix(hash, "$argon2id$v=19$m=65536,t=3,p=2$") || hash == Hashed(one) {
		t.Errorf("%s", hash)
	}
	if !Fits(hash, one) || Fits(hash, one+" ") || Fits(hash, "") {
		t.Error("the wrong password fits, or the right one does not")
	}
	for _, odd := range []string{"", "x", "$argon2id$v=19$m=65536,t=3,p=2$!$!", "$argon2i$v=19$m=65536,t=3,p=2$AAAA$AAAA", "$argon2id$v=19$m=99999999,t=3,p=2$AAAA$AAAA", "$argon2id$v=19$m=65536,t=0,p=2$AAAA$AAAA", "$argon2id$v=19$m=65536,t=3,p=2$AAAA$"} {
		if Fits(odd, "") || Fits(odd, one) {
			t.Errorf("something fits %q", odd)
		}
	}
}

func TestWeakPasswordsAreRefused(t *testing.T) {
	for password, says := range map[string]string{
		"elevensigns":                "at least 12",
		"aaaaaaaaaaaa":               "few different",
		"abcdefghijklm":              "counts on",
		"qwertyuiopasd":              "keyboard",
		"123456789012":               "counts on",
		"Password1234":               "tried first",
		"changeme123changeme123":     "tried first",
		"M. Okada is here":           "name of its person",
		strings.Repeat("ä1b2c3", 90): "at most",
	} {
		if got := Weak(password, "M. Okada"); !strings.Contains(got, says) {
			t.Errorf("%.20q: %q, want %q", password, got, says)
		}
	}
	for _, good := range []string{"kettle leaf and morning", "茶葉の香りはどこから来たか", "tR4!x-9qLm_2"} {
		if got := Weak(good, "M. Okada"); got != "" {
			t.Errorf("%q: %s", good, got)
		}
	}
}
