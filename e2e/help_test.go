package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Help says at every station what it is for and what is done already, as the batch is; and everything that it points to is there.
func TestHelpPointsAtWhatIsThere(t *testing.T) {
	d := open(t)
	look := func(station, ready string) {
		d.until(station, ready)
		d.press("?")
		d.until("the help of "+station, `document.querySelector("[aria-label=Help] h2")?.innerText.toLowerCase().startsWith("`+station+`")`)
		for k := range read[int](d, `document.querySelectorAll("[aria-label=Help] li button").length`) {
			d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".ring")?.click()`))
			d.until("no ring", `!document.querySelector(".ring")`)
			d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("[aria-label=Help] li button")[` + fmt.Sprint(k) + `].click()`))
			d.until("a ring round a part, at "+station, `(() => { const r = document.querySelector(".ring")?.getBoundingClientRect(); return r && r.width > 20 && r.height > 10 && r.left < innerWidth && r.top < innerHeight; })()`)
		}
		d.press(kb.Escape, kb.Escape)
		d.until("the help closed", `!document.querySelector("[aria-label=Help]") && !document.querySelector(".ring")`)
	}
	const busy = ` && document.querySelectorAll("[role=option]").length === 47`
	for station, ready := range map[string]string{
		"batch":     `document.querySelectorAll(".ntc").length >= 6`,
		"traces":    `document.querySelector("main")`,
		"peaks":     `document.querySelector("main svg")`,
		"compounds": `document.querySelector("[aria-label=Compounds]")`,
		"curves":    `document.querySelectorAll(".pt").length > 10`,
		"results":   `document.querySelector("main table")`,
		"review":    `document.querySelector("[aria-label='The change']")`,
		"report":    `document.querySelectorAll(".sheet svg").length >= 2`,
	} {
		d.station(station, "")
		look(station, ready+busy)
	}
	d.station("batch", "")
	d.until("the batch", `document.querySelectorAll(".ntc").length >= 6`)
	d.press("?")
	d.until("what is done and what is not", `(() => { const t = [...document.querySelectorAll("[aria-label=Help] .tick")].map((x) => x.innerText); return t.join("") === "✓✓✓○"; })()`)
	d.accessible("help")
	d.explained("help")
	d.press("?")
	d.do(chromedp.Navigate(d.address + "/"))
	look("shelf", `document.querySelectorAll(".rows .batch").length >= 9`)
	d.quiet()
}
