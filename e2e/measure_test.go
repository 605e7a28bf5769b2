package e2e

import (
	"encoding/json"
	"flag"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

var measure = flag.Bool("measure", false, "measure the budgets that need a browser")

// TestMeasure prints what make bench wants from the browser. It asserts no time.
func TestMeasure(t *testing.T) {
	if !*measure {
		t.Skip("only when asked with -measure")
	}
	d := open(t)
	d.station("peaks", "?c=ec")
	first := read[float64](d, `new Promise(done => { const look = () => document.querySelector(".lines canvas") ? done(performance.now()) : requestAnimationFrame(look); look() })`, chromedp.EvalAwaitPromise)
	d.until("the handles", `document.querySelectorAll(".handle").length === 2`)
	// Each press on the slider is timed until the table shows the answer to it.
	d.do(chromedp.Evaluate[chromedp.Void](`(() => {
		window.times = [];
		let start = 0;
		addEventListener("keydown", () => (start = performance.now()), true);
		new MutationObserver(() => {
			if (!start) return;
			const pressed = start;
			start = 0;
			requestAnimationFrame(() => window.times.push(performance.now() - pressed));
		}).observe(document.querySelector("[aria-label=Peaks]"), { subtree: true, characterData: true, childList: true });
		document.querySelectorAll(".ruler-thumb")[0].focus();
	})()`))
	for i := range 40 {
		d.press([]string{kb.ArrowRight, kb.ArrowLeft}[i%2])
		d.do(chromedp.Sleep(120 * time.Millisecond))
	}
	slider := read[float64](d, `(times.sort((a, b) => a - b), times[Math.floor(times.length * 0.95)] ?? -1)`)
	one, twenty := d.zoomRate(1), d.zoomRate(20)
	d.emptyBatch()
	files := tables(t, 300, 18_000)
	began := time.Now()
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), files))
	d.takeIn(len(files))
	looked := time.Since(began)
	d.until("300 files in", sent+`.startsWith("300 of 300 read: 300 added")`)
	taken := time.Since(began)
	d.do(chromedp.Navigate(strings.Replace(read[string](d, `location.origin + location.pathname`), "/batch", "/traces", 1) + "?mode=above"))
	d.until("the view from above", `document.querySelector("[aria-label='300 injections from above']")`)
	cold := read[float64](d, `performance.now()`)
	d.do(chromedp.Reload())
	d.until("the view from above again", `document.querySelector("[aria-label='300 injections from above']")`)
	above := read[float64](d, `performance.now()`)
	fmt.Printf("%-58s %10s %10s\n", "in the browser", "budget", "measured")
	fmt.Printf("%-58s %7d ms %7.1f ms\n", "first chromatogram visible after opening the address", 1000, first)
	fmt.Printf("%-58s %7d ms %7.1f ms\n", "a slider's round trip, server and redraw, 95th percentile", 50, slider)
	fmt.Printf("%-58s %7d ms %7.0f ms\n", "300 files of 18 000 points, from the drop to the run list", 10_000, float64(taken.Milliseconds()))
	fmt.Printf("%-58s %10s %7.0f ms\n", "of that until all were looked at", "", float64(looked.Milliseconds()))
	fmt.Printf("%-58s %10s %7.0f ms\n", "300 traces of 18 000 points from above, for the first time", "", cold)
	fmt.Printf("%-58s %7d ms %7.0f ms\n", "the same again, from opening the address", 1000, above)
	fmt.Printf("%-58s %6d fps %6.0f fps\n", "zoom over 20 traces", 50, twenty)
	fmt.Printf("%-58s %10s %6.0f fps\n", "the same over one trace: what this browser can draw at all", "", one)
}

// zoomRate zooms in and out for two seconds and gives the frames a second.
func (d *desk) zoomRate(traces int) float64 {
	d.t.Helper()
	d.station("traces", "?show="+read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.slice(0, %d).map(i => i.id).join(","))`, d.batch, traces), chromedp.EvalAwaitPromise))
	d.until("the traces", fmt.Sprintf(`document.querySelectorAll("[aria-label=Shown] .row").length === %d && !document.querySelector(".busy") && document.querySelector(".lines canvas")`, traces+1))
	return read[float64](d, `(async () => {
		const plot = document.querySelector("svg[aria-label*=traces]");
		const box = plot.getBoundingClientRect();
		const start = performance.now();
		let n = 0;
		for (; performance.now() - start < 2000; n++) {
			plot.dispatchEvent(new WheelEvent("wheel", { deltaY: n % 20 < 10 ? -40 : 40, clientX: box.x + 300, clientY: box.y + 200, bubbles: true, cancelable: true }));
			await new Promise(requestAnimationFrame);
		}
		return n / ((performance.now() - start) / 1000);
	})()`, chromedp.EvalAwaitPromise)
}

// TestMeasureTrends measures trends over 10 000 points in a browser: 4 days of 2500 typed readings.
func TestMeasureTrends(t *testing.T) {
	if !*measure {
		t.Skip("only when asked with -measure")
	}
	d := open(t)
	var table strings.Builder
	table.WriteString("level\tday 1\tday 2\tday 3\tday 4\n")
	for k := range 2500 {
		level := []float64{1, 2, 5, 10, 20}[k%5]
		fmt.Fprintf(&table, "%g", level)
		for day := range 4 {
			fmt.Fprintf(&table, "\t%.4f", level*(10+math.Sin(float64(k*7+day))/5))
		}
		table.WriteString("\n")
	}
	id := read[string](d, fmt.Sprintf(`fetch("/api/readings", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ study: "Many", name: "Many", compound: "Tea", unit: "mg/L", text: %q }) }).then(r => r.text())`, table.String()), chromedp.EvalAwaitPromise)
	var made struct{ IDs []string }
	if err := json.Unmarshal([]byte(id), &made); err != nil || len(made.IDs) != 4 {
		t.Fatalf("%.300s: %v", id, err)
	}
	d.batch = made.IDs[3]
	d.station("results", "?face=trends")
	d.until("the choice", `!!document.querySelector("[aria-label='Of which injections']")`)
	const chosen = `((label, value) => { const s = document.querySelector("[aria-label='" + label + "']"); s.value = value; s.dispatchEvent(new Event("change", { bubbles: true })) })`
	d.do(chromedp.Evaluate[chromedp.Void](`localStorage.setItem("yugen-trends", JSON.stringify({ quantities: ["response"], of: "standard", along: "run", rules: ["beyond", "side", "steady"], style: "page" }))`))
	d.do(chromedp.Reload())
	d.until("points of this run", `document.querySelectorAll(".chart .dots").length === 3`)
	ms := read[float64](d, `new Promise(done => {
		const began = performance.now();
		`+chosen+`("Along", "batches");
		const look = () => document.querySelectorAll(".chart .seam").length === 4 && document.querySelector(".chart .dots").getAttribute("d").length > 50000 ? requestAnimationFrame(() => done(performance.now() - began)) : requestAnimationFrame(look);
		look();
	})`, chromedp.EvalAwaitPromise)
	t.Logf("10 000 points of trends, asked to drawn: %.0f ms", ms)
}
