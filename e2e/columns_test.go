package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
)

// A column of the laboratory's own is added, filled from file names by a pattern, hidden and shown, found, and stands among all quantities of the results.
func TestColumnsOfTheLaboratory(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the section", `!!document.querySelector("[aria-label='Own columns'] h2 button")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Own columns'] h2 button").click()`))
	d.until("the name", `document.activeElement?.getAttribute("aria-label") === "Name of the column"`)
	d.press("Lot", kb.Enter)
	heads := `[...document.querySelectorAll("[role=grid] th")].map(h => h.innerText.trim()).join()`
	d.until("the column", heads+`.endsWith("Lot,State") || `+heads+`.includes(",Lot")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label='Own columns'] .row button")].find(b => b.innerText === "fill").click()`))
	d.until("the pattern", `!!document.querySelector("[aria-label='Own columns'] [aria-label=Pattern]")`)
	d.do(chromedp.Focus(chromedp.CSS(`[aria-label="Own columns"] [aria-label=Pattern]`)))
	d.press("*-oolong-{}-*")
	d.until("what it takes", `document.querySelector("[aria-label='Own columns']").innerText.includes("4 of 47 names") && document.querySelector("[aria-label='Own columns']").innerText.includes("light")`)
	d.text("[aria-label='Own columns'] .btn", "Fill 4")
	cells := `[...document.querySelectorAll("[data-row]")].filter(r => r.innerText.includes("Oolong, light")).map(r => r.innerText).join()`
	d.until("the values", `(`+cells+`.match(/\blight\b(?! roast)/g) ?? []).length === 2`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("undone", `(`+cells+`.match(/\blight\b(?! roast)/g) ?? []).length === 0`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2|8)))
	d.until("had back", `(`+cells+`.match(/\blight\b(?! roast)/g) ?? []).length === 2`)
	word := func(w string) string {
		return `[...document.querySelectorAll("[aria-label='Own columns'] .row button")].find(b => b.innerText === "` + w + `").click()`
	}
	d.do(chromedp.Evaluate[chromedp.Void](word("hide")))
	d.until("hidden", `!`+heads+`.includes("Lot")`)
	d.do(chromedp.Evaluate[chromedp.Void](word("show")))
	d.until("shown", heads+`.includes("Lot")`)
	d.station("results", "")
	d.option("any quantity")
	quantity := func(value string) {
		d.do(chromedp.Evaluate[chromedp.Void](`(s => { s.value = "` + value + `"; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("select[aria-label=Quantity]"))`))
	}
	d.until("areas", `document.querySelectorAll("[aria-label='Any quantity'] tbody tr").length === 47 && document.querySelector("[aria-label='Any quantity'] .note").innerText.startsWith("Between signal and baseline")`)
	quantity("own:lot")
	d.until("the lots", `[...document.querySelectorAll("[aria-label='Any quantity'] tbody td:nth-child(2)")].filter(c => c.innerText === "dark").length === 2`)
	quantity("tailing")
	d.until("tailing", `/^\d\.\d\d$/.test(document.querySelector("[aria-label='Any quantity'] tbody tr:nth-child(10) td:nth-child(2)")?.innerText ?? "")`)
	if table := read[string](d, `fetch(document.querySelector("[aria-label='Any quantity'] a").href).then(r => r.text())`, chromedp.EvalAwaitPromise); !strings.HasPrefix(table, "injection,name,replicate,role,compound,tailing\n1,Blank") {
		t.Errorf("the table begins %.80q", table)
	}
	d.quiet()
}

// A way of looking is kept with the study and had back; the picture is taken away as it stands.
func TestAViewIsKept(t *testing.T) {
	d := open(t)
	d.station("traces", "?mode=overlay")
	d.until("the traces", `document.querySelector("svg[aria-label='9 traces, overlay']") && !document.querySelector(".busy")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Shown] .quick button")].find(b => b.innerText === "checks").click()`))
	d.treat("Heights", "caf")
	d.until("four checks", `!!document.querySelector("svg[aria-label='4 traces, overlay']") && !document.querySelector(".busy")`)
	d.do(chromedp.Focus(chromedp.CSS(`[aria-label="Name of the view"]`)))
	d.press("Checks on caffeine", kb.Enter)
	d.until("kept", `document.querySelector("[aria-label=Views]").innerText.includes("Checks on caffeine")`)
	d.station("traces", "")
	d.until("the usual ones", `document.querySelector("svg[aria-label='9 traces, offset']") && document.querySelector("[aria-label=Views]").innerText.includes("Checks on caffeine")`)
	d.text("[aria-label=Views] button", "Checks on caffeine")
	d.until("had back", `document.querySelector("svg[aria-label='4 traces, overlay']") && document.querySelector(".treated select").value === "caf"`)
	d.do(chromedp.Sleep(300 * time.Millisecond))
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { window.taken = []; URL.createObjectURL = b => { window.taken.push(b); return "blob:none" }; HTMLAnchorElement.prototype.click = () => {}; [...document.querySelectorAll("[aria-label=Views] .take button")].find(b => b.innerText === "SVG").click() })()`))
	svg := read[string](d, `window.taken[0].text()`, chromedp.EvalAwaitPromise)
	if !strings.HasPrefix(svg, "<svg") || !strings.Contains(svg, "<image") || !strings.Contains(svg, "Caffeine") || !strings.Contains(svg, "fill: rgb(") {
		t.Errorf("the picture is %.200q", svg)
	}
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Checks on caffeine on a report']").click()`))
	d.until("its page", `location.pathname.endsWith("/report") && document.querySelector("[aria-label='Page 1']")?.textContent.includes("each to its Caffeine") && document.querySelector("[aria-label='Page 1']").textContent.includes("Check, first third")`)
	d.do(chromedp.Evaluate[chromedp.Void](`history.back()`))
	d.until("the traces again", `!!document.querySelector("[aria-label='Drop the view Checks on caffeine']")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='Drop the view Checks on caffeine']").click()`))
	d.until("dropped", `!document.querySelector("[aria-label=Views]").innerText.includes("Checks on caffeine")`)
}

// A run list pasted into an empty batch waits; the files that come fill it. Files of one injection are parted and joined by hand.
func TestARunListComesFirst(t *testing.T) {
	d := open(t)
	d.emptyBatch()
	d.text("[aria-label='Waiting run list'] button", "paste one")
	d.until("the field", `!!document.querySelector("textarea[aria-label='Run list']")`)
	d.do(chromedp.Evaluate[chromedp.Void](`(a => { a.value = "File\tName\tRole\tLevel\nrun 0\tStandard low\tstd\t5\nrun 1\tPond\tsample\t\n"; a.dispatchEvent(new Event("input", {bubbles: true})) })(document.querySelector("textarea[aria-label='Run list']"))`))
	d.text("[aria-label='Waiting run list'] .btn", "Let them wait")
	d.until("two lines wait", `document.querySelector("[aria-label='Waiting run list']").innerText.includes("2 lines wait")`)
	dir := t.TempDir()
	var files []string
	for k := range 2 {
		files = append(files, filepath.Join(dir, fmt.Sprintf("run %d.csv", k)))
		if err := os.WriteFile(files[k], bench.TwoDetectors(k), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), files))
	d.takeIn(2)
	d.until("the run list is filled", `[...document.querySelectorAll("[data-row]")].map(r => r.innerText.replace(/\s+/g, " ")).join("|").includes("Standard low standard 5") && document.querySelectorAll("[data-row]").length === 2`)
	d.until("nothing waits", `!document.querySelector("[aria-label='Waiting run list']")`)
	d.quiet()

	d.elsewhere("Green tea assay", "Spring teas")
	d.station("batch", "")
	d.until("the files", `document.querySelector(".files")?.innerText.includes(".mzML")`)
	d.text(".files button", "part")
	d.until("an injection more", `document.body.innerText.includes("48 injections")`)
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("joined again", `document.body.innerText.includes("47 injections") && document.querySelector(".files")?.innerText.includes(".mzML")`)
}
