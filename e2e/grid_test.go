package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// cell is the text of a cell of the run list; rows and columns count from 1, columns after the number.
func (d *desk) cell(row, column int) string {
	d.t.Helper()
	return read[string](d, fmt.Sprintf(`document.querySelector('[data-row="%d"] td:nth-child(%d)').innerText.trim()`, row-1, column+1))
}

func (d *desk) untilCell(row, column int, want string) {
	d.t.Helper()
	d.until(fmt.Sprintf("row %d column %d to read %s", row, column, want),
		fmt.Sprintf(`document.querySelector('[data-row="%d"] td:nth-child(%d)').innerText.trim() === %s`, row-1, column+1, quote(want)))
}

const (
	vialColumn     = 4
	dilutionColumn = 5
	volumeColumn   = 6
	sampleColumn   = 7
)

// The run list without the mouse, after one click into it.
func TestTheRunListByKeyboard(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(fmt.Sprintf(`[data-row="19"] td:nth-child(%d)`, vialColumn+1)) // Gyokuro 1 of 2, vial B5

	// A series: B5 goes on as B6, B7, B8.
	shiftDown := chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(8))
	d.do(shiftDown, shiftDown, shiftDown)
	d.do(chromedp.KeyEvent("s", chromedp.KeyModifiers(1)))
	d.untilCell(23, vialColumn, "B8")

	// A value typed with a decimal comma, and one that is none.
	d.do(chromedp.Focus(chromedp.CSS("[role=grid]")))
	d.press(kb.ArrowRight, kb.Enter)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".edit").value = ""; document.querySelector(".edit").dispatchEvent(new Event("input"))`))
	d.press("1:2,5", kb.Enter)
	d.untilCell(23, dilutionColumn, "×2.5")
	d.press(kb.Enter)
	d.press("much", kb.Enter)
	d.until("the refusal", `document.querySelector("[role=alert]")?.innerText.includes("is not a number")`)
	if got := d.cell(24, dilutionColumn); got != "×2" {
		t.Errorf("after the refusal the cell reads %s", got)
	}

	// Undo, twice, and redo.
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[role=grid]").focus()`))
	undo := chromedp.KeyEvent("z", chromedp.KeyModifiers(2))
	d.do(undo)
	d.untilCell(23, dilutionColumn, "×2")
	d.do(undo)
	d.untilCell(23, vialColumn, "B8") // it was B8 before the series as well
	d.do(chromedp.KeyEvent("Z", chromedp.KeyModifiers(2|8)))
	d.quiet("status of 422")
}

// Columns pasted from a spreadsheet land where they are pasted, all or none.
func TestColumnsArePasted(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.until("the notice of the missing weight", `document.querySelector("[aria-label=Notices]").innerText.includes("no sample amount")`)
	d.click(fmt.Sprintf(`[data-row="23"] td:nth-child(%d)`, volumeColumn+1)) // Genmaicha 1 of 2
	paste := func(text string) {
		d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const data = new DataTransfer(); data.setData("text/plain", %q); document.querySelector("[role=grid]").dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })) })()`, text)))
	}
	paste("25\t0,2011\r\n25\t0,1987\r\n")
	d.untilCell(25, sampleColumn, "0.1987")
	d.untilCell(24, volumeColumn, "25")
	d.until("the notice to go", `!document.querySelector("[aria-label=Notices]").innerText.includes("no sample amount")`)
	paste("30\tabout a gram\n")
	d.until("the refusal", `document.querySelector("[role=alert]")?.innerText.includes("about a gram")`)
	if got := d.cell(24, volumeColumn); got != "25" {
		t.Errorf("half of a refused paste stayed: %s", got)
	}
	d.quiet("status of 422")
}

// A quick hand is not taken for somebody else: two pastes and an undo in one breath are done one after the other.
func TestAQuickHandIsFollowed(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(fmt.Sprintf(`[data-row="23"] td:nth-child(%d)`, volumeColumn+1))
	before := d.cell(24, volumeColumn)
	d.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const grid = document.querySelector("[role=grid]");
		const paste = (text) => { const data = new DataTransfer(); data.setData("text/plain", text); grid.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })); };
		paste("26\t0.21");
		paste("27");
		grid.dispatchEvent(new KeyboardEvent("keydown", { key: "z", code: "KeyZ", ctrlKey: true, bubbles: true, cancelable: true }));
	})()`))
	d.untilCell(24, volumeColumn, "26")
	d.untilCell(24, sampleColumn, "0.21")
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.untilCell(24, volumeColumn, before)
	d.quiet()
}

// Finding leads to an injection, a notice leads to its place and is settled with a reason, undo opens it again.
func TestFindAndSettle(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the notices", `document.querySelectorAll(".ntc").length === 6`)
	d.do(chromedp.KeyEvent("k", chromedp.KeyModifiers(2)))
	d.until("the finder", `document.activeElement?.getAttribute("role") === "combobox"`)
	d.press("keemun", kb.ArrowDown, kb.Enter)
	d.until("the second Keemun", `document.querySelector("[aria-label^='Injections'] [aria-selected=true]")?.getAttribute("aria-label") === "Keemun 2 of 2"`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".ntc .what")].find(e => e.innerText.includes("Check, end")).click()`))
	d.until("its place", `location.pathname.endsWith("/results") && document.querySelector("[aria-label=Working]")?.innerText.includes("EGCG in Check, end")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".ntc .settle")].find(e => e.getAttribute("aria-label").includes("Check, end")).click()`))
	d.reason("column was old")
	d.until("one notice less", `document.querySelectorAll(".ntc").length === 1`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("open again", `document.querySelectorAll(".ntc").length === 2`)
	// Another batch, and what the station can do, are found as well.
	d.click("button.find")
	d.until("the field", `document.activeElement?.getAttribute("role") === "combobox"`)
	d.press("copy as")
	d.until("an action of the station", `document.querySelector("#found li")?.innerText.includes("copy as text")`)
	for range len("copy as") {
		d.press(kb.Backspace)
	}
	d.press("pressing", kb.Enter)
	d.until("the other batch", `document.title.startsWith("Spring pressing")`)
	d.quiet()
}

// Curves: model, weight and range change the curve at once, and undo brings it back.
func TestACurveIsShaped(t *testing.T) {
	d := open(t)
	d.station("curves", "?c=caf")
	d.until("the statistics", `document.querySelector("[aria-label=Statistics]")?.innerText.includes("12 points, 6 levels")`)
	slope := read[string](d, `document.querySelector("[aria-label=Statistics] dd:nth-of-type(2)").innerText`)
	choose := func(label, word string) {
		d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`[...document.querySelectorAll(".choice-item")].find(e => e.closest(".set")?.innerText.includes(%q) && e.innerText.trim() === %q).click()`, label, word)))
	}
	d.choose("Weight", "1/x2")
	d.until("another slope", `document.querySelector("[aria-label=Statistics] dd:nth-of-type(2)").innerText !== `+quote(slope))
	choose("Through zero", "yes")
	d.until("no intercept", `!document.querySelector("[aria-label=Statistics]").innerText.includes("Intercept") && document.querySelector("[aria-label=Statistics]").innerText.includes("uncentred")`)
	d.do(chromedp.Focus(chromedp.CSS(`[aria-label="Upper end of the range"]`)))
	d.press(kb.ArrowLeft)
	d.until("the shorter range", `document.querySelector("[aria-label=Verdict]").innerText.includes("from 1 to 120 mg/L")`)
	d.until("the points outside", `[...document.querySelectorAll(".right .use")].filter(e => e.innerText === "outside").length === 2`)
	undo := chromedp.KeyEvent("z", chromedp.KeyModifiers(2))
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), undo)
	d.until("the range", `document.querySelector("[aria-label=Verdict]").innerText.includes("from 1 to 200 mg/L")`)
	d.do(undo)
	d.until("the intercept", `document.querySelector("[aria-label=Statistics]").innerText.includes("Intercept")`)
	d.do(undo)
	d.until("the slope", `document.querySelector("[aria-label=Statistics] dd:nth-of-type(2)").innerText === `+quote(slope))
	d.quiet()
}

// Many notices of one kind are one line, opened to see each, and settled together with one reason.
func TestLikeNoticesAreToldAndSettledTogether(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	set := read[int](d, `(async () => {
		const b = location.pathname.split("/")[1];
		const v = await (await fetch("/api/batches/" + b)).json();
		const changes = v.batch.injections.slice(15, 23).map(i => ({ injection_id: i.id, field: "sample", value: "" }));
		return (await fetch("/api/batches/" + b + "/entries", { method: "PATCH", headers: { "If-Match": "*", "Content-Type": "application/json" }, body: JSON.stringify({ changes }) })).status;
	})()`, chromedp.EvalAwaitPromise)
	if set != 200 {
		t.Fatalf("the sample amounts are not taken: %d", set)
	}
	line := `[...document.querySelectorAll(".ntc")].find(e => e.innerText.startsWith("no sample amount: in 9 injections"))`
	d.until("one line for nine", line)
	d.do(chromedp.Evaluate[chromedp.Void](line + `.querySelector(".what").click()`))
	d.until("each of them", `[...document.querySelectorAll(".ntc")].filter(e => e.innerText.includes("no sample amount")).length === 9`)
	d.text(".more", "together again")
	d.do(chromedp.Evaluate[chromedp.Void](line + `.querySelector(".settle").click()`))
	d.reason("weighed later")
	d.until("none of them", `![...document.querySelectorAll(".ntc")].some(e => e.innerText.includes("no sample amount"))`)
	d.until("one row in the record", `document.querySelector("[aria-label=Record]").innerText.includes("9 notices (weighed later)")`)
	d.quiet()
}
