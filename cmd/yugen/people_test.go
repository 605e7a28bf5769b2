package main

import (
	"path/filepath"
	"strings"
	"testing"
)

// The first keeper is made at the console, by a password that is not among the arguments; without one nobody signs in, and beyond this computer nothing is served.
func TestPeopleAtTheConsole(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	const good = "kettle leaf and morning\n"
	for _, c := range []struct {
		in   string
		args []string
		code int
		says string
	}{
		{"", []string{"serve", "--people", "--port", "0", "--data", dir}, 1, "make the first keeper"},
		{"", []string{"serve", "--address", "0.0.0.0", "--port", "0", "--data", dir}, 1, "reached from this computer alone"},
		{"", []string{"serve", "--behind", "https://yugen.example", "--port", "0", "--data", dir}, 1, "reached from this computer alone"},
		{"short\n", []string{"people", "add", "L. Ferreira", "--role", "keeper", "--data", dir}, 1, "at least 12 signs"},
		{good, []string{"people", "add", "L. Ferreira", "--role", "chief", "--data", dir}, 1, "is no role"},
		{good, []string{"people", "add", "L. Ferreira", "--role", "keeper,reviewer", "--data", dir}, 0, ""},
		{good, []string{"people", "add", "l. ferreira", "--data", dir}, 1, "never used twice"},
		{good, []string{"people", "password", "Nobody", "--data", dir}, 1, "no Nobody here"},
		{"another evening of rain\n", []string{"people", "password", "L. Ferreira", "--data", dir}, 0, ""},
		{"", []string{"people", "--data", dir}, 0, "Nobody signs in"},
		{"", []string{"people", "--data", dir}, 0, "L. Ferreira\tkeeper, reviewer"},
		{"", []string{"serve", "--people", "--address", "0.0.0.0", "--port", "0", "--data", dir}, 1, "for everybody to read"},
		{"", []string{"people", "--data", dir}, 0, "People sign in."},
		{"", []string{"serve", "--tls-certificate", "none.pem", "--port", "0", "--data", dir}, 1, "cannot be used"},
		{"", []string{"serve", "--behind", "yugen", "--port", "0", "--data", dir}, 1, "no address of a proxy"},
		{"", []string{"people", "off", "--data", dir}, 0, ""},
		{"", []string{"people", "--data", dir}, 0, "Nobody signs in"},
		{"", []string{"check", dir}, 0, "All is well"},
	} {
		out, errs, code := yugen(t, c.in, c.args...)
		if code != c.code || !strings.Contains(out+errs, c.says) {
			t.Errorf("%v: %d %s%s, want %q", c.args, code, out, errs, c.says)
		}
	}
}
