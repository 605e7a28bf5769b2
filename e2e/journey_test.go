package e2e

import (
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
)

// journey counts what a person does: one click, drop, shortcut or filled field is one action.
type journey struct {
	*desk
	actions []string
}

func (j *journey) act(what string, step ...chromedp.Action[chromedp.Void]) {
	j.t.Helper()
	j.actions = append(j.actions, what)
	j.do(step...)
}

// drop puts files where they are chosen, in the folder of a test.
func (j *journey) drop(files []bench.File) {
	j.t.Helper()
	dir := j.t.TempDir()
	var paths []string
	for _, f := range files {
		p := filepath.Join(dir, f.Name)
		if err := os.WriteFile(p, f.Data, 0o644); err != nil {
			j.t.Fatal(err)
		}
		paths = append(paths, p)
	}
	j.act("drop files", chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), paths))
}

func (j *journey) shortcut(key string, modifiers ...chromedp.Modifier) {
	j.t.Helper()
	options := []chromedp.KeyOption{}
	for _, m := range modifiers {
		options = append(options, chromedp.KeyModifiers(m))
	}
	j.act(key, chromedp.KeyEvent(key, options...))
}

func (j *journey) press1(selector, text string) {
	j.t.Helper()
	j.act("click "+text, chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`[...document.querySelectorAll(%q)].find(e => e.innerText.trim().startsWith(%q)).click()`, selector, text)))
}

// fill types into the field that has the focus.
func (j *journey) fill(text string) {
	j.t.Helper()
	j.act("type "+text, chromedp.KeyEvent(text))
}

// printed is the report as it comes by its button, as text.
func (j *journey) printed() string {
	j.t.Helper()
	j.until("the page", `document.querySelectorAll(".sheet svg").length >= 1`)
	j.actions = append(j.actions, "click PDF")
	data := get(j.t, read[string](j.desk, `document.querySelector('a[download="report.pdf"]').href`))
	file := filepath.Join(j.t.TempDir(), "report.pdf")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		j.t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		j.t.Fatal(err)
	}
	return string(text)
}

func (j *journey) within(most int) {
	j.t.Helper()
	j.t.Logf("%d actions: %s", len(j.actions), strings.Join(j.actions, ", "))
	if len(j.actions) > most {
		j.t.Errorf("it takes %d actions, %d are the most", len(j.actions), most)
	}
}

// numberAfter is the first number that follows a word on its line.
func numberAfter(t *testing.T, text, word string) float64 {
	t.Helper()
	m := regexp.MustCompile(`(?m)^\s*` + regexp.QuoteMeta(word) + `\s+([\d.]+)`).FindStringSubmatch(text)
	if m == nil {
		t.Fatalf("no number stands after %q in\n%s", word, text)
	}
	v, err := strconv.ParseFloat(m[1], 64)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// A student with seven files, from the empty shelf to one number that is right, on paper.
func TestTheStudentsJourney(t *testing.T) {
	j := &journey{desk: openEmpty(t)}
	j.do(chromedp.Navigate(j.address + "/"))
	j.until("three ways to begin", `["Your files", "A table of readings", "The demo"].every(w => document.querySelector("[aria-label='" + w + "'] button"))`)
	j.accessible("the empty shelf")
	j.drop(bench.Practical(5))
	j.until("the one thing that is asked, with the focus", `document.activeElement?.closest(".name") && document.querySelectorAll("[aria-label=Files] tbody tr").length === 7`)
	j.until("a curve with the reading on it", `!!document.querySelector("[aria-label=Reading] .step")`)
	j.accessible("the whole way, proposed")
	if !read[bool](j.desk, `document.querySelector(".way .lede b").classList.contains("dotted")`) {
		t.Error("the reading does not look proposed, though nothing is kept")
	}
	if dotted := read[int](j.desk, `document.querySelectorAll("table[aria-label=Files] .proposed").length`); dotted < 13 {
		t.Errorf("%d roles and levels are marked as proposed", dotted)
	}
	if kept := read[int](j.desk, `fetch("/api/batches/" + location.pathname.split("/")[1]).then(r => r.json()).then(v => v.batch.injections.filter(i => i.role).length)`, chromedp.EvalAwaitPromise); kept != 0 {
		t.Errorf("%d roles are kept before anybody has said so", kept)
	}
	j.fill("Caffeine")
	j.until("the name in the reading", `document.querySelector(".way .lede").innerText.includes("of Caffeine")`)
	j.shortcut(kb.Enter, 8)
	j.until("who is working", `document.activeElement?.id === "who"`)
	j.accessible("who is working")
	j.fill("Kim Tanaka")
	j.do(chromedp.Sleep(400 * time.Millisecond)) // an Enter of before must not answer
	j.shortcut(kb.Enter)
	j.until("all kept", `document.querySelector("[aria-label=Proposed]").innerText.includes("All of it is kept") && document.querySelectorAll(".proposed").length === 0`)
	j.shortcut("8", 1)
	paper := j.printed()
	if got := numberAfter(t, paper, "unknown cola"); math.Abs(got/bench.PracticalReads-1) > 0.02 {
		t.Errorf("the paper reads %g, in truth it is %g", got, bench.PracticalReads)
	}
	for _, want := range []string{"Caffeine", "mg/L", "Kim Tanaka"} {
		if !strings.Contains(paper, want) {
			t.Errorf("%q is not on paper:\n%s", want, paper)
		}
	}
	j.within(14)

	// All that was kept goes with one step back.
	j.shortcut("1", 1)
	j.until("Batch", `document.querySelector("nav a.on")?.innerText.startsWith("Batch")`)
	j.shortcut("z", 2)
	j.until("all proposed again", `document.querySelector("[aria-label=Proposed]")?.innerText.includes("5, none kept")`)
	j.quiet()
}

// The same with names that lack the unit, a standard that lies off, and an unknown above the levels: each is told, none is passed over.
func TestTheStudentsTroubles(t *testing.T) {
	j := &journey{desk: openEmpty(t)}
	j.do(chromedp.Navigate(j.address + "/"))
	j.until("the shelf", `!!document.querySelector("[aria-label='Your files'] button")`)
	files := bench.Practical(6)
	for i := range files {
		files[i].Name = strings.Replace(files[i].Name, " mg-L", "", 1)
	}
	j.drop(files)
	j.until("the unit asked for", `document.querySelector("[aria-label='Only you know']")?.innerText.includes("unit of the levels")`)
	if read[bool](j.desk, `!!document.querySelector("[aria-label=Reading] .step")`) {
		t.Error("something is read without a unit")
	}
	j.fill("Caffeine")
	j.press1("[aria-label='Only you know'] button", "mg/L")
	j.until("a reading", `!!document.querySelector("[aria-label=Reading] .step")`)
	// A level is refused, and what hangs on it goes.
	j.press1("[aria-label=Proposed] .text", "Levels")
	j.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	j.shortcut("x")
	j.until("no reading", `!document.querySelector("[aria-label=Reading] .step")`)
	j.press1("[aria-label=Proposed] button", "1 refused proposal again")
	j.until("a reading again", `!!document.querySelector("[aria-label=Reading] .step")`)
	// One is typed over, which keeps it.
	j.act("type a level", chromedp.Evaluate[chromedp.Void](`(f => { f.value = "5.1"; f.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label^='Level of std 05']"))`))
	j.until("who is working", `document.activeElement?.id === "who"`)
	j.fill("Kim Tanaka")
	j.do(chromedp.Sleep(400 * time.Millisecond)) // an Enter of before must not answer
	j.shortcut(kb.Enter)
	j.until("the level as typed, no longer proposed", `(f => f.value === "5.1" && !f.classList.contains("proposed"))(document.querySelector("[aria-label^='Level of std 05']"))`)
	j.quiet()
}

// An analyst with a batch of a gas chromatograph, an internal standard, and the run list in a spreadsheet.
func TestTheGasAnalystsJourney(t *testing.T) {
	j := &journey{desk: openEmpty(t)}
	files, runList, truth := bench.Aroma(3)
	j.do(chromedp.Navigate(j.address + "/"))
	j.until("the shelf", `!!document.querySelector("[aria-label='Your files'] button")`)
	j.drop(files)
	j.until("all files in", `document.querySelectorAll("[data-row]").length === 16 && document.querySelector("[aria-label=Intake]").innerText.includes("16 added")`)
	j.act("click the first cell", chromedp.Click(chromedp.CSS(`[data-row="0"] td:nth-child(2)`)))
	j.actions = append(j.actions, "paste the run list")
	j.pasteInto("[role=grid]", runList)
	j.until("who is working", `document.activeElement?.id === "who"`)
	j.fill("Noa Lindqvist")
	j.do(chromedp.Sleep(400 * time.Millisecond))
	j.shortcut(kb.Enter)
	j.until("the roles", `document.querySelector('[data-row="15"]').innerText.includes("sample") && document.querySelector('[data-row="11"]').innerText.includes("check")`)
	j.until("the unit asked for", `document.querySelector(".asks")?.innerText.includes("Of what are the levels")`)
	j.press1(".asks button", "all in this unit")
	j.until("no longer", `!document.querySelector(".asks")`)
	j.act("click a standard", chromedp.Click(chromedp.CSS(`[data-row="8"] td:nth-child(2)`)))
	j.shortcut("4", 1)
	j.until("Compounds", `[...document.querySelectorAll(".head button")].some(b => b.innerText.startsWith("Add many"))`)
	j.press1(".head button", "Add many")
	j.until("three peaks, the solvent left out", `document.querySelectorAll("[aria-label='Add many'] tbody tr").length >= 3`)
	if n := read[int](j.desk, `document.querySelectorAll("[aria-label='Add many'] tbody tr").length`); n != 3 {
		t.Errorf("%d peaks are offered: %s", n, read[string](j.desk, `document.querySelector("[aria-label='Add many'] tbody").innerText`))
	}
	j.actions = append(j.actions, "paste names")
	j.pasteInto("[aria-label='Add many'] tbody .field", "Limonene\nLinalool\nUndecane\n")
	j.act("choose the internal standard", chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Add many'] input[type=radio]")].at(-1).click()`))
	j.until("its amount asked", `!!document.querySelector("[aria-label^='Amount of internal']")`)
	j.act("type its amount", chromedp.Evaluate[chromedp.Void](`(f => { f.value = "25"; f.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label^='Amount of internal']"))`))
	j.press1("[aria-label='Add many'] button", "Add 3 compounds")
	j.until("the question", `document.activeElement?.id === "reason"`)
	j.do(chromedp.Sleep(400 * time.Millisecond))
	j.shortcut(kb.Enter)
	j.until("the compounds", `document.querySelectorAll("[aria-label=Compounds] tbody tr").length === 3`)
	j.shortcut("8", 1)
	paper := j.printed()
	for name, want := range truth {
		line := regexp.MustCompile(`(?m)^\s*` + name + `\s+([\d.]+)\s+([\d.]+)`).FindStringSubmatch(paper)
		if line == nil {
			t.Fatalf("%s is not on paper:\n%s", name, paper)
		}
		for k, want := range want {
			if got, _ := strconv.ParseFloat(line[k+1], 64); math.Abs(got/want-1) > 0.03 {
				t.Errorf("%s, compound %d: the paper reads %g, in truth it is %g", name, k+1, got, want)
			}
		}
	}
	j.within(16)
	j.quiet()
}
