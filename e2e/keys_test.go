package e2e

import (
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// The application's own list of keys is the table that people read: no key without a row, no row without its key, no idea under two keys.
func TestOneKeyOneIdea(t *testing.T) {
	source, err := os.ReadFile("../ui/src/state/ideas.ts")
	if err != nil {
		t.Fatal(err)
	}
	table, err := os.ReadFile("../docs/keys.md")
	if err != nil {
		t.Fatal(err)
	}
	bound, byIdea := map[string]string{}, map[string]string{}
	for _, m := range regexp.MustCompile(`(?m)^  "?([^":\n]+|:)"?: "(.+)",$`).FindAllStringSubmatch(string(source), -1) {
		key, idea := written(m[1]), m[2]
		if bound[key] != "" {
			t.Errorf("%s stands twice in the application", key)
		}
		if other := byIdea[idea]; other != "" {
			t.Errorf("%s and %s both mean %s", other, key, idea)
		}
		bound[key], byIdea[idea] = idea, key
	}
	rows := map[string]string{}
	for _, m := range regexp.MustCompile(`(?m)^\| ([^|]+) \| ([^|]+) \|$`).FindAllStringSubmatch(string(table), -1) {
		if m[1] == "key" {
			continue
		}
		if rows[m[1]] != "" {
			t.Errorf("%s has two rows", m[1])
		}
		rows[m[1]] = m[2]
	}
	if len(rows) < 40 || len(bound) != len(rows) {
		t.Errorf("%d rows, %d keys", len(rows), len(bound))
	}
	for key, idea := range bound {
		if rows[key] != idea {
			t.Errorf("%s is %q in the application and %q in the table", key, idea, rows[key])
		}
	}
}

// written is a key as people read it.
func written(key string) string {
	parts := strings.Split(strings.TrimSuffix(key, "+"), "+")
	if key == "+" {
		return key
	}
	for i, p := range parts {
		switch {
		case p == " ":
			parts[i] = "Space"
		case p == "mod":
			parts[i] = "Ctrl"
		case p == "shift" || p == "alt":
			parts[i] = strings.ToUpper(p[:1]) + p[1:]
		case len(p) == 1:
			parts[i] = strings.ToUpper(p)
		}
	}
	return strings.Join(parts, " ")
}

// The keys that mean the same everywhere do it: next and previous injection, the shelf and a station by number, the field to find in a list.
func TestKeysActAsTheTableSays(t *testing.T) {
	d := open(t)
	d.station("results", "?c=egcg")
	d.until("the results", `document.querySelectorAll("[aria-label=Results] tbody tr").length > 5 && document.querySelector("[role=option][aria-selected=true]")`)
	chosen := func() int {
		return read[int](d, `[...document.querySelectorAll("[role=option]")].findIndex(o => o.getAttribute("aria-selected") === "true")`)
	}
	at := chosen()
	d.press("j", "j")
	d.until("two further", `[...document.querySelectorAll("[role=option]")].findIndex(o => o.getAttribute("aria-selected") === "true") !== `+strconv.Itoa(at))
	if got := chosen(); got != at+2 {
		t.Errorf("J twice goes from %d to %d", at, got)
	}
	d.press("k")
	d.until("one back", `[...document.querySelectorAll("[role=option]")].findIndex(o => o.getAttribute("aria-selected") === "true") === `+strconv.Itoa(at+1))
	d.press("/")
	d.until("the filter", `document.activeElement?.getAttribute("aria-label") === "Filter by name"`)
	d.press("Jj")
	if got := chosen(); got != at+1 {
		t.Error("a letter in a field walks the injections")
	}
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.do(chromedp.KeyEvent("5", chromedp.KeyModifiers(1)))
	d.until("the fifth station", `document.querySelector("nav a.on")?.innerText.startsWith("Curves")`)
	d.do(chromedp.KeyEvent("0", chromedp.KeyModifiers(1)))
	d.until("the shelf", `location.pathname === "/" && document.body.innerText.includes("Green tea assay")`)
	d.press("/")
	d.until("the field to find a batch", `document.activeElement?.type === "search"`)
	d.quiet()
}
