package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// word is what a cell of the screening says, without its sign.
func word(row, column string) string {
	return `(() => { const t = document.querySelector("[aria-label=Screening]"); if (!t) return "";
		const k = [...t.querySelectorAll("thead th")].findIndex((h) => h.innerText.startsWith("` + column + `"));
		const r = [...t.querySelectorAll("tbody tr")].find((r) => r.innerText.startsWith("` + row + `"));
		return r?.children[k]?.querySelector(".word")?.innerText.replace(/[^a-z–? ]/g, "").trim() ?? ""; })()`
}

// The analyst screens by keyboard: what is clear at once, what is not with a reason; it is on the paper as it was decided, and undone.
func TestScreeningByKeyboard(t *testing.T) {
	d := open(t)
	d.elsewhere("Matcha colour screening", "Autumn lots")
	d.station("results", "?face=screening")
	d.until("what waits", word("Online A", "Tartrazine")+` === "present?" && `+word("Online B", "Tartrazine")+` === "look here" && `+word("Online A", "Brilliant blue")+` === "below limit" && `+word("Valley", "Tartrazine")+` === "–"`)
	d.until("the evidence of what waits first", `document.querySelector("[aria-label=Evidence] .says")?.innerText.startsWith("Retention, spectrum and ratio agree") && document.querySelectorAll("[aria-label=Evidence] svg[aria-label*=' of ']").length === 3`)
	d.accessible("the screening")
	d.explained("the screening")
	d.press("]")
	d.until("the next that waits", `document.querySelector("[role=gridcell][aria-selected=true]")?.innerText.includes("look here") && document.querySelector("[aria-label=Evidence] .says")?.innerText.includes("spectrum does not")`)
	d.press("\r")
	d.reason("looked at, the shoulder is known")
	d.until("confirmed with a reason", word("Online B", "Tartrazine")+` === "present"`)
	d.do(chromedp.KeyEvent("\r", chromedp.KeyModifiers(8)))
	d.until("the clear ones are confirmed at once", word("Online A", "Tartrazine")+` === "present" && `+word("Online B", "Quinoline")+` === "present" && `+word("Online C", "Brilliant")+` === "present" && document.querySelector(".tally").innerText === "4 confirmed, 0 wait"`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("undone as one", word("Online A", "Tartrazine")+` === "present?" && `+word("Online C", "Brilliant")+` === "present?" && `+word("Online B", "Tartrazine")+` === "present"`)
	d.station("report", "?face=layout&layout=screening")
	d.until("the paper", `(document.querySelector("main")?.innerText ?? "").includes("not decided") && document.querySelector("main").innerText.includes("present: looked at")`)
	d.station("report", "")
	d.until("no amount of what is undecided", `(document.querySelector("main")?.innerText ?? "").includes("not decided") && !document.querySelector("main").innerText.includes("4.20")`)
	d.quiet()
}

// Stricter rules are a version of the method; what was confirmed by the old ones is stale and says so.
func TestStricterRulesMakeDecisionsStale(t *testing.T) {
	d := open(t)
	d.elsewhere("Matcha colour screening", "Autumn lots")
	d.station("results", "?face=screening")
	d.until("what waits", word("Online C", "Brilliant")+` === "present?"`)
	d.do(chromedp.KeyEvent("\r", chromedp.KeyModifiers(8)))
	d.until("confirmed", word("Online C", "Brilliant")+` === "present"`)
	d.until("the rules", `!!document.querySelector("[aria-label='Rules of the screening'] input")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const i = document.querySelectorAll("[aria-label='Rules of the screening'] label.fact input")[1]; i.value = "99.999"; i.dispatchEvent(new Event("change", { bubbles: true })); })()`))
	d.reason("by the new procedure")
	d.until("stale", word("Online C", "Brilliant")+` === "look here" && document.querySelector("[aria-label=Screening]").innerText.includes("was present, version 1")`)
	d.until("the clear one holds", word("Online A", "Tartrazine")+` === "present?" || `+word("Online A", "Tartrazine")+` === "present"`)
	d.quiet()
}
