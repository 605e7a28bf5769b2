package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// The summary of the demo: groups with their statistics, folded and opened, turned by a key, with the working of what is looked at, and as a file.
func TestASummaryOfTheBatch(t *testing.T) {
	d := open(t)
	d.station("results", "")
	d.option("summary")
	const table = `document.querySelector("[aria-label='Summary tables'] table")`
	// The first table is of the retention times; the line after the head of the checks and their four injections is their mean.
	line := func(group, what string) string {
		return `(rows => { const k = rows.findIndex(r => r.classList.contains("group") && r.innerText.includes("` + group + ` ")); return rows.slice(k + 1).find(r => r.cells[0].innerText.trim() === "` + what + `")?.innerText.replace(/\s+/g, " ").trim() ?? "" })([...` + table + `.querySelectorAll("tbody tr")])`
	}
	d.until("the tables", `document.querySelectorAll("[aria-label='Summary tables'] table").length === 3 && `+table+`.querySelectorAll("tr.group").length === 4`)
	mean := read[string](d, `fetch(document.querySelector("[aria-label='To take away'] a[href*=csv]").href).then(r => r.text()).then(t => t.split("\n").find(l => l.startsWith("Checks,mean")).split(",").slice(2, 6).map(v => Number(v).toFixed(3)).join(" "))`, chromedp.EvalAwaitPromise)
	if got := read[string](d, line("Checks", "mean")); !strings.HasPrefix(got, "mean "+mean) || !strings.HasPrefix(mean, "2.94") {
		t.Errorf("the checks stand as %q, in the file as %q", got, mean)
	}
	if few := read[string](d, `[...document.querySelectorAll("[aria-label='Summary tables'] .n")].map(n => n.innerText.trim()).join()`); !strings.Contains(few, "n 2") {
		t.Errorf("where values are missing stands %q", few)
	}
	if open := read[int](d, table+`.querySelectorAll("tr.line").length`); open != 4 {
		t.Errorf("%d injections stand open", open)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`[...` + table + `.querySelectorAll("tr.group button")].find(b => b.innerText.includes("Samples")).click()`))
	d.until("the samples", table+`.querySelectorAll("tr.line").length === 32`)

	d.do(chromedp.Evaluate[chromedp.Void](`(rows => rows.find(r => r.cells[0].innerText.trim() === "RSD, %").cells[5].click())([...` + table + `.querySelectorAll("tbody tr")])`))
	d.until("the working", `(document.querySelector("[aria-label=Working]")?.innerText ?? "").includes("SD ÷ mean") && document.querySelectorAll("[aria-label=Working] circle").length === 12`)

	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.do(chromedp.KeyEvent("t", chromedp.KeyModifiers(1)))
	d.until("one table a compound", `document.querySelectorAll("[aria-label='Summary tables'] table").length === 9 && document.querySelector("[aria-label='Summary tables'] h2").innerText === "Gallic acid"`)
	d.do(chromedp.KeyEvent("t", chromedp.KeyModifiers(1)))
	d.until("injections across", table+`.querySelector("thead tr").innerText.includes("Checks") && `+table+`.querySelectorAll("tbody tr").length === 9`)
	// A head that is dragged onto another takes its place; words say what is coming before it is let go.
	drag := func(from, to string, let bool) {
		d.do(chromedp.Evaluate[chromedp.Void](`(() => { const chip = w => [...document.querySelectorAll(".chip")].find(c => c.innerText.includes(w)); const at = (e, kind) => e.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: new DataTransfer() })); window.dragged = chip("` + from + `"); at(window.dragged, "dragstart"); at(chip("` + to + `"), "dragover") })()`))
		if let {
			d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".chip")].find(c => c.innerText.includes("` + to + `")).dispatchEvent(new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer: new DataTransfer() }))`))
		}
		d.do(chromedp.Evaluate[chromedp.Void](`window.dragged.dispatchEvent(new DragEvent("dragend", { bubbles: true }))`))
	}
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { window.said = []; new MutationObserver(() => window.said.push(document.querySelector(".axes .note").innerText)).observe(document.querySelector(".axes"), { subtree: true, childList: true, characterData: true }) })()`))
	drag("Measures", "Injections", true)
	d.until("it cannot be", `window.said.some(w => w.includes("nothing to take a mean of"))`)
	if read[int](d, `document.querySelectorAll("[aria-label='Summary tables'] table").length`) != 3 {
		t.Error("injections part the tables")
	}
	d.do(chromedp.KeyEvent("t", chromedp.KeyModifiers(1)))
	d.do(chromedp.KeyEvent("t", chromedp.KeyModifiers(1)))
	d.until("compounds across again", `document.querySelector(".axes .right").innerText.includes("Compounds")`)
	drag("Measures", "Compounds", true)
	d.until("one table a compound by dragging", `document.querySelectorAll("[aria-label='Summary tables'] table").length === 9 && window.said.some(w => w.includes("one table each: compounds"))`)
	d.do(chromedp.KeyEvent("t", chromedp.KeyModifiers(1)))
	d.until("injections across once more", table+`.querySelectorAll("tbody tr").length === 9`)
	d.do(chromedp.Reload())
	d.until("the batch", `document.body.innerText.includes("Results")`)
	d.do(chromedp.Sleep(300 * time.Millisecond))
	d.option("summary")
	d.until("it stands as it was left", table+`?.querySelectorAll("tbody tr").length === 9`)

	// A measure is added and taken off; without any the tables say what to do.
	d.until("plates to choose", `!!document.querySelector("[aria-label='Add a measure'] option[value=plates]")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "plates"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label='Add a measure']"))`))
	d.until("a fourth table", `document.querySelectorAll("[aria-label='Summary tables'] table").length === 4`)
	for range 4 {
		d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label=Measures] button").click()`))
		d.do(chromedp.Sleep(100 * time.Millisecond))
	}
	d.until("nothing", `document.body.innerText.includes("Choose a measure at the side.")`)
	d.quiet()
}

// Over several batches of a study, and chosen injections; with the largest peak and a sum beside the compounds, in the file as on the screen; and as a block on a page.
func TestASummaryOfChosenThings(t *testing.T) {
	d := open(t)
	d.elsewhere("Five days", "Day 5")
	d.station("results", "?face=summary")
	const table = `document.querySelector("[aria-label='Summary tables'] table")`
	pick := func(label, value string) {
		d.until(label, `!!document.querySelector("[aria-label='`+label+`'] option[value='`+value+`']")`)
		d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "` + value + `"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label='` + label + `']"))`))
	}
	heads := func() string {
		return read[string](d, `[...`+table+`.querySelectorAll("th")].map(h => h.innerText.trim()).slice(1).join()`)
	}
	d.until("the tables", `!!`+table)
	compounds := heads()
	pick("Add a column", "largest")
	d.until("the largest peak", table+`?.querySelector("thead").innerText.includes("Largest peak")`)
	ids := strings.Split(read[string](d, `[...document.querySelectorAll("[aria-label='Add a column'] option")].map(o => o.value).filter(v => v && v !== "all").join()`), ",")
	for _, id := range ids[:2] {
		pick("Add a column", id)
	}
	pick("Add a column", "sum:"+ids[0]+"+"+ids[1])
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Take every compound off']").click()`))
	d.until("the sum", table+`?.querySelector("thead").innerText.includes(" + ")`)
	if got := heads(); !strings.HasPrefix(got, "Largest peak,"+compounds) {
		t.Errorf("the heads are %s, the compounds %s", got, compounds)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Injections] button")].find(b => b.innerText.startsWith("with other batches")).click()`))
	d.until("the batches", `document.querySelectorAll("[aria-label='Which batches'] input").length === 4`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Which batches'] input").click()`))
	d.until("the batch is offered as a group", `!!document.querySelector("[aria-label=Injections] option[value=batch]")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "batch"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[aria-label=Injections] select"))`))
	d.until("a group a batch", `[...`+table+`.querySelectorAll("tr.group")].map(g => g.innerText.trim().split("\t")[0].replace(/\s*\d+$/, "")).join() .includes("Day 5")`)
	const file = `fetch(document.querySelector("[aria-label='To take away'] a[href*=csv]").href).then(r => r.text())`
	if got := read[string](d, file, chromedp.EvalAwaitPromise); !strings.Contains(got, "Day 1,mean") || !strings.Contains(got, "Largest peak") || !strings.Contains(got, " + ") {
		t.Errorf("the file says %.300s", got)
	}
	// Of two chosen injections the mean is over two.
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Which batches'] input").click()`))
	d.option("chosen")
	d.until("the injections to choose", `document.querySelectorAll("[aria-label='Which injections'] input").length > 10`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Which injections'] input")].filter(i => i.checked).slice(2).forEach(i => i.click())`))
	d.until("two are left", `document.body.innerText.includes("2 injections")`)

	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='To take away'] button")].find(b => b.innerText === "Into a layout").click()`))
	d.until("the block on the page", `document.querySelector("[data-block].chosen, [data-block][aria-pressed=true]")?.title.startsWith("Summary") || !!document.querySelector("[aria-label='Measures'], fieldset legend")`)
	d.until("it tells of the same columns", `document.querySelector(".surface")?.innerText.includes("Largest peak")`)
	d.quiet()
}
