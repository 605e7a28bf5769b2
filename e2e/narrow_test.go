package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// cut lists what stands out of the window or out of its table to the side: nothing may, at any width.
const cut = `[...document.querySelectorAll("header > *, .head > *, .head .tools > *, .words > *, .grid-wrap :is(th, td)")].flatMap(e => {
	const r = e.getBoundingClientRect();
	const room = e.closest(".grid-wrap")?.getBoundingClientRect() ?? { left: 0, right: innerWidth };
	return r.width > 0 && (r.left < room.left - 1 || r.right > room.right + 1) ? [(e.innerText || e.className) + " " + Math.round(r.left) + "-" + Math.round(r.right)] : [];
}).slice(0, 5).join("; ")`

// At the sizes of a small screen and of 150 and 200 % magnification nothing is out of reach: the bar gives up words and never a station,
// tables come by whole columns to their last one.
func TestNothingIsCutInANarrowWindow(t *testing.T) {
	d := open(t)
	name := strings.Repeat("Darjeeling from the upper garden, second flush, ", 4)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.rename(16, name)
	for _, size := range [][2]int64{{1280, 800}, {1024, 700}, {853, 533}, {640, 480}} {
		d.do(chromedp.EmulateViewport(size[0], size[1]))
		for _, station := range []string{"batch", "traces", "peaks", "compounds", "curves", "results", "report"} {
			what := fmt.Sprintf("%s at %d", station, size[0])
			d.station(station, "?c=egcg")
			d.until(what, `document.querySelectorAll("[role=option]").length === 47 && !document.querySelector(".empty") && document.fonts.status === "loaded"`)
			d.until(what+" drawn", `document.querySelector(".main :is(.grid-wrap td, .lines canvas, .sheet svg, .pt)")`)
			d.until(what+" with nothing cut", `(`+cut+`) === ""`)
			if read[bool](d, `document.documentElement.scrollWidth > innerWidth`) {
				t.Errorf("%s: the page is wider than the window", what)
			}
			if by := read[float64](d, `document.querySelector("header").lastElementChild.getBoundingClientRect().right - (innerWidth - 16)`); by > 1 {
				t.Errorf("%s: the bar is %g px too wide", what, by)
			}
			here := strings.ToUpper(station[:1]) + station[1:]
			if !read[bool](d, `[...document.querySelectorAll("header nav a.on, header .folded select")].some(e => e.checkVisibility() && (e.selectedOptions?.[0] ?? e).innerText.startsWith("`+here+`"))`) {
				t.Errorf("%s: the station's word is gone", what)
			}
		}
		d.station("results", "?c=ecg")
		d.until("the value of a sample with a long name in sight", `(() => { const r = document.querySelector("td.at")?.getBoundingClientRect(); return r && r.left > 0 && r.right <= innerWidth })()`)
	}
	d.quiet()
}

// rename gives an injection, counted from 1, another name.
func (d *desk) rename(injection int, name string) {
	d.t.Helper()
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections[%d].id)`, d.batch, injection-1), chromedp.EvalAwaitPromise)
	r, err := http.NewRequestWithContext(d.t.Context(), "PATCH", d.address+"/api/batches/"+d.batch+"/entries", strings.NewReader(`{"changes": [{"injection_id": "`+id+`", "field": "name", "value": "`+name+`"}]}`))
	if err != nil {
		d.t.Fatal(err)
	}
	r.Header.Set("If-Match", "*")
	answer, err := http.DefaultClient.Do(r)
	if err != nil || answer.StatusCode != http.StatusOK {
		d.t.Fatal(answer, err)
	}
	answer.Body.Close()
}

// Below 1180 px the side column opens at the word that is pressed, gives the focus back, and never hides a preview that waits.
func TestTheSideColumnIsASheet(t *testing.T) {
	d := open(t)
	d.do(chromedp.EmulateViewport(1024, 700))
	d.station("peaks", "?c=ec")
	d.until("the peak", `document.querySelectorAll(".handle").length === 2`)
	shut := `!document.querySelector(".side").checkVisibility()`
	d.until("the column shut, its headings as words", shut+` && ["Integration", "Time rules", "Edits"].every(w => document.querySelector(".words").innerText.includes(w))`)
	wide := read[float64](d, `document.querySelector(".main").getBoundingClientRect().width`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label=Peaks] tr.sel .nm").focus()`))
	d.do(chromedp.KeyEvent("U", chromedp.KeyModifiers(8)))
	d.until("the sheet with the focus", `document.querySelector(".side").contains(document.activeElement)`)
	if now := read[float64](d, `document.querySelector(".main").getBoundingClientRect().right`); now > wide-300 {
		t.Errorf("the page ends at %g px, under the sheet", now)
	}
	d.press(kb.Escape)
	d.until("the focus back", shut+` && document.activeElement.classList.contains("nm")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".words button")].find(b => b.innerText === "Time rules").click()`))
	d.until("the rules in sight", `(() => { const r = [...document.querySelectorAll(".side h2")].find(h => h.innerText.startsWith("Time rules")).getBoundingClientRect(); return r.top > 0 && r.bottom < innerHeight })()`)
	d.press(kb.Escape)
	d.until("it shut", shut)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("f")
	d.until("the preview over the foot", `document.querySelector(".waiting")?.innerText.includes("Keep")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".waiting button")].find(b => b.innerText.startsWith("Discard")).click()`))
	d.until("it gone", `!document.querySelector(".waiting")`)

	// Home brings the first row out from under the head.
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(`[data-row="12"] td:nth-child(2)`)
	d.press(kb.End, kb.Home)
	d.until("row 1 beneath the head", `(() => { const head = document.querySelector("[role=grid] thead th").getBoundingClientRect(); return document.querySelector('[data-row="0"]').getBoundingClientRect().top >= head.bottom - 1 })()`)

	// Where there is little height the chart of checks is its verdict in one line, and opens.
	d.do(chromedp.EmulateViewport(1024, 560))
	d.station("results", "?c=egcg")
	d.until("the verdict", `document.querySelector(".verdict")?.innerText === "Checks: EGCG: Check, end 87.1 %, limits 90 – 110 %; the other 3 are inside"`)
	if rows := read[int](d, `[...document.querySelectorAll("[aria-label=Results] tbody tr")].filter(r => r.getBoundingClientRect().bottom <= document.querySelector(".matrix").getBoundingClientRect().bottom).length`); rows < 5 {
		t.Errorf("%d samples are in sight beside the folded chart", rows)
	}
	d.text(".sub button", "open the chart")
	d.until("the chart", `!document.querySelector(".verdict") && document.querySelector(".sub h2")?.innerText === "Checks"`)
	d.do(chromedp.EmulateViewport(1024, 700))
	d.station("batch", "")
	d.until("the run list again", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)

	// F6 goes from part to part and comes round.
	var parts []string
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	for range 4 {
		d.press(kb.F6)
		parts = append(parts, read[string](d, `["header", ".scroll", ".grid-wrap", ".words"].find(p => document.activeElement.closest(p)) ?? "nowhere"`))
	}
	if got := strings.Join(parts, " "); got != "header .scroll .grid-wrap .words" {
		t.Errorf("F6 goes to %s", got)
	}
	d.quiet()
}
