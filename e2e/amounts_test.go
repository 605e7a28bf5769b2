package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// typeInto sets a field as a person does who types and leaves it.
func (d *desk) typeInto(label, value string) {
	d.t.Helper()
	d.until("the field "+label, `!!document.querySelector('[aria-label="`+label+`"]')`)
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const f = document.querySelector('[aria-label="` + label + `"]'); f.value = "` + value + `"; f.dispatchEvent(new Event("change", { bubbles: true })) })()`))
}

// pasteInto pastes text where a selector points, as from a spreadsheet.
func (d *desk) pasteInto(selector, text string) {
	d.t.Helper()
	quoted := "`" + text + "`"
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const data = new DataTransfer(); data.setData("text", ` + quoted + `); document.querySelector(` + "`" + selector + "`" + `).dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })) })()`))
}

// What is reported is tried on one sample, seen beside what it would change, discarded without a trace, or kept as one version.
func TestAmountsAreTriedAndKept(t *testing.T) {
	d := open(t)
	d.station("results", "?c=caf")
	d.option("amounts")
	d.until("the ways with their numbers", `[...document.querySelectorAll(".way b")].length === 4 && [...document.querySelectorAll(".way b")].every(b => /\d/.test(b.innerText))`)
	d.until("the sentence", `document.querySelector("[aria-label=Amounts] tr.big").innerText.replace(/\s+/g, " ").includes("× 2 × 50 ÷ 0.2023 × 1 =")`)
	d.text(".way .word", "As measured, in the vial")
	d.until("what it would change", `document.querySelector("[aria-label=Previewing]")?.innerText.includes("112 means become others")`)
	d.until("the number by it", `document.querySelector("[aria-label=Working] .value").innerText.includes("mg/L")`)
	d.press("\x1b")
	d.until("as it was", `!document.querySelector("[aria-label=Previewing]") && document.querySelector(".way.on .word").innerText === "Per sample mass"`)
	d.text(".way .word", "Percent of the total")
	d.until("tried", `!!document.querySelector("[aria-label=Previewing]")`)
	d.until("it can be kept", `document.querySelector("[aria-label=Previewing] .pri")?.disabled === false`)
	d.click("[aria-label=Previewing] .pri")
	d.reason("the customer wants shares")
	d.until("kept", `!document.querySelector("[aria-label=Previewing]") && document.querySelector(".way.on .word").innerText === "Percent of the total"`)
	d.option("matrix")
	d.until("shares", `document.querySelector(".head .note").innerText.startsWith("% of total")`)
	d.quiet()
}

// A unit that cannot be shuts Keep and says why; purity, a pasted table and another standard to read against are kept together.
func TestStandardsHoldDifferentAmounts(t *testing.T) {
	d := open(t)
	d.station("results", "?c=caf")
	d.option("amounts")
	d.until("the sentence", `document.querySelector("[aria-label=Amounts] tr.big")?.innerText.includes("0.2023")`)
	d.until("its number", `/\d/.test(document.querySelector(".way.on b").innerText)`)
	before := read[string](d, `document.querySelector(".way.on b").innerText`)
	d.typeInto("Unit of what is reported", "mL/g")
	d.until("why not", `/cannot be reported in mL\/g/.test(document.querySelector("[aria-label=Previewing]").innerText) && document.querySelector("[aria-label=Previewing] .pri").disabled`)
	d.press("\x1b")
	d.typeInto("Purity of Caffeine, %", "50")
	d.until("half of it", `Math.abs(Number(document.querySelector(".way.on b").innerText) * 2 - `+before+`) < 0.2`)
	d.pasteInto("[aria-label='What the standards hold']", "Compound, µg/mL\t1\t2\t3\t4\t5\t6\nEGCG\t1,05\t5,26\t21,1\t63,2\t126\t\n")
	d.until("what was read", `/“µg\/mL” read from its head/.test(document.querySelector("[aria-label='What the standards hold']").innerText)`)
	d.until("the curves it makes anew", `/2 curves are made anew/.test(document.querySelector("[aria-label=Previewing]").innerText)`)
	d.click(`[aria-label="EGCG against none"]`)
	d.until("the dot", `document.querySelector('[aria-label="EGCG against none"]').getAttribute("aria-checked") === "true"`)
	d.until("it can be kept", `document.querySelector("[aria-label=Previewing] .pri")?.disabled === false`)
	d.click("[aria-label=Previewing] .pri")
	d.reason("as weighed on Monday")
	d.until("kept", `!document.querySelector("[aria-label=Previewing]")`)
	d.station("curves", "?c=egcg")
	d.until("five levels, read without the internal standard", `document.querySelector(".head .note")?.innerText.startsWith("area, against") && document.querySelector("[aria-label=Statistics]")?.innerText.includes("10 points, 5 levels")`)
	d.until("what they hold", `[...document.querySelectorAll(".right td")].some(c => c.innerText === "63.20")`)
	d.press("alt+3")
	d.quiet()
}

// A table of levels and responses becomes a curve with a reading and its working, and nothing breaks where there is no chromatogram.
func TestACurveWithoutChromatograms(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the studies", `document.querySelectorAll(".batch").length >= 7`)
	d.text("[role=tab]", "From a table")
	d.do(chromedp.Evaluate[chromedp.Void]("(() => { const t = document.querySelector('textarea'); t.value = `Conc. (µg/mL)\tArea\tArea\n1\t10,2\t10,4\n2\t20,3\t20,1\n5\t50,4\t50,0\n10\t100,5\t99,8\n20\t200,2\t200,9\nPond\t75,3\t75,1`; t.dispatchEvent(new Event('input', { bubbles: true })) })()"))
	d.until("what was read", `document.querySelectorAll("[aria-label='What was read'] tbody tr").length === 6`)
	for k, text := range []string{"Nitrite", "Exercise", "One"} {
		d.do(chromedp.SendKeys(chromedp.CSS(`.asked label:nth-of-type(`+string(rune('1'+k))+`) input`), text))
	}
	d.text("button", "Make the curve")
	d.until("the curve", `document.querySelector(".verdict")?.innerText.startsWith("Linear from 1 to 20 µg/mL")`)
	d.batch = strings.Split(read[string](d, `location.pathname`), "/")[1]
	d.station("results", "")
	d.until("the reading", `document.querySelector("[role=grid] tbody tr")?.innerText.includes("7.49")`)
	d.until("its working", `document.querySelector("[aria-label=Working]")?.innerText.includes("Response as typed") && document.querySelector("[aria-label=Working]").innerText.includes("Mean of 2")`)
	for _, station := range []string{"batch", "traces", "peaks", "compounds", "report"} {
		d.station(station, "")
		d.until(station, `(!!document.querySelector(".stage") || document.querySelector(".empty")?.innerText.startsWith("These readings were typed")) && !document.querySelector("[role=alert]")`)
	}
	d.quiet()
}

// A new batch is started by a method that is there, and read from the curves of an earlier batch.
func TestAMethodAndItsCurvesAreUsedAgain(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the methods", `[...document.querySelectorAll("select[aria-label=Method] option")].length >= 4`)
	d.do(chromedp.SendKeys(chromedp.CSS("form label:nth-of-type(1) input"), "Green tea assay"), chromedp.SendKeys(chromedp.CSS("form label:nth-of-type(2) input"), "Summer teas"))
	d.choose("Method", read[string](d, `[...document.querySelectorAll("select[aria-label=Method] option")].find(o => o.text.includes("Green tea assay")).value`))
	d.until("its versions", `!!document.querySelector("select[aria-label=Version]")`)
	d.text("button", "Start")
	d.until("the batch", `document.querySelector(".bn")?.innerText.includes("Summer teas")`)
	d.batch = strings.Split(read[string](d, `location.pathname`), "/")[1]
	d.station("curves", "?c=caf")
	d.text("[aria-label=Standards] button", "Use curves of an earlier batch")
	d.until("the batches", `[...document.querySelectorAll("select[aria-label='Curves of'] option")].some(o => o.text === "Spring teas")`)
	d.choose("Curves of", read[string](d, `[...document.querySelectorAll("select[aria-label='Curves of'] option")].find(o => o.text === "Spring teas").value`))
	d.reason("standards of this spring hold")
	d.until("the curve of the other batch", `document.querySelector("[aria-label=Standards]").innerText.includes("Curves of Spring teas") && document.querySelectorAll(".pt").length >= 12`)
	d.click(`[aria-label=Undo]`)
	d.until("its own standards again", `document.querySelector("[aria-label=Standards]").innerText.includes("No standard of its own")`)
	d.quiet()
}
