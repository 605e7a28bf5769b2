package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// When the server is gone the screen says so and keeps what it shows; nothing is lost silently.
func TestTheServerGoesAway(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	_ = d.program.Process.Kill()
	_ = d.program.Wait()
	d.click(`[data-row="5"] td:nth-child(5)`)
	d.press(kb.Enter, "Q7", kb.Enter)
	d.until("a sentence", `document.querySelector("[role=alert]")?.innerText.includes("The server does not answer")`)
	if rows := read[int](d, `document.querySelectorAll("[role=grid] tbody tr").length`); rows != 47 {
		t.Errorf("%d rows are left on the screen", rows)
	}
	if vial := d.cell(6, vialColumn); strings.Contains(vial, "Q7") {
		t.Errorf("the cell shows %s, which was not kept", vial)
	}
}

// What someone else changes arrives while a cell is being typed into, and neither is lost.
func TestSomeoneElseChangesTheBatchMeanwhile(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.click(`[data-row="5"] td:nth-child(5)`)
	d.press(kb.Enter, "Q7")
	other := read[string](d, `fetch("/api/batches/`+d.batch+`").then(r => r.json()).then(v => v.batch.injections[9].id)`, chromedp.EvalAwaitPromise)
	r, err := http.NewRequestWithContext(t.Context(), "PATCH", d.address+"/api/batches/"+d.batch+"/entries", strings.NewReader(fmt.Sprintf(`{"changes": [{"injection_id": %q, "field": "vial", "value": "Z1"}]}`, other)))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("If-Match", "*")
	if answer, err := http.DefaultClient.Do(r); err != nil || answer.StatusCode != http.StatusOK {
		t.Fatal(err, answer.Status)
	}
	d.untilCell(10, vialColumn, "Z1")
	if typed := read[string](d, `document.querySelector(".edit").value`); typed != "A4Q7" {
		t.Errorf("the field holds %q", typed)
	}
	d.press(kb.Enter)
	d.untilCell(6, vialColumn, "A4Q7")
	d.untilCell(10, vialColumn, "Z1")
	d.quiet()
}

// A compound's window, rule and role are set beside the chromatogram, each with a reason; every change shows at once.
func TestACompoundIsSet(t *testing.T) {
	d := open(t)
	d.station("compounds", "?c=caf")
	d.until("the settings", `document.querySelector("#window")`)
	set := func(id, value string) {
		d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const f = document.querySelector(%q); f.value = %q; f.dispatchEvent(new Event("change", { bubbles: true })) })()`, id, value)))
		d.reason("the column is new")
	}
	row := `[...document.querySelectorAll("[aria-label=Compounds] tbody tr")].find(r => r.innerText.startsWith("Caffeine")).innerText`
	set("#window", "0,8")
	d.until("the wide window", row+`.includes("± 0.8 min")`)
	d.until("both peaks in it, and which rules each would win by", `[...document.querySelectorAll(".rival")].map(e => e.textContent).join("; ") === "nearest, largest, first; last"`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".choice-item")].find(e => e.innerText.trim() === "last").click()`))
	d.reason("a trial")
	d.until("the other peak", row+`.includes("9.4")`)
	undo := chromedp.KeyEvent("z", chromedp.KeyModifiers(2))
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), undo)
	d.until("the nearest again", row+`.includes("nearest")`)
	set("#parted", "20")
	d.until("the notice", `document.querySelector("nav").innerText.includes("Peaks4")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Take Caffeine off the list']").click()`))
	d.reason("not wanted")
	d.until("eight compounds", `document.querySelectorAll("[aria-label=Compounds] tbody tr").length === 8`)
	d.quiet()
}

// A study starts empty: every station says what to do, and the first file shows peaks without a setting touched.
func TestANewStudy(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the studies", `document.body.innerText.includes("Green tea assay")`)
	d.do(chromedp.Focus(chromedp.CSS("form input")))
	d.press("Trial", kb.Tab, "First", kb.Enter)
	d.until("the empty batch", `document.body.innerText.includes("No injections yet. Drop files here.")`)
	batch := read[string](d, `location.pathname.split("/")[1]`)
	for station, says := range map[string]string{"traces": "No injections yet", "peaks": "No injections yet", "compounds": "No injections yet", "curves": "No compounds yet", "results": "Nothing to report yet", "report": "nothing to report yet"} {
		d.click(`nav a[href$="/` + station + `"]`)
		d.until(station, fmt.Sprintf(`(document.querySelector("main")?.innerText ?? "").includes(%q)`, says))
	}
	var table strings.Builder
	table.WriteString("time_min,signal\n")
	for i := range 2000 {
		y := 0
		if k := i % 500; k > 200 && k < 260 {
			y = (k - 200) * (260 - k)
		}
		fmt.Fprintf(&table, "%g,%d\n", float64(i)/200, y)
	}
	r, err := http.Post(d.address+"/api/batches/"+batch+"/files?name=first.csv", "application/octet-stream", strings.NewReader(table.String()))
	if err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	d.click(`nav a[href$="/peaks"]`)
	d.until("its four peaks", `document.querySelectorAll("[aria-label=Peaks] tbody tr .nm").length === 4`)
	// From a lone file to a compound table: the guided path says what is missing and goes on without it.
	d.click(`nav a[href$="/compounds"]`)
	d.until("the chromatogram", `/0 of 0 compounds found in 4 peaks/.test(document.body.innerText)`)
	d.text(".head button", "Add many")
	d.until("what is missing", `document.querySelector("[aria-label='Add many']").innerText.includes("No injection is a standard yet")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("[aria-label='Add many'] input[type=radio]")[3].click()`))
	d.text("[aria-label='Add many'] button", "Add 4 compounds")
	d.reason("all there is")
	d.until("four compounds, one the internal standard", `document.querySelectorAll("[aria-label=Compounds] tbody tr").length === 4 && document.querySelector("[aria-label=Compounds] tbody").innerText.includes("int. std")`)
	for _, station := range []string{"curves", "results", "report"} {
		d.click(`nav a[href$="/` + station + `"]`)
		d.until(station+" without standards", `(document.querySelector("main")?.innerText ?? "").length > 10`)
	}
	d.quiet()
}
