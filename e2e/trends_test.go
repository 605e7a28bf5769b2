package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Trends over the batches of a study: points of this one are filled, limits come from those before, a point that is picked tells its values and opens its
// peak; along the run the check that drifts is marked.
func TestTrendsAreWalked(t *testing.T) {
	d := open(t)
	choose := func(label, value string) {
		t.Helper()
		d.until(value+" to choose", `!!document.querySelector('[aria-label="`+label+`"] option[value="`+value+`"]')`)
		d.do(chromedp.Evaluate[chromedp.Void](`(() => { const s = document.querySelector('[aria-label="` + label + `"]'); s.value = "` + value + `"; s.dispatchEvent(new Event("change", { bubbles: true })) })()`))
	}
	d.station("results", "?face=trends&c=egcg")
	choose("Along", "run")
	choose("Add a chart", "recovery_percent")
	d.until("the check that drifts", `[...document.querySelectorAll("[aria-label='Recovery along run'] .out")].length === 1 && document.querySelector(".charts").innerText.includes("Recovery")`)
	d.elsewhere("Five days", "Day 4")
	d.station("results", "?face=trends&c=caf")
	choose("Along", "batches")
	choose("Of which injections", "standard")
	d.until("five days", `document.querySelectorAll("[aria-label='Retention time along batches'] circle").length > 80 && document.querySelectorAll("[aria-label='Retention time along batches'] .limit").length === 2`)
	filled := read[int](d, `document.querySelectorAll("[aria-label='Retention time along batches'] circle.here").length`)
	if all := read[int](d, `document.querySelectorAll("[aria-label='Retention time along batches'] circle").length`); filled == 0 || filled >= all {
		t.Errorf("%d of %d points are of this batch", filled, all)
	}
	d.press("]", "]")
	d.until("what is picked", `/^Day 1, /.test(document.querySelector("[aria-label='The picked point'] .note")?.innerText ?? "") && document.querySelectorAll("[aria-label='The picked point'] .fact").length >= 3`)
	d.press(kb.Enter)
	d.until("its peak", `location.pathname.endsWith("/peaks") && document.body.innerText.includes("Day 1")`)
}
