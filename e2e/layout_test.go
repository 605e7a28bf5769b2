package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// blockAt is where a block of the page that is laid out stands on the screen, at a share of its width and height.
func (d *desk) blockAt(id string, across, down float64) (x, y float64) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector("[data-block=%s]").scrollIntoView({ block: "center" })`, id)))
	p := read[[]float64](d, fmt.Sprintf(`(() => { const b = document.querySelector("[data-block=%s]").getBoundingClientRect(); return [b.left + b.width * %g, b.top + b.height * %g] })()`, id, across, down))
	return p[0], p[1]
}

func (d *desk) dragTo(from string, x, y float64) {
	d.t.Helper()
	p := read[[]float64](d, fmt.Sprintf(`(() => { const b = document.querySelector(%q).getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2] })()`, from))
	d.do(chromedp.DragAndDropXY(p[0], p[1], x, y))
}

// layoutRows are the kinds of the blocks of the layout that is open, row by row, as the server drew them: a row is what stands at one height.
func (d *desk) layoutRows() string {
	d.t.Helper()
	return read[string](d, `(() => {
		const seen = new Map();
		for (const b of document.querySelectorAll("[data-block]")) {
			const box = b.getBoundingClientRect(), sheet = b.closest("[data-page]").dataset.page, row = sheet + " " + Math.round(box.top + (b.closest(".surface")?.scrollTop ?? 0));
			seen.set(row, [...(seen.get(row) ?? []), [box.left, b.title.split(":")[0]]]);
		}
		return [...seen.values()].map(r => r.sort((a, b) => a[0] - b[0]).map(b => b[1]).join("+")).join(" ");
	})()`)
}

// A layout is made by dragging, its steps are taken back, it is kept under a name of its own, reports are made by it for every sample, and the last of them
// says the amount that the results say.
func TestALayoutIsMadeByDragging(t *testing.T) {
	d := open(t)
	d.station("report", "?face=layout&layout=certificate")
	d.until("the page", `document.querySelectorAll("[data-block]").length >= 8`)
	if !strings.Contains(d.layoutRows(), "Results Chromatogram Notices Text Signatures") {
		t.Fatalf("the certificate is %s", d.layoutRows())
	}
	// A curve dragged onto the right third of the results stands beside them.
	d.do(chromedp.Click(chromedp.CSS(`[data-block=b4]`)))
	x, y := d.blockAt("b4", 0.9, 0.5)
	d.dragTo(`.rail [title^="Curve:"]`, x, y)
	d.until("the curve beside the results", `(() => { const r = document.querySelector("[data-block=b4]")?.getBoundingClientRect(), c = [...document.querySelectorAll("[data-block]")].find(b => b.title.startsWith("Curve:"))?.getBoundingClientRect(); return r && c && Math.abs(r.top - c.top) < 3 && c.left > r.right - 12 })()`)
	// The keyboard makes it wider; the results give way.
	before := read[float64](d, `document.querySelector("[data-block=b4]").getBoundingClientRect().width`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
	d.press("+")
	d.until("the results gave way", fmt.Sprintf(`document.querySelector("[data-block=b4]").getBoundingClientRect().width < %g - 20`, before))
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("taken back", fmt.Sprintf(`Math.abs(document.querySelector("[data-block=b4]").getBoundingClientRect().width - %g) < 2`, before))
	// The chromatogram is dragged by its grip under the notices.
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[data-block=b5]").click()`))
	d.until("its grip", `!!document.querySelector(".grip")`)
	x, y = d.blockAt("b6", 0.5, 0.95)
	d.dragTo(".grip", x, y)
	d.until("the chromatogram under the notices", `document.querySelector("[data-block=b5]")?.getBoundingClientRect().top > document.querySelector("[data-block=b6]")?.getBoundingClientRect().bottom - 4`)
	rows := d.layoutRows()
	d.press(kb.Escape)
	d.until("the page itself", `document.querySelector("[aria-label='Name of the copy']")`)
	d.do(chromedp.SendKeys(chromedp.CSS("[aria-label='Name of the copy']"), "Ours"+kb.Enter))
	d.until("it is kept", `document.querySelector("[aria-label=Layout]")?.selectedOptions[0]?.text === "Ours" && document.body.innerText.includes("layout, version 1")`)
	d.do(chromedp.Reload())
	d.until("the page after a reload", `document.querySelectorAll("[data-block]").length >= 9 && document.querySelector("[aria-label=Layout]")?.selectedOptions[0]?.text === "Ours"`)
	if again := d.layoutRows(); again != rows {
		t.Errorf("after a reload the layout is %s, it was %s", again, rows)
	}
	d.station("report", "?face=many&layout="+read[string](d, `document.querySelector("[aria-label=Layout]").value`))
	d.until("what would be made", `/^\d+ would be made/.test(document.querySelector(".sub h2")?.innerText ?? "") && !document.querySelector(".sub .pri")?.disabled`)
	d.do(chromedp.Click(chromedp.CSS(".sub .pri")))
	d.until("all are made", `(() => { const m = /^(\d+) of (\d+) made/.exec(document.querySelector(".sub h2")?.innerText ?? ""); return m && m[1] > 5 && !document.querySelector(".sub h2").innerText.includes("to come") })()`)
	amount := read[string](d, fmt.Sprintf(`Promise.all(["", "/result"].map(p => fetch("/api/batches/%s" + p).then(r => r.json()))).then(([b, r]) => { const id = b.batch.version.method.compounds.find(c => c.name === "Caffeine").id, s = r.result.samples.at(-1); return s.name + "|" + s.values[id].mean.toFixed(2) })`, d.batch), chromedp.EvalAwaitPromise)
	name, mean, _ := strings.Cut(amount, "|")
	last := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s/sets").then(r => r.json()).then(sets => { const f = sets[0].files.filter(f => f.state === "made" && f.sample === %q).at(-1); return "/api/batches/%s/sets/" + sets[0].id + "/files/" + f.position })`, d.batch, name, d.batch), chromedp.EvalAwaitPromise)
	answer, err := http.Get(d.address + last)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	data, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "last.pdf")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil || !strings.Contains(string(text), name) || !strings.Contains(string(text), mean) {
		t.Errorf("the last PDF of %s does not say %s: %v\n%s", name, mean, err, text)
	}
}

// What a page shows and is not there is told beside the block that shows it, and typed there it stands in the run list.
func TestWhatIsMissingIsTypedOnThePage(t *testing.T) {
	d := open(t)
	id := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.role === "sample" && i.sample === null).id)`, d.batch), chromedp.EvalAwaitPromise)
	d.station("report", "?face=layout&layout=one-page&i="+id)
	d.until("the page", `document.querySelectorAll("[data-block]").length >= 7`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[data-block]")].find(b => b.title.startsWith("Sample:")).click()`))
	d.until("what is missing", `!!document.querySelector("section[aria-label=Missing] input")`)
	d.do(chromedp.SendKeys(chromedp.CSS("section[aria-label=Missing] input"), "0.2004"+kb.Tab))
	d.until("it is no longer missing, and stands on the page", `!document.querySelector("section[aria-label=Missing]") && document.querySelector(".surface")?.innerText.includes("0.2004 g")`)
	if got := read[float64](d, fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.injections.find(i => i.id === %q).sample)`, d.batch, id), chromedp.EvalAwaitPromise); got != 0.2004 {
		t.Errorf("the run list has %g", got)
	}
}

// Of many reports one is held back and made all the same; the making is paused, gone on with and stopped; what is made stays, one PDF of all among it.
func TestManyArePausedAndMadeAllTheSame(t *testing.T) {
	d := open(t)
	d.station("report", "?face=many&layout=one-page")
	const would = `/^\d+ would be made/.test(document.querySelector(".sub h2")?.innerText ?? "") && !document.querySelector(".sub .pri")?.disabled`
	d.until("what would be made", would+` && !!document.querySelector(".out")`)
	count := func() int { return read[int](d, `Number.parseInt(document.querySelector(".sub h2").innerText)`) }
	before := count()
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".out button")].find(b => b.innerText === "make it all the same").click()`))
	d.until("it would be made too", fmt.Sprintf(`Number.parseInt(document.querySelector(".sub h2")?.innerText) === %d`, before+1))
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("input[title^='One PDF of all']").click()`))
	d.until("one more", fmt.Sprintf(`Number.parseInt(document.querySelector(".sub h2")?.innerText) === %d && !document.querySelector(".sub .pri")?.disabled`, before+2))
	d.do(chromedp.Click(chromedp.CSS(".sub .pri")))
	d.until("it can be paused", `[...document.querySelectorAll(".sub .tools button")].some(b => b.innerText === "Pause") || document.querySelector(".ridges")?.getAttribute("aria-valuenow") === document.querySelector(".ridges")?.getAttribute("aria-valuemax")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".sub .tools button")].find(b => b.innerText === "Pause")?.click()`))
	d.until("it rests, or came to its end", `[...document.querySelectorAll(".sub .tools button")].some(b => b.innerText === "Go on") || document.querySelector(".ridges")?.getAttribute("aria-valuenow") === document.querySelector(".ridges")?.getAttribute("aria-valuemax")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".sub .tools button")].find(b => b.innerText === "Go on")?.click()`))
	d.until("all are made, and their ridges inked", fmt.Sprintf(`document.querySelectorAll(".ridges path.made").length === %d && document.querySelector(".ridges").getAttribute("aria-valuenow") === "%d"`, before+1, before+2))
	all := read[string](d, fmt.Sprintf(`fetch("/api/batches/%s/sets").then(r => r.json()).then(sets => { const f = sets[0].files.at(-1); return f.joined && f.state === "made" ? f.name : "" })`, d.batch), chromedp.EvalAwaitPromise)
	if !strings.HasSuffix(all, ", all") {
		t.Errorf("the one of all is %q", all)
	}
	d.quiet()
}

// Words are written where they stand; a column of a table is made wider by its mark; all layouts are looked at as pages and one is taken by the keyboard.
func TestOnThePageItself(t *testing.T) {
	d := open(t)
	d.station("report", "?face=layout&layout=certificate")
	d.until("the page", `document.querySelectorAll("[data-block]").length >= 8`)
	text := read[string](d, `[...document.querySelectorAll("[data-block]")].find(b => b.title.startsWith("Text")).dataset.block`)
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector("[data-block=%s]").dispatchEvent(new MouseEvent("dblclick", { bubbles: true }))`, text)))
	d.until("its words can be written there", `document.activeElement?.matches("textarea.write")`)
	d.do(chromedp.KeyEvent("Retention {retention_min of Caffeine in s; .1} of it"))
	d.do(chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(2)))
	d.until("they stand on the page, filled in", `/Retention 5\d\d\.\d s of it/.test(document.querySelector(".surface")?.innerText.replace(/\s+/g, " ") ?? "") && !document.querySelector("textarea.write")`)
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector("[data-block=%s]").dispatchEvent(new MouseEvent("dblclick", { bubbles: true }))`, text)))
	d.until("again", `document.activeElement?.matches("textarea.write") && document.activeElement.value.startsWith("Retention")`)
	d.do(chromedp.KeyEvent("gone"))
	d.press(kb.Escape)
	d.until("Escape leaves them", `!document.querySelector("textarea.write") && document.querySelector(".surface").innerText.includes("Retention")`)

	results := read[string](d, `[...document.querySelectorAll("[data-block]")].find(b => b.title.startsWith("Results")).dataset.block`)
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector("[data-block=%s]").click()`, results)))
	for _, q := range []string{"compound", "amount"} {
		d.until(q, fmt.Sprintf(`!!document.querySelector("[aria-label='Value to add'] option[value=%s]")`, q))
		d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(s => { s.value = "%s"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label='Value to add']"))`, q)))
	}
	d.until("marks over two columns", `document.querySelectorAll(".column.drag").length === 2`)
	p := read[[]float64](d, `(b => [b.left + b.width / 2, b.top + b.height / 2])(document.querySelector(".column.drag").getBoundingClientRect())`)
	d.do(chromedp.DragAndDropXY(p[0], p[1], p[0]+40, p[1]))
	d.until("the first is wider", `Number(document.querySelector("[aria-label='Width, mm']")?.value) > 40`)

	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
	for range 6 { // and not one more, which would be of the batch
		if !read[bool](d, `!!document.querySelector(".head .att")`) {
			break
		}
		d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)), chromedp.Sleep(150*time.Millisecond))
	}
	d.until("all is taken back", `!document.querySelector(".head .att")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".head button")].find(b => b.innerText === "choose").click()`))
	d.until("five pages, drawn", `document.querySelectorAll(".choose .page svg").length === 5`)
	d.press(kb.ArrowRight, kb.Enter)
	d.until("the next one is open", `!document.querySelector(".choose") && document.querySelector("[aria-label=Layout]").selectedOptions[0].text !== "Certificate"`)
	d.quiet()
}
