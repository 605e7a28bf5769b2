package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// All unnamed peaks of a tea become compounds in one step, with a pasted column of names.
func TestManyPeaksAreAddedAtOnce(t *testing.T) {
	d := open(t)
	d.station("compounds", "")
	d.until("a standard in the list", `document.querySelectorAll("[aria-label=Compounds] tbody tr").length === 9`)
	d.until("the peaks of a tea", `/in 1[2-9] peaks/.test(document.querySelector(".head").innerText)`)
	d.text(".head button", "Add many")
	d.until("the unnamed peaks", `document.querySelectorAll("[aria-label='Add many'] tbody tr").length >= 3`)
	n := read[int](d, `document.querySelectorAll("[aria-label='Add many'] tbody tr").length`)
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const f = document.querySelector("[aria-label='Add many'] tbody .field"); const c = new DataTransfer(); c.setData("text", "Quinic acid\t1\nStrictinin\t2\n"); f.dispatchEvent(new ClipboardEvent("paste", { clipboardData: c, bubbles: true, cancelable: true })) })()`))
	d.until("the names filled down", `document.querySelectorAll("[aria-label='Add many'] tbody .field")[1].value === "Strictinin"`)
	d.text("[aria-label='Add many'] button", fmt.Sprintf("Add %d compounds", n))
	d.reason("unknowns worth following")
	d.until("the longer table", fmt.Sprintf(`document.querySelectorAll("[aria-label=Compounds] tbody tr").length === %d`, 9+n))
	d.until("names on the chromatogram, and times where none was given", `(x => x.includes("Strictinin") && x.some(n => n.startsWith("RT ")))([...document.querySelectorAll("svg.over text.lb")].map(e => e.textContent))`)
	d.quiet()
}

// A window is dragged wider until it holds two peaks; each says by which rule it would win, and the rule decides.
func TestAWindowIsDraggedAndARuleChosen(t *testing.T) {
	d := open(t)
	d.station("compounds", "?c=ec")
	end := `[aria-label="Window end of EC"]`
	d.until("the window", fmt.Sprintf(`document.querySelector(%q)`, end))
	d.until("the peaks under it", `[...document.querySelectorAll("svg.over text")].some(e => e.textContent === "EC") && document.querySelectorAll("[aria-label=Drift] circle").length > 40`)
	d.do(chromedp.Sleep(300e6)) // the stretch that is shown settles
	x, y := d.centre(end)
	d.do(chromedp.DragAndDropXY(x, y, x+60, y))
	d.reason("late in old columns")
	d.until("the wider window", `Number(document.querySelector("#window").value) > 0.8`)
	d.until("the rivals", `[...document.querySelectorAll(".rival")].map(e => e.textContent).join(" ").includes("largest")`)
	won := read[string](d, `document.querySelector(".rival.won").textContent`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".wins .choice-item")].find(e => e.innerText.trim() === "last").click()`))
	d.reason("last of the group")
	d.until("another winner", fmt.Sprintf(`document.querySelector(".rival.won")?.textContent.includes("last") && document.querySelector(".rival.won").textContent !== %q`, won))
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector(%q).focus()`, end)))
	d.press(kb.ArrowLeft)
	d.until("the question for a reason", `document.activeElement?.id === "reason"`)
	d.press(kb.Escape)
	d.quiet()
}

// References move what is expected of the others, and retention indices come from a ladder.
func TestReferencesAndALadder(t *testing.T) {
	d := open(t)
	d.station("compounds", "?c=caf")
	d.until("the settings", `document.querySelector("[aria-label='Window and rule'] h2")?.innerText === "Caffeine"`)
	before := read[string](d, `[...document.querySelectorAll("[aria-label=Compounds] tbody tr")].find(r => r.innerText.startsWith("EGCG")).cells[3].innerText`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Window and rule'] .chk")].find(e => e.innerText.includes("reference")).querySelector("input").click()`))
	d.reason("always there")
	d.until("relative retention", `[...document.querySelectorAll("[aria-label=Compounds] th")].some(h => h.innerText === "Relative")`)
	d.until("its own is one", `[...document.querySelectorAll("[aria-label=Compounds] tbody tr")].find(r => r.innerText.startsWith("Caffeine")).innerText.includes("1.0000")`)
	if after := read[string](d, `[...document.querySelectorAll("[aria-label=Compounds] tbody tr")].find(r => r.innerText.startsWith("EGCG")).cells[3].innerText`); after == before {
		t.Errorf("EGCG is expected at %s as before", after)
	}
	d.text("[aria-label='Retention index'] button", "take")
	d.reason("as if they were alkanes")
	d.until("indices", `[...document.querySelectorAll("[aria-label=Compounds] th")].some(h => h.innerText === "Index") && /\d{3,4}\.0/.test(document.querySelector("[aria-label=Compounds] tbody").innerText)`)
	d.quiet()
}

// A field whose change is refused shows what holds, with the refusal beside it.
func TestARefusedFieldShowsWhatHolds(t *testing.T) {
	d := open(t)
	d.station("compounds", "?c=caf")
	field := `document.querySelector("#window")`
	d.until("the settings", field)
	before := read[string](d, field+".value")
	set := func(value string) {
		d.click("#window")
		d.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(2)))
		d.press(value, kb.Tab)
	}
	held := field + `.value === ` + quote(before) + ` && ` + field + `.validationMessage`
	set("-4")
	d.until("what holds, with a word", held+`.includes("above 0")`)
	set("1e400")
	d.reason("a try")
	d.until("the refusal of the server", `document.querySelector(".trouble")`)
	d.until("what holds, with its sentence", held+`.length > 20`)
	d.quiet("status of 422")
}
