package e2e

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
)

// tables writes made-up chromatograms as delimited text, no two the same.
func tables(t *testing.T, count, points int) []string {
	t.Helper()
	dir := t.TempDir()
	peaks := make([]string, points)
	for i := range peaks {
		min := float64(i) * 30 / float64(points)
		y := 0.0
		for _, at := range []float64{4, 9, 15, 22} {
			y += 900 * math.Exp(-(min-at)*(min-at)/0.02)
		}
		peaks[i] = fmt.Sprintf("%.5f,%.3f", min, y+math.Sin(float64(7*i)))
	}
	paths := make([]string, count)
	for k := range paths {
		paths[k] = filepath.Join(dir, fmt.Sprintf("run %03d.csv", k+1))
		text := "time_min,UV 278 nm [mAU]\n" + strings.Join(peaks, "\n") + fmt.Sprintf("\n%.5f,%d\n", 30.001, k)
		if err := os.WriteFile(paths[k], []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	return paths
}

// emptyBatch starts a study with a batch as a person does.
func (d *desk) emptyBatch() {
	d.t.Helper()
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the studies", `document.body.innerText.includes("Green tea assay")`)
	d.do(chromedp.Focus(chromedp.CSS("form input")))
	d.press("Trial", kb.Tab, "Many", kb.Enter)
	d.until("the empty batch", `document.body.innerText.includes("No injections yet. Drop files here.")`)
}

const sent = `(document.querySelector("[aria-label=Intake] .sum")?.innerText ?? "")`

// Many files are a job that every window sees: how far it is, and a way to stop it. What is in stays, the rest is told, and the order is that of the names.
func TestManyFilesAreAJobThatCanBeStopped(t *testing.T) {
	d := open(t)
	d.emptyBatch()
	files := tables(t, 150, 12_000)
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), files))
	d.takeIn(150)
	const cells = `[...document.querySelectorAll("[aria-label='Files on their way in'] [role=option]")]`
	d.until("the first are in, the others wait", cells+`.length === 150 && `+cells+`[0].getAttribute("aria-label").endsWith("is in") && `+cells+`[149].getAttribute("aria-label").endsWith("waits")`)
	if !read[bool](d, `(() => { const d = `+cells+`[0].querySelector("path").getAttribute("d"); return d.includes("L") && new Set(d.split(/[ML]/).map(p => p.split(" ")[1])).size > 2 })()`) {
		t.Error("the first file has no silhouette")
	}
	if read[bool](d, `!!document.querySelector("[aria-label='Under way']")`) {
		t.Error("the job stands twice on the screen")
	}
	d.press(kb.Escape)
	d.until("the end", sent+`.startsWith("150 of 150")`)
	d.until("no job", `!document.querySelector("[aria-label='Under way']")`)
	d.until("the run list", `document.querySelectorAll("[data-row]").length > 0`)
	in := read[int](d, `document.querySelectorAll("[data-row]").length`)
	names := read[[]string](d, `[...document.querySelectorAll("[data-row]")].map(r => r.innerText.match(/run \d+/)?.[0] ?? "")`)
	last := ""
	for _, n := range names {
		if n != "" && n <= last {
			t.Errorf("%s comes after %s", n, last)
		}
		last = n
	}
	if in == 0 || in >= 150 {
		t.Errorf("%d rows", in)
	}
	d.quiet()
}

// Files of two detectors: the other one is processed by one click, what is drawn follows, and undo brings the first back.
func TestAnotherDetectorIsProcessed(t *testing.T) {
	d := openEmpty(t)
	dir := t.TempDir()
	var files []string
	for k := range 3 {
		files = append(files, filepath.Join(dir, fmt.Sprintf("run %d.csv", k)))
		if err := os.WriteFile(files[k], bench.TwoDetectors(k), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `!!document.querySelector("[aria-label='Your files'] button")`)
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), files))
	signals := `(document.querySelector("[aria-label=Signals]")?.innerText ?? "")`
	d.until("the signals", `["UV 278 nm, mAU", "UV 210 nm, mAU", "Pump pressure, bar", "condition"].every(w => `+signals+`.includes(w)) && document.querySelectorAll("[role=option]").length === 3`)
	d.until("what is otherwise in the last one", `(e => e?.innerText.includes("1 otherwise than in most") && e.querySelector(".cau").innerText === "45 °C")(document.querySelector("[aria-label=Conditions]"))`)
	d.signal("UV 210 nm", "make it the first")
	d.until("who is working", `document.activeElement?.id === "who"`)
	d.do(chromedp.Sleep(400 * time.Millisecond))
	d.press("Kim Tanaka", kb.Enter)
	d.until("the other one", `[...document.querySelectorAll("[aria-label=Signals] .row")].find(b => b.innerText.includes("210")).innerText.includes("first channel")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.do(chromedp.KeyEvent("3", chromedp.KeyModifiers(1)))
	apex := `[...document.querySelectorAll("[aria-label=Peaks] tbody td:nth-child(3)")].map(e => e.innerText.trim()).join()`
	d.until("its peak", `(`+apex+`).startsWith("4.00") || (`+apex+`).startsWith("3.99")`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("the first again", `/^(2\.00|1\.99)/.test(`+apex+`)`)

	// The others stand in lanes, each on its own scale, with their values at the pointer.
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".head .chk")].find(l => l.innerText.trim() === "other signals").querySelector("input").click()`))
	lanes := `[...document.querySelectorAll(".lanes svg")].map(l => l.getAttribute("aria-label") + (l.querySelector("path + text") && l.querySelectorAll("path").length > 1 ? "" : " empty")).join("; ")`
	d.until("two lanes", `(`+lanes+`) === "UV 210 nm, detector; Pump pressure, condition"`)
	x, y := d.centre(".plot svg.over")
	d.do(chromedp.MouseEvent("mouseMoved", x, y))
	d.until("the pressure at the pointer", `/Pump pressure, bar\s*18[0-2]/.test(document.querySelector(".lanes").textContent)`)

	// The second detector is processed beside the first: its peaks and compounds are its own, and a compound brings its channel with it.
	d.do(chromedp.KeyEvent("1", chromedp.KeyModifiers(1)))
	d.signal("UV 210 nm", "process too")
	d.until("two channels", `document.querySelector("[aria-label=Signals] h2").innerText.includes("2 channels")`)
	d.do(chromedp.KeyEvent("3", chromedp.KeyModifiers(1)))
	d.until("its peak in the first", `/^(2\.00|1\.99)/.test(`+apex+`)`)
	channel := `[...document.querySelectorAll(".head select")].find(s => s.title.startsWith("The channel"))`
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "uv-210-nm"; s.dispatchEvent(new Event("change", {bubbles: true})) })(` + channel + `)`))
	d.until("its peak in the second", `/^(4\.00|3\.99)/.test(`+apex+`)`)
	d.press("]")
	d.do(chromedp.Sleep(200 * time.Millisecond))
	d.press("n")
	d.until("the field of the name", `document.activeElement?.tagName === "INPUT"`)
	d.press("Theanine", kb.Enter)
	d.until("the name", `document.querySelector("[aria-label=Peaks] tbody").innerText.includes("Theanine")`)
	d.do(chromedp.KeyEvent("4", chromedp.KeyModifiers(1)))
	d.until("where it is looked for", `document.querySelector("[aria-label=Compounds] tbody").innerText.includes("UV 210 nm") && document.querySelector("[aria-label='Channel and qualifiers'] select").value === "uv-210-nm"`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Channel and qualifiers'] button")].find(b => b.innerText.includes("UV 278")).click()`))
	d.until("the reason", `!!document.activeElement?.closest("[role=dialog], [role=alertdialog], dialog")`)
	d.do(chromedp.Sleep(400 * time.Millisecond))
	d.press("two detectors", kb.Enter)
	d.until("what it says here", `document.querySelector("[aria-label='Channel and qualifiers']").innerText.includes("No peak at its time here")`)
	d.quiet()
}

// takeIn takes in all files that were looked at, when there are so many.
func (d *desk) takeIn(n int) {
	d.t.Helper()
	d.until("all are looked at", fmt.Sprintf(`[...document.querySelectorAll("[aria-label='Where they go'] button")].some(b => b.innerText.startsWith("Take in %d") && !b.disabled)`, n))
	d.press(kb.Enter)
}

// Files are looked at before anything is kept: joined ones hang together and can be parted, a refused one says why and where, and a text of unknown shape is read
// by saying what its lines hold; the reading is kept as a profile, by which the next of its shape are read.
func TestFilesAreLookedAtFirst(t *testing.T) {
	d := open(t)
	d.emptyBatch()
	dir := t.TempDir()
	write := func(name string, data []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, data, 0o644); err != nil {
			t.Fatal(err)
		}
		return path
	}
	blocks := func(sample string, top int) []byte {
		text := "Sample;" + sample + "\n"
		for _, name := range []string{"Lamp one", "Lamp two"} {
			text += "Channel: " + name + "\nt;value\n"
			for i := range 40 {
				text += fmt.Sprintf("%d;%d\n", i, top-(i-20)*(i-20))
			}
			text += "\n"
		}
		return []byte(text)
	}
	files := []string{
		write("pond-1.txt", blocks("Pond", 400)), write("pond-2.txt", blocks("Pond upstream", 420)), write("letter.txt", []byte("Dear colleague,\n")), write("run 1.csv", bench.TwoDetectors(1)),
	}
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), files))
	rows := `[...document.querySelectorAll("[aria-label='Files that came'] tbody tr")].map(r => r.innerText.replace(/\s+/g, " ")).join("|")`
	d.until("what came", `(r => r.includes("letter.txt Line 1: no table of numbers") && r.includes("UV 278 nm") && r.includes("pond-1.txt Line"))(`+rows+`)`)
	if in := read[int](d, `document.querySelectorAll("[data-row]").length`); in != 0 {
		t.Errorf("%d injections before anything was taken in", in)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Files that came'] tr")].find(r => r.innerText.includes("pond-1")).querySelector("button").click()`))
	d.until("the lines, read", `document.querySelectorAll(".seen").length === 2 && document.querySelector(".seen").innerText.includes("Lamp one")`)
	d.until("its twin fits", `[...document.querySelectorAll(".keep button")].some(b => b.innerText.startsWith("Read all 2 so") && !b.disabled)`)
	// A line that cannot be read as said is shown with its place.
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "first"; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("select[aria-label='Line 2 holds']"))`))
	d.until("where it does not fit", `document.querySelector(".line.bad .no")?.innerText === "2"`)
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "first"; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("select[aria-label='Line 4 holds']"))`))
	d.until("read again", `document.querySelectorAll(".seen").length === 2`)
	d.do(chromedp.Focus(chromedp.CSS(`.keep input.field`)))
	d.press("Pond lamps")
	d.text(".keep button", "Read all 2 so")
	d.until("who is working, or the files", `document.querySelector("[aria-label='Files that came']")`)
	d.until("both are read so", `(r => (r.match(/by Pond lamps/g) ?? []).length === 2)(`+rows+`)`)
	d.takeIn(3)
	d.until("three injections", `document.querySelectorAll("[data-row]").length === 3 && document.querySelector("[data-row='1']").innerText.includes("Pond upstream")`)

	// Of a file with spectra the one under the pointer is shown, and results come without anything being kept.
	scan, err := filepath.Abs("../examples/formats/aroma-scan.cdf")
	if err != nil {
		t.Fatal(err)
	}
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{scan}))
	d.until("its row", `!!document.querySelector("[aria-label='Files that came'] tbody tr td button")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Files that came'] button")].find(b => b.innerText === "results").click()`))
	d.until("its results", `document.querySelector("[aria-label='Results of one file']")?.innerText.includes("2 peaks; none has a name yet")`)
	// The batch can be told to be another before the taking in has answered: what is no longer looked at is not asked for again.
	d.do(chromedp.Evaluate[chromedp.Void](`["json", "text"].forEach(way => {
		const read = Response.prototype[way]
		Response.prototype[way] = async function () {
			if (this.url.endsWith("/looks/take")) await new Promise(on => setTimeout(on, 1500))
			return read.call(this)
		}
	})`))
	d.takeIn(1)
	d.until("four injections", `document.querySelectorAll("[data-row]").length === 4`)
	d.click("[data-row='3'] td:nth-child(2)")
	d.do(chromedp.KeyEvent("2", chromedp.KeyModifiers(1)))
	d.option("one")
	d.until("its trace", `document.querySelector("h1")?.innerText.includes("Oolong aroma") && !!document.querySelector("[aria-label=Spectrum]") && document.querySelectorAll(".picture path").length > 3`)
	x, y := d.centre(".picture svg.over")
	d.do(chromedp.MouseEvent("mouseMoved", x, y))
	d.until("the spectrum at the pointer", `/at 5\.\d{3} min/.test(document.querySelector("[aria-label=Spectrum]").innerText) && document.querySelectorAll("[aria-label=Spectrum] svg text").length > 4`)
	d.quiet()
}

// signal presses a word in the row of a signal of the batch.
func (d *desk) signal(name, word string) {
	d.t.Helper()
	row := fmt.Sprintf(`[...([...document.querySelectorAll("[aria-label=Signals] .row")].find(r => r.innerText.includes(%q))?.querySelectorAll("button") ?? [])].find(b => b.innerText === %q)`, name, word)
	d.until(word+" of "+name, `!!`+row)
	d.do(chromedp.Evaluate[chromedp.Void](row + `.click()`))
}
