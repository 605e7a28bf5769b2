package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A field is written with what is offered, a slip is told at its place and mended with one action, values follow; kept, it is a quantity like any other, and
// its limits are notices.
func TestAFieldIsWritten(t *testing.T) {
	d := open(t)
	d.station("results", "?face=fields")
	d.until("no fields yet", `document.body.innerText.includes("No fields yet")`)
	d.press("a")
	d.until("the formula", `document.activeElement?.getAttribute("aria-label") === "Formula"`)
	d.do(chromedp.KeyEvent(`100 * compound("Caf`))
	d.until("what can stand there", `document.querySelector(".words [role=option]")?.innerText.includes("Caffeine")`)
	d.do(chromedp.KeyEvent(kb.Tab))
	d.do(chromedp.KeyEvent(`area_s / sum(peaks, .aera_s)`))
	d.until("the slip at its place", `document.querySelector("pre u")?.innerText === "aera_s" && document.querySelector(".read")?.innerText.includes("area_s is near")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".read button")].find(b => b.innerText.includes("use area_s")).click()`))
	d.until("its values", `!document.querySelector("pre u") && document.querySelectorAll(".values p").length === 47`)
	if got := read[string](d, `document.querySelector("textarea[aria-label=Formula]").value`); got != `100 * compound("Caffeine").area_s / sum(peaks, .area_s)` {
		t.Errorf("the formula is %s", got)
	}
	set := func(label, text string) {
		t.Helper()
		d.do(chromedp.Evaluate[chromedp.Void](`(() => { const i = document.querySelector("[aria-label='` + label + `']"); i.focus(); i.select?.() })()`))
		d.do(chromedp.KeyEvent(text + kb.Tab))
	}
	set("Name of the field", "Caffeine share")
	set("Short name", "caffeine_share")
	set("Unit", "%")
	set("Upper limit", "40")
	d.until("what is outside", `[...document.querySelectorAll(".values p")].some(p => p.innerText.includes("outside")) && document.querySelector(".one")?.innerText.includes("Caffeine share")`)
	outside := read[int](d, `[...document.querySelectorAll(".values p")].filter(p => p.innerText.includes("outside")).length`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
	d.press(kb.Enter)
	d.until("it is kept", `[...document.querySelectorAll("[aria-label=Keep] .btn.pri")].every(b => b.disabled) && document.querySelector("[aria-label=Keep]").innerText.includes("version 3")`)
	told := read[int](d, `fetch("/api/batches/"+location.pathname.split("/")[1]+"/result").then(r => r.json()).then(v => v.result.notices.filter(n => n.kind === "field_caffeine_share").length)`, chromedp.EvalAwaitPromise)
	if told != outside || told == 0 {
		t.Errorf("%d are outside, %d notices", outside, told)
	}
	d.do(chromedp.Reload())
	d.until("the field after a reload", `document.querySelector(".one b")?.innerText.includes("%")`)
}

// Fields are kept by name in the study, brought in by another batch of it, and replaced only when that is asked for twice.
func TestFieldsOfTheStudyByName(t *testing.T) {
	d := open(t)
	d.elsewhere("Five days", "Day 5")
	d.station("results", "?face=fields")
	d.until("how to begin", `[...document.querySelectorAll("button")].some(b => b.innerText.startsWith("Begin with ten"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Begin with ten")).click()`))
	const sets = `document.querySelector("[aria-label='Sets of the study']")`
	d.until("a name can be given", `!!`+sets+`?.querySelector("input")`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Sets of the study'] input"), "Daily"+kb.Enter))
	d.until("it is kept", sets+`.innerText.includes("Daily")`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Sets of the study'] input"), "Daily"+kb.Enter))
	d.until("it asks", sets+`.innerText.includes("once more replaces it")`)
	d.do(chromedp.Evaluate[chromedp.Void](sets + `.querySelector("form button").click()`))
	d.until("it is replaced", `!`+sets+`.innerText.includes("once more") && `+sets+`.querySelector("input").value === ""`)
	d.elsewhere("Five days", "Day 4")
	d.station("results", "?face=fields")
	d.until("the set, from another batch", `document.body.innerText.includes("No fields yet") && [...document.querySelectorAll("[aria-label='Sets of the study'] button")].some(b => b.innerText === "Daily")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Sets of the study'] button")].find(b => b.innerText === "Daily").click()`))
	d.until("its fields", `document.querySelectorAll(".one").length >= 8`)
	d.quiet()
}
