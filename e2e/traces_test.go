package e2e

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// treat chooses a word of the sentence that says what is done to the traces.
func (d *desk) treat(word, value string) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(s => { s.value = %q; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector(".treated select[aria-label='%s']"))`, value, word)))
}

// The notice of a fall of the pump's pressure leads to the moment, through all lanes; conditions stand behind the trace as well, are hidden, taken off the list
// and had back; two marks measure; the limits are the method's.
func TestTheRunIsLookedAtWithItsConditions(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the notices", `document.querySelectorAll(".ntc").length >= 4`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".more")].find(b => b.innerText.startsWith("and")).click()`))
	notice := `[...document.querySelectorAll(".ntc .what")].find(b => b.innerText.includes("Pump pressure fell by 3"))`
	d.until("the notice", `!!`+notice)
	d.do(chromedp.Evaluate[chromedp.Void](notice + `.click()`))
	lanes := `[...document.querySelectorAll(".lanes svg")].map(l => l.getAttribute("aria-label").split(",")[0]).join()`
	d.until("the injection with its lanes", `document.querySelector("h1")?.innerText.startsWith("Pouchong") && `+lanes+` === "Pump pressure,Gradient,Column temperature"`)
	d.until("the moment through all lanes", `document.querySelectorAll(".lanes rect").length === 3 && document.querySelector(".lanes .says")?.textContent.startsWith("fell by 3")`)
	d.until("what kept to its limits", `document.querySelectorAll("[aria-label='Was the run sound?'] .ok").length === 2`)
	x, y := d.centre(".picture svg.over")
	d.do(chromedp.MouseEvent("mouseMoved", x, y))
	d.until("values at the pointer", `/\d+\.?\d* bar/.test((document.querySelector("[aria-label=Signals]")?.innerText ?? ""))`)

	word := func(name, button string) string {
		return fmt.Sprintf(`[...document.querySelectorAll("[aria-label=Signals] .row")].find(r => r.innerText.includes(%q)).querySelector(%q).click()`, name, button)
	}
	d.do(chromedp.Evaluate[chromedp.Void](word("Gradient", ".lnk")))
	d.until("no gradient", lanes+` === "Pump pressure,Column temperature"`)
	d.do(chromedp.Evaluate[chromedp.Void](word("Column temperature", "[aria-label^=Take]")))
	d.until("the pressure alone", lanes+` === "Pump pressure"`)
	d.do(chromedp.Reload())
	d.until("the same after reload", lanes+` === "Pump pressure" && (document.querySelector(".gone")?.innerText ?? "").includes("have back")`)
	d.do(chromedp.Evaluate[chromedp.Void](word("Column temperature", ".lnk")))
	d.until("had back", lanes+` === "Pump pressure,Column temperature"`)
	d.option("behind")
	d.until("behind the trace", `!document.querySelector(".lanes") && [...document.querySelectorAll(".picture text")].some(e => e.textContent === "Pump pres…")`)

	x, y = d.centre(".picture svg.over")
	for _, at := range []float64{x - 100, x + 100} {
		d.do(chromedp.MouseEvent("mouseMoved", at, y))
		d.do(chromedp.MouseClickXY(at, y, chromedp.ButtonModifiers(chromedp.ModifierShift)))
	}
	d.until("what is between two marks", `/Time between\s*\d/.test(document.querySelector("[aria-label=Measured]")?.innerText ?? "")`)

	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Was the run sound?'] .edit button")].find(b => b.innerText === "Pump pressure").click()`))
	step := `[...document.querySelectorAll("[aria-label='Was the run sound?'] label")].find(l => l.innerText.startsWith("No step over")).querySelector("input")`
	d.until("its limits", step+`.value === "15"`)
	d.do(chromedp.Evaluate[chromedp.Void](step + `.select()`))
	d.press("40", kb.Tab)
	d.until("the reason", `!!document.activeElement?.closest("[role=dialog], [role=alertdialog], dialog")`)
	d.do(chromedp.Sleep(400 * time.Millisecond))
	d.press("the pump does that", kb.Enter)
	d.until("a sound run", `document.querySelectorAll("[aria-label='Was the run sound?'] .ok").length === 3`)
	d.quiet()
}

// From above: rows in run order, odd ones pointed at, the chosen one brought into the mirror with its duplicate.
func TestTheBatchIsSeenFromAbove(t *testing.T) {
	d := open(t)
	d.station("traces", "?mode=above")
	d.until("the map", `document.querySelector(".map canvas")?.width > 500 && !document.querySelector(".busy") && document.querySelectorAll("[aria-label='Retention through the run'] .spark").length === 9`)
	ink := `(c => { const g = c.getContext("2d").getImageData(0, 0, c.width, c.height).data; let dark = 0; for (let i = 0; i < g.length; i += 4) if (g[i + 3] === 255 && g[i] + g[i + 1] + g[i + 2] < 250) dark++; return dark / (g.length / 4) })(document.querySelector(".map canvas"))`
	if share := read[float64](d, ink); share < 0.005 || share > 0.3 {
		t.Errorf("%.3f of the map are dark", share)
	}
	d.until("the odd one", `(document.querySelector("[aria-label='Odd ones']")?.innerText ?? "").includes("Caffeine at 5")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".odd").click()`))
	d.until("its row", `(document.querySelector("[aria-label='The row']")?.innerText ?? "").includes("Blank after 200 mg/L")`)
	d.press("j", "j")
	d.press("j")
	d.until("a tea with its duplicate", `(document.querySelector("[aria-label='The row']")?.innerText ?? "").includes("unlike Sencha first flush")`)
	d.press(kb.Enter)
	d.until("both in the mirror", `document.querySelector("svg[aria-label='2 traces, mirror']") && location.search.includes("mode=mirror")`)
	d.treat("Lined up on", "is")
	d.treat("Heights", "caf")
	d.until("treated", `(document.querySelector(".treated")?.innerText ?? "").includes("areas and results stay as they are") && !document.querySelector(".busy")`)
	d.quiet()
}

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
	d.treat("Heights", "tallest")
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
