package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

const peakRows = `document.querySelectorAll("[aria-label=Peaks] tbody tr").length`

// The address bar names the place; reload and back keep it; keys walk the run.
func TestThePlaceIsKept(t *testing.T) {
	d := open(t)
	d.station("peaks", "")
	d.until("the peaks", peakRows+" > 5")
	first := read[string](d, `document.querySelector("h1").innerText`)
	d.press("j", "j", "j")
	d.until("the third tea on", `document.querySelector("h1").innerText !== `+quote(first))
	third := read[string](d, `document.querySelector("h1").innerText`)
	d.do(chromedp.Reload())
	d.until("the same after reload", `document.querySelector("h1")?.innerText === `+quote(third))
	d.click(`nav a[href$="/curves"]`)
	d.until("the curves", `location.pathname.endsWith("/curves")`)
	d.do(chromedp.NavigateBack())
	d.until("back", `location.pathname.endsWith("/peaks") && document.querySelector("h1")?.innerText === `+quote(third))
	d.click(`.scroll`) // the scroll takes the focus and the arrows
	before := read[string](d, `new URLSearchParams(location.search).get("i")`)
	d.press(kb.ArrowRight)
	d.until("the arrow", `new URLSearchParams(location.search).get("i") !== `+quote(before))
	d.quiet()
}

func quote(s string) string { return "`" + s + "`" }

// Dragging a boundary moves the amount at once; keeping it writes an edit; returning to raw takes it back.
func TestABoundaryIsDragged(t *testing.T) {
	d := open(t)
	d.station("peaks", "?c=ec&from=10.2&to=11.6")
	d.until("the handles", `document.querySelectorAll(".handle").length === 2`)
	area := read[string](d, `document.querySelector("tr.sel td:nth-child(4)").innerText`)
	at := read[[]float64](d, `(() => { const r = document.querySelector(".handle circle").getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`)
	d.do(chromedp.DragAndDropXY(at[0], at[1], at[0]+12, at[1]))
	d.until("another area", `document.querySelector("tr.sel td:nth-child(4)").innerText !== `+quote(area))
	d.until("the amount before and after", `document.querySelector("[aria-label=Previewing]").innerText.includes("EC, mg/g")`)
	d.until("its neighbour", `document.querySelector("[aria-label=Previewing]").innerText.includes("EGCG")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press(kb.Enter)
	d.reason("valley")
	d.until("the edit", `document.querySelector("[aria-label=Edits]").innerText.includes("Move the start of 10.")`)
	d.until("kept by hand", `document.querySelector("tr.sel")?.innerText.includes("by hand")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Edits] button")].find(b => b.innerText === "Lift all edits").click()`))
	d.until("as it was", `document.querySelector("tr.sel td:nth-child(4)")?.innerText === `+quote(area))
	d.quiet()
}

// Peaks are split, merged and added by hand; every edit is tried first and kept with a reason.
func TestPeaksAreEdited(t *testing.T) {
	d := open(t)
	d.station("peaks", "?c=caf&from=8&to=10.2")
	d.until("the peaks", `document.querySelectorAll("[aria-label=Peaks] tbody tr").length === 13 && document.querySelector("tr.sel")`)
	middle := read[[]float64](d, `(() => { const r = document.querySelector("svg.over").getBoundingClientRect(); const x = v => r.x + 50 + (v - 8) / 2.2 * (r.width - 62); return [x(8.83), x(9.75), x(10.05), r.y + r.height - 60] })()`)
	keep := func(why string) {
		d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
		d.press(kb.Enter)
		d.reason(why)
	}
	d.do(chromedp.MouseEvent("mouseMoved", middle[0], middle[3]))
	d.until("the pointer", `document.querySelector("tr.hov")?.innerText.includes("Caffeine")`)
	d.press("s")
	d.until("two parts", peakRows+" === 14")
	keep("two compounds here")
	d.until("the edit", `document.querySelector("[aria-label=Edits]").innerText.includes("Split the peak at 8.79 min")`)
	d.until("the kept parts", `!document.querySelector("[aria-label=Previewing]") && `+peakRows+" === 14")
	d.do(chromedp.MouseEvent("mouseMoved", middle[0]+12, middle[3]-2), chromedp.MouseEvent("mouseMoved", middle[0]+14, middle[3]))
	d.until("the right part under the pointer", `document.querySelector("tr.hov")?.innerText.includes("unnamed")`)
	d.press("m")
	d.until("one again", peakRows+" === 13")
	keep("one after all")
	d.until("both edits", `document.querySelectorAll("[aria-label=Edits] .edit").length === 2`)
	d.do(
		chromedp.MouseEvent("mousePressed", middle[1], middle[3], chromedp.ButtonLeft, chromedp.ClickCount(1), shifted),
		chromedp.MouseEvent("mouseMoved", middle[1]+40, middle[3], chromedp.ButtonLeft, shifted),
		chromedp.MouseEvent("mouseMoved", middle[2], middle[3], chromedp.ButtonLeft, shifted),
		chromedp.MouseEvent("mouseReleased", middle[2], middle[3], chromedp.ButtonLeft, chromedp.ClickCount(1), shifted),
	)
	d.until("the new stretch tried", `document.querySelector("[aria-label=Previewing]")`)
	d.press(kb.Escape)
	d.until("discarded", `!document.querySelector("[aria-label=Previewing]")`)
	undo := chromedp.KeyEvent("z", chromedp.KeyModifiers(2))
	d.do(undo)
	d.until("two parts again", peakRows+" === 14")
	d.do(undo)
	d.until("as it was", peakRows+" === 13")
	d.quiet()
}

// shifted holds the Shift key during a mouse event.
func shifted(p *input.DispatchMouseEventParams) {
	p.Modifiers = 8
}

// Every station stands in both lights and both sizes without an error or a sideways scrollbar.
func TestStationsInBothLightsAndSizes(t *testing.T) {
	d := open(t)
	for _, size := range [][2]int64{{1280, 800}, {1920, 1080}} {
		d.do(chromedp.EmulateViewport(size[0], size[1]))
		for _, s := range []string{"batch", "traces", "peaks", "compounds", "curves", "results", "report"} {
			d.station(s, "")
			d.until(s, `document.querySelector("h1") && document.querySelectorAll("[role=option]").length === 47`)
			d.click(`[aria-label^="Change to"]`)
			if wide := read[int](d, `document.documentElement.scrollWidth`); wide > int(size[0]) {
				t.Errorf("%s is %d px wide on %d", s, wide, size[0])
			}
			unnamed := read[[]string](d, `[...document.querySelectorAll("button, a, input:not([hidden]), select, [role=slider]")].filter(e => !(e.innerText || e.getAttribute("aria-label") || e.getAttribute("aria-labelledby") || e.labels?.length || e.title || e.type === "hidden" || e.hidden)).map(e => e.outerHTML.slice(0, 120))`)
			for _, u := range unnamed {
				t.Errorf("%s: no name for a screen reader: %s", s, u)
			}
		}
	}
	d.quiet()
}

// What another window changes arrives in this one.
func TestTwoWindows(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	other, stop := chromedp.NewContext(d.ctx)
	defer stop()
	if err := chromedp.Do(other, chromedp.Navigate(d.address+"/"+d.batch+"/batch"), chromedp.WaitVisible(chromedp.CSS(`[data-row="5"]`)), chromedp.Click(chromedp.CSS(`[data-row="5"] td:nth-child(5)`)), chromedp.KeyEvent(kb.Enter), chromedp.KeyEvent("Q7"), chromedp.KeyEvent(kb.Enter)); err != nil {
		t.Fatal(err)
	}
	d.until("the vial of the other window", `document.querySelector('[data-row="5"] td:nth-child(5)').innerText.trim().endsWith("Q7")`)
	d.quiet()
}

// Everything is backed up by one button, beside the data, and checked.
func TestABackupByOneButton(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the studies", `document.querySelectorAll(".batch").length >= 7`)
	d.text("[aria-label=Studies] button", "Back everything up")
	d.until("where it is", `/Written and checked: .*data-backups.yugen-20/.test(document.querySelector("[aria-label=Studies]").innerText)`)
	d.quiet()
}

// Until a batch is reported a cell is changed without a word; after its first kept report a change asks why where it moves what is displayed, says what that
// is, and goes nowhere without an answer; undo too.
func TestAReportedBatchAsksWhy(t *testing.T) {
	d := open(t)
	rows := func() {
		d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	}
	d.station("report", "")
	d.until("the report", `document.querySelectorAll(".sheet svg").length >= 2`)
	d.text("[aria-label='Kept reports'] button", "Keep this one")
	d.until("it is kept", `document.querySelectorAll("[aria-label='Kept reports'] .kept").length === 1`)
	d.station("batch", "")
	rows()
	d.click(`[data-row="5"] td:nth-child(5)`)
	d.press(kb.Enter, "Q7", kb.Enter)
	d.untilCell(6, vialColumn, "A4Q7") // a vial moves no number
	d.click(`[data-row="19"] td:nth-child(6)`)
	d.press("3", kb.Enter)
	d.until("the question, with what would move", `document.activeElement?.id === "reason" && /has been reported, and this changes .* from .* to /.test(document.activeElement.closest("[role=dialog]").innerText)`)
	d.press("\x1b")
	d.until("nothing was changed", `!document.querySelector("[role=dialog]:not([hidden]) #reason")`)
	d.untilCell(20, dilutionColumn, "×2")
	d.click(`[data-row="19"] td:nth-child(6)`)
	d.press("3", kb.Enter)
	d.reason("diluted once more")
	d.untilCell(20, dilutionColumn, "×3")
	d.until("the reason in the record", `document.querySelector("[aria-label=Record]").innerText.includes("diluted once more")`)
	d.click("[aria-label=Undo]")
	d.reason("it was not")
	d.untilCell(20, dilutionColumn, "×2")
	d.quiet("status of 422")
}

// The wordmark leads out of a batch, to all studies, and back leads in again.
func TestTheWordmarkLeadsOut(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=caf")
	d.until("the curve", `document.querySelectorAll(".pt").length > 20`)
	d.click(".wm")
	d.until("all studies", `location.pathname === "/" && document.querySelectorAll(".batch").length >= 7`)
	d.do(chromedp.Evaluate[chromedp.Void](`history.back()`))
	d.until("the curve again", `document.querySelectorAll(".pt").length > 20`)
	d.quiet()
}

// A role is typed as a word, also one that the trade uses besides; a table with headings lands in its columns, and one that is too long lands nowhere.
func TestRolesAndTablesAreUnderstood(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(`[data-row="5"] td:nth-child(3)`)
	d.press("sample", kb.Enter)
	d.untilCell(6, 2, "sample")
	d.click(`[data-row="5"] td:nth-child(3)`)
	d.press("QC", kb.Enter)
	d.untilCell(6, 2, "check")
	d.click(`[data-row="19"] td:nth-child(2)`)
	d.pasteInto("[role=grid]", "Vial\tSample, g\nX1\t0,25\nX2\t0,26")
	d.untilCell(20, vialColumn, "X1")
	d.untilCell(21, vialColumn, "X2")
	d.click(`[data-row="45"] td:nth-child(5)`)
	d.pasteInto("[role=grid]", "Y1\nY2\nY3")
	d.until("why not", `document.querySelector("[role=alert]")?.innerText.includes("The table has 3 rows, the run list has 2 from here on. Nothing was pasted")`)
	if cell := read[string](d, `document.querySelector('[data-row="45"] td:nth-child(5)').innerText.trim()`); cell == "Y1" {
		t.Error("a part of the table was pasted")
	}
	d.quiet()
}

// Undo during a preview takes back the preview, not what was kept before it.
func TestUndoDuringAPreviewLeavesWhatWasKept(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(`[data-row="5"] td:nth-child(5)`)
	d.press(kb.Enter, "Q7", kb.Enter)
	d.untilCell(6, vialColumn, "A4Q7")
	d.station("peaks", "?c=ec")
	d.until("the peak", `document.querySelectorAll(".handle").length === 2`)
	d.press("f")
	d.until("a preview", `[...document.querySelectorAll("button")].some(b => b.innerText.startsWith("Discard"))`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("the preview is gone", `![...document.querySelectorAll("button")].some(b => b.innerText.startsWith("Discard"))`)
	d.click(`nav a[href$="/batch"]`)
	d.until("what was kept", `document.querySelector('[data-row="5"] td:nth-child(5)')?.innerText.trim() === "A4Q7"`)
	d.quiet()
}

// Before a batch is reported a reason is offered, and Enter alone keeps the change without one.
func TestAReasonIsOfferedNotForced(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=caf")
	d.until("the points", `document.querySelectorAll("select[aria-label^='Level ']").length === 6`)
	d.choose("Level 200 is", "left_out")
	d.until("the question", `document.activeElement?.id === "reason"`)
	// What is left of the Enter that asked for it, on a slow machine, is no answer.
	d.do(chromedp.Sleep(500*time.Millisecond), chromedp.Evaluate[chromedp.Void](`document.querySelector("#reason").form.requestSubmit()`))
	d.until("the question still", `document.activeElement?.id === "reason" && document.querySelector("#reason").checkVisibility()`)
	d.press(kb.Enter)
	d.until("the shorter range", `document.querySelector(".verdict").innerText.startsWith("Linear from 1 to 120 mg/L")`)
	d.quiet()
}
