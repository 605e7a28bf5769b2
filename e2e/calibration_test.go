package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// elsewhere goes to another batch of the demo.
func (d *desk) elsewhere(study, batch string) {
	d.t.Helper()
	r, err := http.Get(d.address + "/api/studies")
	if err != nil {
		d.t.Fatal(err)
	}
	defer r.Body.Close()
	var studies []struct {
		Name    string
		Batches []struct{ ID, Name string }
	}
	if err := json.NewDecoder(r.Body).Decode(&studies); err != nil {
		d.t.Fatal(err)
	}
	for _, s := range studies {
		for _, b := range s.Batches {
			if s.Name == study && b.Name == batch {
				d.batch = b.ID
				return
			}
		}
	}
	d.t.Fatalf("there is no batch %s of %s", batch, study)
}

// choose sets a list to a value as a person does.
func (d *desk) choose(label, value string) {
	d.t.Helper()
	d.until(label, fmt.Sprintf(`[...(document.querySelector('select[aria-label=%q]')?.options ?? [])].some(o => o.value === %q)`, label, value))
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const s = document.querySelector('select[aria-label=%q]'); s.value = %q; s.dispatchEvent(new Event("change", { bubbles: true })) })()`, label, value)))
}

// option clicks a word of a choice.
func (d *desk) option(word string) {
	d.t.Helper()
	d.until(word, fmt.Sprintf(`[...document.querySelectorAll(".choice-item")].some(e => e.innerText.trim() === %q)`, word))
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`[...document.querySelectorAll(".choice-item")].find(e => e.innerText.trim() === %q).click()`, word)))
}

// Limits of five days stand side by side; one is chosen with a reason and used from then on.
func TestLimitsAreChosenOverFiveDays(t *testing.T) {
	d := open(t)
	d.elsewhere("Five days", "Day 4")
	d.station("curves", "?c=caf")
	d.until("the curve", `document.querySelectorAll(".pt").length > 20`)
	d.option("limits")
	d.until("five days by six ways", `document.querySelectorAll("[aria-label=Limits] thead th button").length === 5 && document.querySelectorAll("[aria-label=Limits] tbody tr").length === 6`)
	d.until("the proposal", `document.querySelector("[aria-label=Limits] .lede").innerText.startsWith("The most cautious of 5 batches")`)
	d.click(`[aria-label="Use the limits by SD of blanks"]`)
	d.reason("blanks are what we can defend")
	d.until("the choice", `document.querySelector("[aria-label=Limits] .lede").innerText.includes("by SD of blanks. blanks are what we can defend")`)
	d.until("used from then on", `document.querySelector("[aria-label=Statistics]").innerText.includes("LOQ, chosen")`)
	d.option("curve")
	d.press("z")
	d.until("the low end", `[...document.querySelectorAll("[aria-label='Calibration curve'] .pt")].length < 18`)
	d.quiet()
}

// A curve is compared with another shape, with its effect on the samples, and taken up; then with the version before.
func TestACurveIsCompared(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=ec")
	d.until("the curve", `document.querySelectorAll(".pt").length > 20`)
	d.choose("Compare with the shape", "quadratic")
	d.until("the effect on the samples", `document.querySelectorAll("[aria-label='Effect on the samples'] tr").length >= 5`)
	d.until("the other line", `[...document.querySelectorAll("[aria-label='Calibration curve'] path")].some(p => p.getAttribute("stroke") === "var(--kaki)" && p.getAttribute("stroke-dasharray") === "1.5 2.5")`)
	d.text("[aria-label=Compare] button", "Take the other")
	d.until("it is taken", `document.querySelector(".verdict").innerText.startsWith("Quadratic from")`)
	version := read[string](d, `[...document.querySelector("select[aria-label='Compare with an earlier version']").options].find(o => o.text.startsWith("version 1"))?.value ?? ""`)
	if version == "" {
		d.until("the first version", `[...document.querySelector("select[aria-label='Compare with an earlier version']").options].some(o => o.text.startsWith("version 1"))`)
		version = read[string](d, `[...document.querySelector("select[aria-label='Compare with an earlier version']").options].find(o => o.text.startsWith("version 1")).value`)
	}
	d.choose("Compare with an earlier version", version)
	d.until("the line it was", `document.querySelector("[aria-label=Compare] tbody")?.innerText.includes("linear")`)
	// What has changed since is told at the results.
	d.click(`nav a[href$="/results"]`)
	d.option("changed")
	d.until("the means that moved", `document.querySelectorAll("[aria-label=Changed] tbody tr").length >= 5 && [...document.querySelectorAll("[aria-label=Changed] tbody tr")].every(r => r.cells[1].innerText === "EC")`)
	d.quiet()
}

// A level is left out with a reason, taken into use again, and kept, and the ways for all compounds are kept.
func TestLevelsAndWays(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=caf")
	d.until("the points", `document.querySelectorAll("select[aria-label^='Level ']").length === 6`)
	d.choose("Level 200 is", "left_out")
	d.reason("beyond what we need")
	d.until("the shorter range", `document.querySelector(".verdict").innerText.startsWith("Linear from 1 to 120 mg/L")`)
	d.choose("Level 200 is", "in use")
	d.reason("needed after all")
	d.until("the whole range", `document.querySelector(".verdict").innerText.startsWith("Linear from 1 to 200 mg/L")`)
	d.choose("Level 200 is", "kept")
	d.reason("for the batches of this month")
	d.until("where it was measured", `[...document.querySelectorAll("[title='measured in Spring teas']")].length === 2`)
	d.choose("Level 200 is", "in use")
	d.reason("measured anew")
	d.until("nothing kept", `!document.querySelector("[title='measured in Spring teas']")`)
	d.text("[aria-label=Model] button", "More ways")
	d.choose("Uses the curve of", "tb")
	d.until("the other's curve", `document.querySelector("[role=tab][aria-selected=true]").innerText.includes("by Theobromine")`)
	d.choose("Uses the curve of", "")
	d.until("its own", `!document.querySelector("[role=tab][aria-selected=true]").innerText.includes("by Theobromine")`)
	d.option("as means")
	d.reason("as the procedure says")
	d.until("six means", `document.querySelector("[aria-label=Statistics]").innerText.replace(/\s+/g, " ").includes("Degrees of freedom 4")`)
	d.quiet()
}

// Results are filtered and sorted, groups are sums with a working, checks have their numbers, limits are the method's.
func TestResultsAreSearchedAndJudged(t *testing.T) {
	d := open(t)
	d.elsewhere("Camellia seed oil", "Spring pressing")
	d.station("results", "")
	d.until("the oils", `document.querySelectorAll("[role=grid] tbody tr").length === 4`)
	d.text("[role=grid] th button", "Linoleate")
	d.until("the most linoleate first", `document.querySelector("[role=grid] tbody tr").innerText.startsWith("Market blend")`)
	d.text("[role=grid] th button", "Linoleate")
	d.until("the least first", `document.querySelector("[role=grid] tbody tr").innerText.startsWith("Hill garden")`)
	d.do(chromedp.SetValue(chromedp.CSS(`[aria-label="Filter by name"]`), "river"), chromedp.Evaluate[chromedp.Void](`document.querySelector('[aria-label="Filter by name"]').dispatchEvent(new Event("input", { bubbles: true }))`))
	d.until("one row", `document.querySelectorAll("[role=grid] tbody tr").length === 1`)
	d.click(`[data-at="0-6"]`)
	d.until("the working of the sum", `document.querySelector("[aria-label=Working]").innerText.includes("Sum of Unsaturated")`)
	d.option("checks")
	d.until("all pass", `document.querySelector("[aria-label=Checks] .lede").innerText.startsWith("All ")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const f = [...document.querySelectorAll("[aria-label=Checks] label")].find(l => l.innerText.startsWith("Recovery")).querySelector("input"); f.value = "99"; f.dispatchEvent(new Event("change", { bubbles: true })) })()`))
	d.reason("the customer asks for it")
	d.until("some are outside", `/outside their limits/.test(document.querySelector("[aria-label=Checks] .lede").innerText)`)
	d.until("and are notices", `/checks outside their limits: \d+ readings of/.test(document.querySelector("[aria-label=Notices]").innerText)`)
	d.quiet()
}

// Shape and weight, and limits, of all compounds at once: what differs is shown before and after, and one undo brings all back.
func TestAllCompoundsAtOnce(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=egcg")
	all := `document.querySelector("[aria-label='All compounds']").innerText`
	d.until("all alike", `document.querySelector("[aria-label='All compounds']")?.innerText.includes("All have the same")`)
	d.choose("Weight", "1/x2")
	d.until("one that differs", all+`.includes("one differs") && `+all+`.includes("1/x²")`)
	d.text("[aria-label='All compounds'] button", "All as EGCG")
	d.until("what it changes", `document.querySelector("[role=dialog]:not([hidden])").innerText.includes("7 compounds")`)
	d.reason("the same for all")
	d.until("all alike again", all+`.includes("All have the same: linear, weight 1/x²")`)
	method := `fetch("/api/batches/` + d.batch + `").then(r => r.json()).then(v => v.batch.version.method.curves)`
	if w := read[string](d, method+`.then(c => c.weight + Object.values(c.own ?? {}).map(o => o.weight ?? "").join(""))`, chromedp.EvalAwaitPromise); w != "1/x2" {
		t.Errorf("the method has weights %s", w)
	}
	d.click(`[aria-label=Undo]`)
	d.until("the difference back", all+`.includes("one differs")`)

	d.option("limits")
	d.until("the ways", `document.querySelectorAll("[aria-label=Limits] tbody tr").length === 6`)
	d.click(`[aria-label="Use the limits by lowest level in use for all compounds"]`)
	d.reason("as the guideline has it")
	d.until("no other way", `document.querySelector("[aria-label=Limits]").innerText.includes("All compounds have their limits by the same way")`)
	n := 0
	for deadline := time.Now().Add(10 * time.Second); n != 8 && time.Now().Before(deadline); time.Sleep(100 * time.Millisecond) { // until it is kept
		n = read[int](d, method+`.then(c => Object.values(c.own ?? {}).filter(o => o.limits?.way === "lowest_level").length)`, chromedp.EvalAwaitPromise)
	}
	if n != 8 {
		t.Errorf("%d compounds have limits by that way", n)
	}
	d.quiet()
}
