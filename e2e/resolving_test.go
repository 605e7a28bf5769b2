package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A whole batch is resolved from the screen: stretches, components, one table; a number is given and taken back; a component becomes a compound by one key.
func TestAWholeBatchIsResolved(t *testing.T) {
	d := open(t)
	d.elsewhere("Tea aroma", "Spring aromas")
	d.station("spectra", "?face=batch")
	d.until("the stretches", `document.querySelectorAll(".ruler .count").length === 17 && !document.querySelector("[aria-label='Compounds of the whole batch']")`)
	d.text(".line button", "Resolve them")
	d.until("all of them resolved", `document.querySelector(".line .r")?.innerText === "all resolved, 21 compounds" && document.querySelectorAll("[aria-label='Compounds of the whole batch'] tbody tr").length === 21`)
	d.until("nothing doubtful", `document.querySelector("[aria-label=Doubtful]")?.innerText.includes("Nothing here wants your eyes.")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll(".ruler .count")[7].click()`))
	d.until("its two components", `document.querySelectorAll("[aria-label=Resolved] .part").length === 2 && document.querySelector("[aria-label='The stretch'] .says")?.innerText.startsWith("2 compounds explain")`)
	d.accessible("the whole batch")
	d.explained("the whole batch")
	d.option("1")
	d.until("one was asked for", `document.querySelectorAll("[aria-label=Resolved] .part").length === 1 && document.querySelector("[aria-label='The stretch']").innerText.includes("1 were asked for")`)
	d.option("found")
	d.until("found again", `document.querySelectorAll("[aria-label=Resolved] .part").length === 2`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press(kb.ArrowDown)
	d.until("the next component", `document.querySelector("[aria-label='The component'] h2")?.innerText.startsWith("Component 2")`)
	d.press("\r")
	d.until("a compound of the method", `document.querySelector("[aria-label='The component']")?.innerText.includes("Nonanal is a compound of the method")`)
	d.until("it has its channel", fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.version.method.compounds.some(c => c.name === "Nonanal" && c.channel))`, d.batch))
	d.press("x")
	d.until("left out", `document.querySelector("[aria-label='Compounds of the whole batch'] tr.gone")?.innerText.includes("Nonanal")`)
	d.press("x")
	d.until("had back", `!document.querySelector("[aria-label='Compounds of the whole batch'] tr.gone")`)
	d.text("[aria-label='The stretch'] button", "join with the next")
	d.until("one stretch of two", `document.querySelectorAll(".ruler .count").length === 16 && document.querySelectorAll("[aria-label=Resolved] .part").length === 3 && document.querySelector(".line").innerText.includes("cut by hand")`)
	d.text("[aria-label='The stretch'] button", "as proposed")
	d.until("as proposed, with its two components", `document.querySelectorAll(".ruler .count").length === 17 && document.querySelectorAll("[aria-label=Resolved] .part").length === 2`)
	d.text("[aria-label='The stretch'] button", "ask the shift-tolerant model, too")
	d.until("the second opinion", `document.querySelector("[aria-label='The stretch']").innerText.includes("The shift-tolerant model comes to the same")`)
	d.text(".bar button", "± %")
	d.until("uncertainties", `/± \d/.test(document.querySelector("[aria-label='Compounds of the whole batch'] tbody td.v").innerText)`)
	end := `document.querySelector("[data-end='7 to_min']")`
	at := read[[]float64](d, `(() => { const r = `+end+`.getBoundingClientRect(); return [r.x + 4, r.y + 60] })()`)
	d.do(chromedp.DragAndDropXY(at[0], at[1], at[0]-6, at[1]))
	d.until("a cut that was dragged", fmt.Sprintf(`%s.getBoundingClientRect().x < %f && document.querySelector(".line").innerText.includes("cut by hand")`, end, at[0]-6))
	d.do(chromedp.DoubleClick(chromedp.CSS(".ruler .here")))
	d.until("the run cut there", `document.querySelectorAll(".ruler .count").length === 18`)
	d.text("[aria-label='The stretch'] button", "as proposed")
	d.until("as proposed again", `document.querySelectorAll(".ruler .count").length === 17`)
	d.quiet()
}
