package e2e

import (
	"strings"
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

// What was changed is marked before the picked point and stands through all charts; limits set by hand hold until they are taken away; the figure is looked at
// and taken away at its true size.
func TestMarksLimitsAndTheFigure(t *testing.T) {
	d := open(t)
	d.elsewhere("Five days", "Day 5")
	d.station("results", "?face=trends")
	d.until("the choice", `!!document.querySelector("[aria-label='Of which injections']")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "standard"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label='Of which injections']"))`))
	d.until("points", `document.querySelectorAll(".chart circle").length > 20`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll(".chart circle")[12].dispatchEvent(new MouseEvent("click", { bubbles: true }))`))
	d.until("a point is picked", `!!document.querySelector("[aria-label=Marks] input")`)
	d.press("m")
	d.until("the field has the keys", `document.activeElement === document.querySelector("[aria-label=Marks] input")`)
	d.fill("[aria-label=Marks] input", "new lamp")
	d.press(kb.Enter)
	d.until("the mark", `[...document.querySelectorAll(".chart .said")].some(s => s.textContent === "new lamp") && document.querySelectorAll(".chart .mark").length >= document.querySelectorAll(".chart").length`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Retention time, high limit']"), "0,5"+kb.Tab))
	d.until("points beyond it", `document.querySelectorAll(".chart .out").length > 10 && [...document.querySelectorAll(".chart .source")].some(s => s.textContent.includes("set by"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`(i => { i.value = ""; i.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label='Retention time, high limit']"))`))
	d.until("they are gone", `![...document.querySelectorAll(".chart .source")].some(s => s.textContent.includes("set by"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Picture] button")].find(b => b.innerText === "look at it").click()`))
	d.until("the figure", `document.querySelector(".desk img")?.naturalWidth > 0 && Math.abs(document.querySelector(".desk img").naturalWidth / 96 * 25.4 - 178) < 1`)
	if svg := read[string](d, `fetch([...document.querySelectorAll("[aria-label=Picture] a")].find(a => a.innerText === "SVG").href).then(r => r.text())`, chromedp.EvalAwaitPromise); !strings.Contains(svg, ">new lamp<") || !strings.Contains(svg, `width="178mm"`) {
		t.Errorf("the picture is %.300s", svg)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Take new lamp away']").click()`))
	d.until("the mark is gone", `!document.querySelector("[aria-label='Take new lamp away']")`)
	d.quiet()
}
