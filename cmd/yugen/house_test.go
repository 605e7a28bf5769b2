package main

import (
	"os/exec"
	"strings"
	"testing"
)

// rooms says what each room may import of this module; a room is a prefix of package paths. Everything may import core.
var rooms = map[string][]string{
	"yugen/core/":      {"yugen/core/"},
	"yugen/formats":    {"yugen/core/", "yugen/formats"},
	"yugen/bench":      {"yugen/core/", "yugen/formats", "yugen/bench"},
	"yugen/instrument": {"yugen/core/", "yugen/bench", "yugen/instrument"},
	"yugen/jobs":       {"yugen/jobs"},
	"yugen/raw":        {"yugen/core/", "yugen/raw"},
	"yugen/people":     {"yugen/people"},
	"yugen/store":      {"yugen/core/", "yugen/formats", "yugen/jobs", "yugen/people", "yugen/raw", "yugen/store"},
	"yugen/report":     {"yugen/core/", "yugen/report"},
	"yugen/lab":        {"yugen/core/", "yugen/formats", "yugen/bench", "yugen/instrument", "yugen/jobs", "yugen/people", "yugen/raw", "yugen/store", "yugen/report", "yugen/formula", "yugen/lab"},
	"yugen/mailbox":    {},
	"yugen/receiver":   {},
	"yugen/formula":    {"yugen/core/", "yugen/formula"},
	"yugen/server":     {"yugen/core/", "yugen/formats", "yugen/instrument", "yugen/jobs", "yugen/people", "yugen/report/layouts", "yugen/store", "yugen/lab", "yugen/server"},
	"yugen/cmd/":       {"yugen/"},
	"yugen/e2e":        {"yugen/"},
}

// inside orders the rooms of the core: a package may import those before it.
var inside = []string{"yugen/core/signal", "yugen/core/spectra", "yugen/core/channels", "yugen/core/resolving", "yugen/core/compare", "yugen/core/peaks", "yugen/core/compounds", "yugen/core/curves", "yugen/core/amounts", "yugen/core/checks", "yugen/core/screening", "yugen/core/batch", "yugen/core/quantities", "yugen/core/summary", "yugen/core/trends"}

func TestTheArrowsRunOneWay(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}} {{join .Imports \" \"}}", "yugen/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	if len(lines) < 15 {
		t.Fatalf("only %d packages", len(lines))
	}
	for _, line := range lines {
		fields := strings.Fields(line)
		checkRoom(t, fields[0], fields[1:])
	}
}

func checkRoom(t *testing.T, pkg string, imports []string) {
	t.Helper()
	for room, allowed := range rooms {
		if !strings.HasPrefix(pkg, room) {
			continue
		}
		for _, i := range imports {
			own := strings.HasPrefix(i, "yugen/")
			if own && !hasAnyPrefix(i, allowed) {
				t.Errorf("%s must not import %s", pkg, i)
			}
			// The core stands on the standard library and gonum alone.
			if room == "yugen/core/" && !own && strings.Contains(strings.SplitN(i, "/", 2)[0], ".") && !strings.HasPrefix(i, "gonum.org/") {
				t.Errorf("%s must not import %s", pkg, i)
			}
			if a, b := position(pkg), position(i); a >= 0 && b >= a {
				t.Errorf("%s must not import %s", pkg, i)
			}
		}
		return
	}
	t.Errorf("%s is in no room of the house", pkg)
}

func hasAnyPrefix(s string, prefixes []string) bool {
	for _, p := range prefixes {
		if strings.HasPrefix(s, p) {
			return true
		}
	}
	return false
}

func position(pkg string) int {
	for i, p := range inside {
		if p == pkg {
			return i
		}
	}
	return -1
}
