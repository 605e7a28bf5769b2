package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// The record of everything is found by filters, walked by arrows, told in words, checked, and leads to the place.
func TestTheRecordIsRead(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.querySelectorAll(".batch").length >= 7`)
	d.text("[aria-label=Studies] button", "Record")
	d.until("the newest entries", `location.pathname === "/record" && document.querySelectorAll("[aria-label=Record] tbody tr").length === 200`)
	d.text("main button", "older entries")
	d.until("older ones", `document.querySelectorAll("[aria-label=Record] tbody tr").length > 200`)
	d.accessible("the record")
	d.explained("the record")
	d.fill("#record-words", "colour-07")
	d.until("the one file", `document.querySelectorAll("[aria-label=Record] tbody tr").length === 1 && document.querySelector("[aria-label='This entry']").innerText.includes("colour-07-valley-2.mzML")`)
	d.fill("#record-words", "nothing of the kind")
	d.until("no entry", `document.querySelector(".none")?.innerText.includes("Take a filter off")`)
	d.text(".none button", "nothing of the kind")
	d.until("all again", `document.querySelectorAll("[aria-label=Record] tbody tr").length >= 200`)
	first := read[string](d, `document.querySelector("[aria-label='This entry'] h2").innerText`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press(kb.ArrowDown, kb.ArrowDown)
	d.until("two further down", `document.querySelector("[aria-label='This entry'] h2").innerText !== `+quote(first)+` && document.querySelector("[aria-label=Record] tr.on") === document.querySelectorAll("[aria-label=Record] tbody tr")[2]`)
	d.text("[aria-label='The chain'] button", "check everything")
	d.until("the chain is whole", `document.querySelector("[aria-label='The chain']").innerText.includes("none is missing or altered")`)
	d.press(kb.Enter)
	d.until("its batch", `location.pathname.endsWith("/batch") && document.querySelectorAll("[data-row]").length > 5`)
	d.quiet()
}
