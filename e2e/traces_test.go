package e2e

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

const shownRows = `document.querySelectorAll("[aria-label=Shown] .row").length - 1`

// Traces are chosen, overlaid, zoomed and walked; the address keeps which are shown and how.
func TestTracesAreCompared(t *testing.T) {
	d := open(t)
	d.station("traces", "")
	d.until("nine traces, offset", shownRows+` === 9 && document.querySelector("svg[aria-label='9 traces, offset']") && !document.querySelector(".busy")`)
	// Every compound's name stands over its line, on no other name.
	names := read[[][]float64](d, `[...document.querySelectorAll(".plot svg[aria-hidden] text")].map(t => { const b = t.getBoundingClientRect(); return [b.left, b.right, b.top] })`)
	if len(names) != 9 {
		t.Errorf("%d compounds are named over the traces, want 9", len(names))
	}
	for i, a := range names {
		for _, b := range names[:i] {
			if a[2] == b[2] && a[0] < b[1] && b[0] < a[1] {
				t.Errorf("two names over the traces overlap: %v and %v", a, b)
			}
		}
	}
	// The step is on the scale of the signal, and a typed one moves the traces apart.
	apart := `(() => { const y = [...document.querySelectorAll("svg[aria-label$=offset] text.lb")].map(e => +e.getAttribute("y")); return y[1] - y[0] })()`
	field := `[aria-label="Step between traces, mAU"]`
	near := read[float64](d, apart)
	step := read[float64](d, `+document.querySelector(`+quote(field)+`).value`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(` + quote(field) + `).select()`))
	d.press(fmt.Sprint(step*2), kb.Enter)
	d.until("traces further apart", fmt.Sprintf("Math.abs(%s) > %g", apart, math.Abs(near)*1.2))
	d.press("o")
	d.until("the overlay", `document.querySelector("svg[aria-label='9 traces, overlay']") && location.search.includes("mode=overlay")`)
	d.press("h") // hides the chosen injection
	d.until("one less", shownRows+" === 8")
	d.press("a")
	d.until("back again", shownRows+" === 9")
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Shown] .quick button")].find(b => b.innerText === "checks").click()`))
	d.until("the checks", shownRows+` === 4 && document.querySelector("[aria-label=Shown]").innerText.includes("Check, second third")`)
	d.do(chromedp.Reload())
	d.until("the same after reload", shownRows+` === 4 && document.querySelector("svg[aria-label='4 traces, overlay']") && !document.querySelector(".busy")`)

	// The mirror: the chosen one above zero, the others below; each to its largest, all end at 100 %.
	d.station("traces", "")
	d.until("nine traces again", `document.querySelector("svg[aria-label='9 traces, offset']") && !document.querySelector(".busy")`)
	d.press("o", "o")
	labels := `[...document.querySelectorAll("svg[aria-label$=mirror] text.tl")].map(e => e.textContent).filter(t => /^−?\d+$/.test(t))`
	d.until("numbers on both sides of zero", labels+`.some(t => t.startsWith("−"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".head .chk")].find(l => l.innerText.trim() === "each to its largest").querySelector("input").click()`))
	d.until("per cent on both sides", `(l => l.includes("100") && l.includes("−100") && [...document.querySelectorAll("svg[aria-label$=mirror] .tu")].some(e => e.textContent === "%"))(`+labels+`)`)
	d.station("traces", "?mode=overlay&show="+strings.Join(read[[]string](d, `fetch("/api/batches/`+d.batch+`").then(r => r.json()).then(v => v.batch.injections.filter(i => i.role === "check").map(i => i.id))`, chromedp.EvalAwaitPromise), ","))
	d.until("the checks overlaid", `document.querySelector("svg[aria-label='4 traces, overlay']") && !document.querySelector(".busy")`)

	// A zoom by drag, the way back, and the pointer's reading.
	minimap := `document.querySelector("[aria-label^='The whole run']").getAttribute("aria-label")`
	whole := read[string](d, minimap)
	box := read[[]float64](d, `(() => { const r = document.querySelector("svg[aria-label$=overlay]").getBoundingClientRect(); return [r.x, r.y, r.width, r.height] })()`)
	y := box[1] + box[3]/2
	d.do(chromedp.DragAndDropXY(box[0]+box[2]*0.5, y, box[0]+box[2]*0.65, y))
	d.until("the zoom", minimap+" !== "+quote(whole))
	d.press("<")
	d.until("the way back", minimap+" === "+quote(whole))
	d.do(chromedp.MouseEvent("mouseMoved", box[0]+box[2]*0.6, y))
	d.until("a reading for each trace", `[...document.querySelectorAll("[aria-label=Shown] .row .num")].every(e => /^−?\d/.test(e.innerText))`)
	d.quiet()
}

// A kept report stays as it is when the method changes, and the raw file comes back as it was.
func TestAReportIsKept(t *testing.T) {
	d := open(t)
	d.station("report", "?mode=injection")
	d.until("the page", `document.querySelector(".sheet svg")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Kept reports'] button")].find(b => b.innerText === "Keep this one").click()`))
	d.until("the kept report", `document.querySelector("[aria-label='Kept reports'] .kept a")`)
	address := read[string](d, `document.querySelector("[aria-label='Kept reports'] .kept a").href`)
	first := get(t, address)
	if !bytes.HasPrefix(first, []byte("%PDF-")) {
		t.Fatalf("%.20s", first)
	}
	d.station("curves", "?c=caf")
	d.until("the curve", `document.querySelector("[aria-label=Statistics]")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".choice-item")].find(e => e.closest(".set")?.innerText.includes("Through zero") && e.innerText.trim() === "yes").click()`))
	d.until("the new version", `document.querySelector("footer").innerText.includes("version 2")`)
	if !bytes.Equal(get(t, address), first) {
		t.Error("the kept report changed")
	}
	d.quiet()
}

func get(t *testing.T, address string) []byte {
	t.Helper()
	r, err := http.Get(address)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	data, err := io.ReadAll(r.Body)
	if err != nil {
		t.Fatal(err)
	}
	return data
}
