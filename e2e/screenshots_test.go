package e2e

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
)

var screenshots = flag.String("screenshots", "", "write a picture of each station to this folder")

// TestScreenshots draws docs/screenshots from the demo when asked: make screenshots.
func TestScreenshots(t *testing.T) {
	if *screenshots == "" {
		t.Skip("only when asked with -screenshots")
	}
	d := open(t)
	if err := os.MkdirAll(*screenshots, 0o755); err != nil {
		t.Fatal(err)
	}
	for _, s := range []struct{ name, station, query, ready string }{
		{"batch", "batch", "", `document.querySelectorAll(".ntc").length >= 6`},
		{"traces-above", "traces", "?mode=above", `document.querySelectorAll(".spark").length === 9 && !document.querySelector(".busy")`},
		{"peaks", "peaks", "?c=ec", `document.querySelectorAll(".handle").length === 2`},
		{"compounds", "compounds", "?c=egcg", `document.querySelectorAll("[aria-label=Drift] circle").length > 40`},
		{"curves", "curves", "?c=egcg", `document.querySelectorAll(".pt").length > 20`},
		{"results", "results", "?c=egcg", `document.querySelectorAll("[aria-label=Working] .step").length === 6`},
		{"report", "report", "", `document.querySelectorAll(".sheet svg").length >= 2`},
		{"report-layout", "report", "?face=layout&layout=certificate", `document.querySelectorAll("[data-block]").length >= 8 && (document.querySelector("[data-block=b4]").click(), !!document.querySelector(".grip"))`},
	} {
		d.station(s.station, s.query)
		d.until(s.name, s.ready+` && document.querySelectorAll("[role=option]").length === 47`)
		d.picture(s.name)
	}
	d.fields()
	d.bringIn()
	d.wholeWay()
	d.station("results", "?c=egcg")
	d.option("summary")
	d.until("the summary", `document.querySelectorAll("[aria-label='Summary tables'] table").length === 3`)
	d.do(chromedp.Evaluate[chromedp.Void](`(rows => { const k = rows.findIndex(r => r.innerText.includes("Checks ")); rows.slice(k).find(r => r.cells[0].innerText.trim() === "RSD, %").cells[5].click() })([...document.querySelectorAll("[aria-label='Summary tables'] table")][0].querySelectorAll("tbody tr").values().toArray())`))
	d.picture("summary")
	d.elsewhere("Tea aroma", "Spring aromas")
	d.station("spectra", "?face=batch")
	d.until("the stretches", `document.querySelectorAll(".ruler .count").length === 17`)
	d.text(".line button", "Resolve them")
	d.until("all of them resolved", `document.querySelector(".line .r")?.innerText === "all resolved, 21 compounds"`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll(".ruler .count")[7].click()`))
	d.until("its two components", `document.querySelectorAll("[aria-label=Resolved] .part").length === 2`)
	d.picture("spectra-batch")
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.name.startsWith("Darjeeling")).id)`, d.batch), chromedp.EvalAwaitPromise)
	d.station("spectra", "?at=15.63&i="+id)
	d.until("its best hit", proposed+` === "Geraniol?" && document.querySelectorAll(".mirror .entry").length > 8`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".mirror .hit")].find(r => r.textContent.includes("m/z 69,")).dispatchEvent(new MouseEvent("click", { bubbles: true }))`))
	d.until("an ion", `(document.querySelector(".lane .line")?.getAttribute("d") ?? "").length > 500`)
	d.picture("spectra")
	d.elsewhere("Matcha colour screening", "Autumn lots")
	d.station("results", "?face=screening")
	d.until("what waits", word("Online A", "Tartrazine")+` === "present?"`)
	d.do(chromedp.KeyEvent("\r", chromedp.KeyModifiers(8)))
	d.until("the clear ones confirmed", word("Online A", "Tartrazine")+` === "present"`)
	d.press("]")
	d.until("the one that waits", `document.querySelector("[aria-label=Evidence] .says")?.innerText.includes("spectrum does not")`)
	d.picture("screening")
	d.elsewhere("Green tea assay", "Spring teas")
	d.station("peaks", "?c=ec")
	d.until("the peaks", `document.querySelectorAll(".handle").length === 2`)
	d.click(`[aria-label^="Change to Night"]`)
	d.picture("peaks-night")
	d.click(`[aria-label^="Change to Paper"]`)
	d.reviewed()
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.querySelectorAll(".rows .ridge path[d*=L]").length >= 9`)
	d.picture("shelf")
	t.Run("bench", func(t *testing.T) { openBench(t, "120").measured() })
}

// measured is the bench while the second injection of a list is measured.
func (d *desk) measured() {
	d.t.Helper()
	d.list("1", "Spring teas II", "Green tea assay")
	d.press("y")
	d.until("the second is measured", `document.querySelector("main h1").textContent.startsWith("Sencha") && / 1[1-3]\.\d of/.test(document.querySelector("main h1").textContent)`)
	d.picture("bench")
}

// reviewed is the station Review with some changes by hand, one of them sent back.
func (d *desk) reviewed() {
	d.station("peaks", "")
	read[bool](d, `(async () => {
		const path = "/api/batches/" + location.pathname.split("/")[1];
		const view = await (await fetch(path)).json(), result = (await (await fetch(path + "/result")).json()).result;
		const send = (method, to, body) => fetch(path + to, {method, headers: {"Content-Type": "application/json", "If-Match": "*", "Yugen-Analyst": "M.%20Okada"}, body: JSON.stringify(body)});
		let n = 0;
		for (const injected of result.injections) {
			if (view.batch.injections.find((i) => i.id === injected.id).role !== "sample" || ++n % 6 !== 1) continue;
			const named = injected.peaks.filter((p) => p.compound_id), p = named[n % named.length];
			await send("POST", "/edits", {injection_id: injected.id, edit: {kind: "move_end", apex_min: p.apex_min, to_min: p.apex_min + (p.end_min - p.apex_min) * 0.45}, reason: "tail of the wash was counted"});
		}
		const curve = result.curves[2];
		await send("PUT", "/choices", {choices: {...view.batch.choices, left_out: {[curve.compound_id]: [{injection_id: curve.points[4].injection_id, reason: "bubble in the loop, seen on the pressure"}]}}, reason: "bubble in the loop"});
		await send("POST", "/settled", {keys: result.notices.slice(0, 2).map((x) => x.key), reason: "within 10 %, duplicate agrees"});
		const review = await (await fetch(path + "/review")).json();
		const of = (kind, k) => review.items.filter((i) => i.kind === kind)[k].key;
		await send("POST", "/review", {keys: [of("typed", 0), of("typed", 1), of("edit", 3), of("notice", 0)], verdict: "accepted"});
		await send("POST", "/review", {keys: [of("edit", 2)], verdict: "sent back", remark: "Resolution is 1.2: a drop line, as on 1 of 2"});
		return true;
	})()`, chromedp.EvalAwaitPromise)
	d.station("review", "")
	d.until("what was sent back", `document.querySelector("[aria-label='What was changed']")?.innerText.includes("sent back")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("[aria-label='What was changed'] tbody tr")[3].click()`))
	d.picture("review")
}

func (d *desk) fields() {
	d.t.Helper()
	d.station("results", "?face=fields")
	d.until("no fields", `document.body.innerText.includes("No fields yet")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Begin with ten")).click()`))
	d.until("the examples", `document.querySelectorAll(".one").length === 10`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".one")].find(b => b.innerText.includes("Retention drift")).click()`))
	d.until("its values", `document.querySelectorAll(".values p").length > 100 && document.querySelectorAll(".edit svg circle").length > 100`)
	d.picture("fields")
}

// bringIn shows files that are looked at before they are taken in.
func (d *desk) bringIn() {
	d.t.Helper()
	var paths []string
	for _, name := range []string{"15-check.mzML", "unknown-cola.jdx", "aroma-scan.cdf", "caffeine-diode-array.csv", "pond-two-lamps.txt"} {
		path, err := filepath.Abs(filepath.Join("../examples/formats", name))
		if err != nil {
			d.t.Fatal(err)
		}
		paths = append(paths, path)
	}
	d.station("batch", "")
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), paths))
	d.until("what came", `document.querySelectorAll("[aria-label='Files that came'] tbody tr").length === 5 && !document.querySelector("tr.wait")`)
	d.picture("bring-in")
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Files that came'] tr")].find(r => r.innerText.includes("pond-two-lamps")).querySelector("button").click()`))
	d.until("the lines", `document.querySelectorAll(".seen").length === 2`)
	d.press(kb.Escape, kb.Escape)
	d.until("put back", `!document.querySelector("[aria-label='Files that came']")`)
}

// wholeWay shows a practical of seven files as it stands when they have come in.
func (d *desk) wholeWay() {
	d.t.Helper()
	dir := d.t.TempDir()
	var paths []string
	for _, f := range bench.Practical(1) {
		paths = append(paths, filepath.Join(dir, f.Name))
		if err := os.WriteFile(paths[len(paths)-1], f.Data, 0o644); err != nil {
			d.t.Fatal(err)
		}
	}
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.body.innerText.includes("Green tea assay")`)
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), paths))
	d.until("the whole way", `!!document.querySelector("[aria-label=Reading] .step") && document.querySelectorAll("[aria-label=Files] tbody tr").length === 7`)
	d.picture("whole-way")
}

func (d *desk) picture(name string) {
	d.t.Helper()
	d.do(chromedp.Sleep(700 * time.Millisecond))
	data, err := chromedp.Run(d.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		d.t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(*screenshots, name+".png"), data, 0o644); err != nil {
		d.t.Fatal(err)
	}
}
