package e2e

import (
	"os"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// accessible lets an automatic checker go over what is on the screen, by the rules of WCAG 2.2, A and AA.
func (d *desk) accessible(what string) {
	d.t.Helper()
	d.axe(what, `"wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"`)
}

// legible is accessible as far as colours are concerned.
func (d *desk) legible(what string) {
	d.t.Helper()
	d.axe(what, `"color-contrast"`)
}

// axe looks at the page by some of its rules. Of the rows of a table the first eight stand for all, which are made alike.
func (d *desk) axe(what, rules string) {
	d.t.Helper()
	if !read[bool](d, `typeof axe === "object"`) {
		script, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
		if err != nil {
			d.t.Fatal(err)
		}
		d.do(chromedp.Evaluate[chromedp.Void](string(script) + "; undefined"))
	}
	found := read[[]string](d, `axe.run({ exclude: [["tbody > tr:nth-child(n+9)"], [".batch:nth-of-type(n+9)"]] }, { preload: false, runOnly: [`+rules+`], resultTypes: ["violations"] }).then(r =>
		r.violations.flatMap(v => v.nodes.slice(0, 4).map(n => v.id + " (" + v.nodes.length + "): " + n.target.join(" ") + "  " + n.html.slice(0, 160))))`, chromedp.EvalAwaitPromise)
	for _, f := range found {
		d.t.Errorf("%s: %s", what, f)
	}
}

// unexplained are the controls in sight that say nothing on pointing: no sentence of their own, of their label or of what they stand in, and no name that
// the desk would show.
const unexplained = `[...new Set([...document.querySelectorAll(".stage :is(button, select, input, textarea, a[href], [role=slider], [role=radio], [role=button]), header :is(button, select, a[href])")]
	.filter(e => e.checkVisibility() && !e.closest("[title]:not(section)") && !e.querySelector("title") && !e.hasAttribute("aria-label"))
	.map(e => (e.getAttribute("aria-label") ?? e.innerText ?? "").trim().slice(0, 40) + " <" + e.tagName.toLowerCase() + ">"))].join("\n")`

// explained fails the test for each control in sight without a tooltip.
func (d *desk) explained(what string) {
	d.t.Helper()
	if got := read[string](d, unexplained); got != "" {
		d.t.Errorf("%s: no tooltip on\n%s", what, got)
	}
}

// Every station with its sheets and dialogs has nothing that an automatic checker of accessibility objects to.
func TestEveryStationIsAccessible(t *testing.T) {
	d := open(t)
	d.everyStation("Paper", d.accessible, func(station string, views []string) {
		for _, view := range views {
			d.until(view, `[...document.querySelectorAll("button, a, .choice-item, [role=tab], label, .chk")].some(e => e.textContent.trim().startsWith(`+quote(view)+`))`)
			d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("button, a, .choice-item, [role=tab], label, .chk")].find(e => e.textContent.trim().startsWith(` + quote(view) + `)).click()`))
			d.do(chromedp.Sleep(400 * time.Millisecond))
			d.accessible("Paper, " + station + ", " + view)
			d.explained(station + ", " + view)
		}
	})
}

// Every word on every station can be read at Night.
func TestEveryStationIsLegibleAtNight(t *testing.T) {
	d := open(t)
	d.everyStation("Night", d.legible, func(string, []string) {})
}

// everyStation goes through the stations in a light, checks each, and does besides what is to be done with its views.
func (d *desk) everyStation(light string, check func(string), views func(station string, names []string)) {
	d.t.Helper()
	d.station("batch", "")
	d.until("the batch", `document.querySelector("[aria-label^='Change to']")`)
	if on := read[bool](d, `!!document.querySelector("[aria-label='Change to Paper']")`); on != (light == "Night") {
		d.click("[aria-label^='Change to']")
	}
	for _, s := range []struct {
		station, query, ready string
		views                 []string
	}{
		{"batch", "", `document.querySelectorAll("[data-row]").length === 47`, []string{"all columns"}},
		{"traces", "", `document.querySelector(".lines canvas")`, nil},
		{"peaks", "?c=egcg", `document.querySelectorAll("[aria-label=Peaks] tbody tr").length > 5`, []string{"All measures", "More settings", "Suggest from examples"}},
		{"compounds", "?c=egcg", `document.querySelectorAll("[aria-label=Compounds] tbody tr").length === 9`, []string{"Add many"}},
		{"curves", "?c=egcg", `document.body.innerText.includes("R²")`, []string{"limits", "factors"}},
		{"results", "?c=egcg", `document.body.innerText.includes("Sencha first flush")`, []string{"each replicate", "checks", "changed", "amounts"}},
		{"report", "", `document.querySelectorAll(".sheet svg").length >= 2`, []string{"one injection"}},
	} {
		d.station(s.station, s.query)
		d.until(s.station, s.ready)
		check(light + ", " + s.station)
		d.explained(s.station)
		views(s.station, s.views)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("button.find").click()`))
	d.until("find", `document.querySelector("[role=dialog] input")`)
	check(light + ", find")
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the studies", `document.body.innerText.includes("Green tea assay")`)
	check(light + ", studies")
	d.text("[role=tab]", "From a table")
	d.until("the table", `document.querySelector("textarea")`)
	check(light + ", a table of readings")
	d.quiet()
}

// What opens over a station is accessible, too, and the ends of a range say what they are.
func TestWhatOpensIsAccessible(t *testing.T) {
	d := open(t)
	d.station("peaks", "?c=ec")
	d.until("the peak", `document.querySelectorAll(".handle").length === 2`)
	d.text(".head button", "labels")
	d.until("the labels", `document.querySelector(".label-menu")?.checkVisibility()`)
	d.accessible("the menu of labels")
	d.press(kb.Escape)
	d.click(".me")
	d.until("who works", `document.querySelector("#analyst")?.checkVisibility()`)
	d.accessible("who works")
	d.press(kb.Escape)
	d.until("nobody asks", `!document.querySelector("#analyst")?.checkVisibility()`)
	d.do(chromedp.Sleep(200 * time.Millisecond)) // the focus goes back to where it came from
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("n")
	d.until("the field of a name", `document.activeElement?.matches("input")`)
	d.accessible("the name of a peak")
	d.press(kb.Escape)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("f")
	d.until("a preview", `document.querySelector("[aria-label=Previewing]")`)
	d.accessible("a preview")
	d.press(kb.Enter)
	d.until("the question", `document.activeElement?.id === "reason"`)
	d.accessible("the question for a reason")
	d.press(kb.Escape)
	d.station("curves", "?c=egcg")
	d.until("the ends of the range", `document.querySelector("[aria-label='Upper end of the range']")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Upper end of the range'] path").dispatchEvent(new PointerEvent("pointerover", { bubbles: true }))`))
	if got := read[string](d, `document.querySelector("[aria-label='Upper end of the range'] title")?.textContent ?? ""`); got != "Upper end of the range" {
		t.Errorf("pointing at the end of the range says %q", got)
	}
	d.quiet()
}

// A narrow window, its sheet closed and open, is as accessible as a wide one.
func TestANarrowWindowIsAccessible(t *testing.T) {
	d := open(t)
	d.do(chromedp.EmulateViewport(1024, 700))
	for _, station := range []string{"batch", "traces", "peaks", "compounds", "curves", "results", "report"} {
		d.bookmark(station, "?c=egcg")
		d.until(station, `document.querySelectorAll("[role=option]").length === 47 && document.querySelector(".main :is(.grid-wrap td, .lines canvas, .sheet svg, .pt)")`)
		d.accessible(station + " in a narrow window")
		d.do(chromedp.KeyEvent("U", chromedp.KeyModifiers(8)))
		d.until("the sheet", `document.querySelector(".side").checkVisibility()`)
		d.accessible(station + " with its sheet open")
	}
	d.quiet()
}
