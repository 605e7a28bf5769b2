package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

const proposed = `(document.querySelector("[aria-label=Proposed] .what")?.innerText ?? "")`

// A peak is chosen and its best hit stands beside it, with its index; it is confirmed by one key, and the name stands on the peak in every injection; another is
// rejected with a reason; an ion is added by clicking its line, once, taken away, had back, and processed as a channel.
func TestAPeakIsIdentifiedAndConfirmed(t *testing.T) {
	d := open(t)
	d.elsewhere("Tea aroma", "Spring aromas")
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.name.startsWith("Darjeeling")).id)`, d.batch), chromedp.EvalAwaitPromise)
	d.bookmark("spectra", "?at=15.63&i="+id)
	d.until("its best hit", proposed+` === "Geraniol?" && document.querySelectorAll("[aria-label=Hits] tbody tr").length === 8 && document.querySelectorAll(".mirror .entry").length > 8`)
	if says := read[string](d, `document.querySelector("[aria-label=Proposed] .says").innerText`); !strings.Contains(says, "index") {
		t.Errorf("it says %q", says)
	}
	// The other hit is looked at with the keys, and the mirrored entry follows.
	d.press(kb.ArrowDown)
	d.until("the second hit", `document.querySelectorAll("[aria-label=Hits] tbody tr")[1].classList.contains("on") && /^(?!Geraniol)/.test([...document.querySelectorAll(".mirror .who")].at(-1).textContent)`)
	d.press(kb.ArrowUp, kb.Enter)
	d.until("it bears the name", proposed+` === "Geraniol"`)
	named := read[int](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => fetch("/api/batches/%s/result").then(r => r.json()).then(r => { const c = v.batch.version.method.compounds.find(c => c.name === "Geraniol").id; return r.result.injections.filter(i => i.peaks.some(p => p.compound_id === c)).length }))`, d.batch, d.batch), chromedp.EvalAwaitPromise)
	if named < 17 {
		t.Errorf("%d injections have the name", named)
	}
	if why := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s/record").then(r => r.json()).then(r => JSON.stringify(r))`, d.batch), chromedp.EvalAwaitPromise); !strings.Contains(why, "confirmed at 15.6") {
		t.Error("the record does not say why it bears the name")
	}
	// Walking keeps the moment.
	d.press("k")
	d.until("the injection before", proposed+` === "Geraniol"`)

	// A line is clicked and its ion stands in a lane, once.
	click := `(alt => [...document.querySelectorAll(".mirror .hit")].find(r => r.textContent.includes("m/z 69,")).dispatchEvent(new MouseEvent("click", { bubbles: true, altKey: alt })))`
	d.do(chromedp.Evaluate[chromedp.Void](click + `(false)`))
	d.until("its lane", `document.querySelectorAll(".lane").length === 1 && (document.querySelector(".lane .line")?.getAttribute("d") ?? "").length > 500`)
	d.do(chromedp.Evaluate[chromedp.Void](click + `(false)`))
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Take m/z 69±0.3 away']").click()`))
	d.until("it is gone", `document.querySelectorAll(".lane").length === 0`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Ions in lanes'] button")].find(b => b.innerText === "69±0.3").click()`))
	d.until("it is back", `document.querySelectorAll(".lane").length === 1`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".lane button")].find(b => b.innerText === "process too").click()`))
	d.until("it is a channel", fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.version.method.channels.length === 2)`, d.batch))

	d.accessible("spectra")
	// Another peak is rejected, with a reason.
	d.bookmark("spectra", "?at=21.72&i="+id)
	d.until("the next proposal", proposed+` === "(E)-Nerolidol?"`)
	d.press("x")
	d.until("why", `document.activeElement?.placeholder?.startsWith("why it is not")`)
	d.do(chromedp.KeyEvent("the mix had none"))
	d.press(kb.Enter)
	d.until("it is no longer proposed", proposed+` !== "(E)-Nerolidol?" && !!document.querySelector("[aria-label=Hits] tr.gone")`)
	d.quiet()
}

// Batches without masses have no such station.
func TestSpectraStandWhereThereAreSome(t *testing.T) {
	d := open(t)
	d.station("peaks", "")
	if stations := read[string](d, `[...document.querySelectorAll("nav[aria-label=Stations] a")].map(a => a.innerText.replace(/\d+$/, "").trim()).join()`); strings.Contains(stations, "Spectra") {
		t.Errorf("the stations are %s", stations)
	}
	d.elsewhere("Tea aroma", "Spring aromas")
	d.station("batch", "")
	d.until("the station", `document.querySelector("nav[aria-label=Stations]")?.innerText.includes("Spectra")`)
}

// The run of a diode array is a map under its chromatogram; a peak that hides a dye is told of, one that hides none is not; walking keeps the moment.
func TestADyeHidesUnderAPeak(t *testing.T) {
	d := open(t)
	d.elsewhere("Matcha colour screening", "Autumn lots")
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.name === "Online C").id)`, d.batch), chromedp.EvalAwaitPromise)
	d.station("spectra", "?at=2.79&i="+id)
	d.until("it is told", `(document.querySelector("[aria-label='One compound?'] .says")?.innerText ?? "").startsWith("More than one compound: after the apex") && document.querySelectorAll("[aria-label='One compound?'] circle.out").length >= 3`)
	d.until("the map", `document.querySelector(".map canvas")?.width === 360 && (document.querySelector(".map .cut")?.getAttribute("d") ?? "").length > 500`)
	ink := read[int](d, `(c => { const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data; let dark = 0; for (let k = 0; k < d.length; k += 4) if (d[k] < 90) dark++; return dark })(document.querySelector(".map canvas"))`)
	if ink < 50 || ink > 20000 {
		t.Errorf("%d points of the map are dark", ink)
	}
	// Each contour holds as much of the map as is higher than it; told by the cells themselves. Its drawing is in cells.
	apart := read[[]float64](d, fmt.Sprintf(`(async () => {
		const map = await (await fetch("/api/batches/%s/injections/%s/map")).json();
		const cells = map.values.flat(), most = Math.max(...cells);
		return [...document.querySelectorAll(".map .contour")].map((line, k) => {
			const area = line.getAttribute("d").split("M").filter(Boolean).reduce((sum, ring) => {
				const p = ring.replace("Z", "").split("L").map(q => q.split(" ").map(Number));
				return sum + p.reduce((a, [x, y], i) => { const [x1, y1] = p[(i + 1) %% p.length]; return a + (x * y1 - x1 * y) / 2 }, 0);
			}, 0);
			const above = cells.filter(v => v >= most / [32, 8, 2][k]).length;
			return Math.abs(Math.abs(area) - above) / above;
		});
	})()`, d.batch, id), chromedp.EvalAwaitPromise)
	if len(apart) != 3 || slices.Max(apart) > 0.08 {
		t.Errorf("contours are %.3f of what they hold from it", apart)
	}
	d.accessible("the map of a run")
	d.click(".map .chk input")
	d.until("no contours", `document.querySelectorAll(".map .contour").length === 0`)
	for range 8 {
		d.press("k")
	}
	d.until("an honest lot", `document.querySelector("h1").innerText.startsWith("Hill garden") && (document.querySelector("[aria-label='One compound?'] .says")?.innerText ?? "").startsWith("Nothing speaks against")`)
	d.quiet()
}

// A ladder is kept by name in the study and taken up again; one that is pasted with falling times is refused in words.
func TestALadderIsKeptByName(t *testing.T) {
	d := open(t)
	d.elsewhere("Tea aroma", "Spring aromas")
	d.station("compounds", "?c=ionone")
	const panel = `document.querySelector("[aria-label='Retention index']")`
	d.until("the ladder", panel+`?.innerText.includes("10 alkanes")`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Retention index'] form input"), "Spring ramp"+kb.Enter))
	d.until("it is kept", `[...`+panel+`.querySelectorAll("button")].some(b => b.innerText === "Spring ramp")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(a => { a.value = "8\t4\n9\t4\n"; a.dispatchEvent(new Event("change", { bubbles: true })) })(` + panel + `.querySelector("textarea"))`))
	d.until("why not", panel+`.innerText.includes("does not come after")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Take Spring ramp away']").click()`))
	d.until("it is gone", `![...`+panel+`.querySelectorAll("button")].some(b => b.innerText === "Spring ramp")`)
}

// Ions are kept by a name and a class, found by typing, applied with Enter; again they add nothing.
func TestIonsAreKeptAndFoundByTyping(t *testing.T) {
	d := open(t)
	d.elsewhere("Tea aroma", "Spring aromas")
	d.station("spectra", "?at=12.29")
	const panel = `document.querySelector("[aria-label='Ions in lanes']")`
	d.until("the station", `!!document.querySelector("#ions") && `+proposed+` !== ""`)
	d.do(chromedp.SendKeys(chromedp.CSS("#ions"), "93, 71"+kb.Enter))
	d.until("two lanes", `document.querySelectorAll(".lane").length === 2 && `+panel+`.innerText.includes("2 traces added")`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Ions in lanes'] form.acts input"), "Linalool"))
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Ions in lanes'] form.acts input:nth-of-type(2)"), "terpene alcohols"+kb.Enter))
	d.until("kept", panel+`.innerText.includes("Kept: Linalool")`)
	d.do(chromedp.SendKeys(chromedp.CSS("#ions"), "terpene"))
	d.until("found by its class", `document.querySelector("[aria-label='Ions in lanes'] .list")?.innerText.includes("Linalool")`)
	d.do(chromedp.SendKeys(chromedp.CSS("#ions"), kb.Enter))
	d.until("again adds nothing", panel+`.innerText.includes("Linalool: 0 traces added, 2 shown already") && document.querySelectorAll(".lane").length === 2`)
	d.do(chromedp.SendKeys(chromedp.CSS("#ions"), "nobody"+kb.Enter))
	d.until("what is not kept is said", panel+`.innerText.includes("keeps no ions of “nobody”")`)
	d.press(kb.Escape)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("o")
	d.until("the run over time and m/z", `document.querySelector(".map canvas")?.width > 100`)
	d.quiet()
}

// A colour is found in the library by its spectrum, and confirmed in its own channel; what hides under a tail is matched by itself.
func TestAColourIsNamedByItsSpectrum(t *testing.T) {
	d := open(t)
	d.elsewhere("Matcha colour screening", "Autumn lots")
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.name === "Online C").id)`, d.batch), chromedp.EvalAwaitPromise)
	d.station("spectra", "?at=2.79&i="+id)
	d.until("its hits", proposed+` === "Flavonol glycoside" && document.querySelector("[aria-label=Hits] tbody tr td")?.innerText === "Flavonol glycoside"`)
	d.until("what remains", `document.querySelector("[aria-label='What remains']")?.innerText.includes("It is most like Quinoline yellow?")`)
	d.quiet()
}

// The stations of spectra and the screening keep everything in reach in a small window.
func TestSpectraInANarrowWindow(t *testing.T) {
	d := open(t)
	for batch, stations := range map[string][]string{"Autumn lots": {"spectra?at=2.05", "results?face=screening"}, "Spring aromas": {"spectra?at=12.29", "spectra?face=batch", "results?face=screening"}} {
		d.elsewhere(map[bool]string{true: "Matcha colour screening", false: "Tea aroma"}[batch == "Autumn lots"], batch)
		for _, size := range [][2]int64{{1280, 800}, {1024, 700}, {853, 533}, {640, 480}} {
			d.do(chromedp.EmulateViewport(size[0], size[1]))
			for _, station := range stations {
				name, query, _ := strings.Cut(station, "?")
				what := fmt.Sprintf("%s of %s at %d", name, batch, size[0])
				d.station(name, "?"+query)
				d.until(what, `document.fonts.status === "loaded" && !!document.querySelector(".main :is(.map canvas, .mirror svg, .ruler svg, [aria-label=Screening] td)")`)
				d.until(what+" with nothing cut", `(`+cut+`) === ""`)
				if read[bool](d, `document.documentElement.scrollWidth > innerWidth`) {
					t.Errorf("%s: the page is wider than the window", what)
				}
			}
		}
	}
	d.quiet()
}
