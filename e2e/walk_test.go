package e2e

import (
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
	"yugen/lab"
)

// A batch walked from files to paper, station by station.
func TestFromFilesToPaper(t *testing.T) {
	study, err := bench.TeaAssay(lab.DemoSeed)
	if err != nil {
		t.Fatal(err)
	}
	d := open(t)
	d.station("batch", "")
	d.importTwo()
	d.tuneAndKeep()
	d.nameAPeak()
	d.leaveOutAPoint()
	amount := d.readAnAmount(study)
	d.findItOnPaper(amount)
	d.quiet()
}

// importTwo adds a chromatogram as delimited text and a file that is none.
func (d *desk) importTwo() {
	d.t.Helper()
	d.until("the run list", `document.querySelectorAll("[role=grid] tbody tr").length === 47`)
	d.until("the notices", `document.querySelectorAll(".ntc").length === 6`)
	dir := d.t.TempDir()
	var table strings.Builder
	table.WriteString("Zeit [min];Signal [mAU]\n")
	for i := range 3000 {
		x := float64(i) / 200
		y := 1 + 40*math.Exp(-math.Pow((x-6)/0.06, 2)/2)
		fmt.Fprintf(&table, "%s;%s\n", comma(x), comma(y))
	}
	good, bad := filepath.Join(dir, "48-late.csv"), filepath.Join(dir, "letter.txt")
	for file, text := range map[string]string{good: table.String(), bad: "Dear colleague,\n"} {
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			d.t.Fatal(err)
		}
	}
	d.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{good, bad}))
	d.until("both looked at", `(document.querySelector("[aria-label='What they become']")?.innerText ?? "").includes("2 files become")`)
	d.until("the refusal", `document.querySelector("[aria-label='Files that came']").innerText.includes("Line 1: no table of numbers")`)
	d.press(kb.Enter)
	d.until("the outcome", `document.querySelector("[aria-label=Intake]").innerText.includes("1 of 1 read: 1 added")`)
	d.until("the new line", `document.querySelectorAll("[role=grid] tbody tr").length === 48`)
	// Its missing role is a notice; a name typed into the grid stays.
	d.until("the notice of the missing role", `document.querySelector("[aria-label=Notices]").innerText.includes("48-late: no role")`)
	d.click(`[data-row="47"] td:nth-child(3)`)
	d.press("bl", kb.Enter) // typing begins to edit, and as much of a word as no other role begins with is enough
	d.until("the role", `document.querySelector('[data-row="47"] td:nth-child(3)').innerText.trim() === "blank"`)
}

func comma(v float64) string { return strings.Replace(strconv.FormatFloat(v, 'f', 4, 64), ".", ",", 1) }

// tuneAndKeep moves the least area until a peak goes, sees the change, and keeps it as a new version.
func (d *desk) tuneAndKeep() {
	d.t.Helper()
	d.click(`nav a[href$="/peaks"]`)
	d.until("the peak of the late injection", `document.querySelector("[aria-label=Peaks] tbody tr")?.innerText.includes("6.000")`)
	for range 60 { // walk until a sample with many peaks is shown
		if read[int](d, `document.querySelectorAll("[aria-label=Peaks] tbody tr").length`) >= 12 {
			break
		}
		d.press("k")
		d.do(chromedp.Sleep(60e6))
	}
	d.until("a tea", `document.querySelectorAll("[aria-label=Peaks] tbody tr").length >= 12`)
	before := read[int](d, `document.querySelectorAll("[aria-label=Peaks] tbody tr").length`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll(".ruler-thumb")[2].focus()`))
	for range 160 {
		d.press(kb.ArrowRight)
	}
	d.until("the preview", `document.querySelector("[aria-label=Previewing]")?.innerText.includes("gone")`)
	d.until("the count over the batch", `/In the batch: \d+ areas/.test(document.querySelector("[aria-label=Previewing]").innerText)`)
	d.click(`[aria-label=Previewing] .btn.pri`)
	d.reason("small peaks are not wanted")
	d.until("the kept settings", fmt.Sprintf(`!document.querySelector("[aria-label=Previewing]") && document.querySelectorAll("[aria-label=Peaks] tbody tr").length < %d`, before))
	d.press("z") // a letter alone does nothing; with Ctrl it takes back
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("undone", fmt.Sprintf(`document.querySelectorAll("[aria-label=Peaks] tbody tr").length === %d`, before))
}

// nameAPeak clicks the unnamed peak near 11.86 min and types a name, which then stands on another injection as well.
func (d *desk) nameAPeak() {
	d.t.Helper()
	d.click(`nav a[href$="/compounds"]`)
	d.until("the label of the unnamed peak", `[...document.querySelectorAll("svg.over text")].some(e => /^11\.8/.test(e.textContent))`)
	at := read[[]float64](d, `(() => { const r = [...document.querySelectorAll("svg.over text")].find(e => /^11\.8/.test(e.textContent)).getBoundingClientRect(); return [r.x + r.width / 2, r.bottom + 16] })()`)
	d.do(chromedp.MouseClickXY(at[0], at[1]))
	d.until("the field", `document.activeElement?.getAttribute("aria-label") === "Name of the peak"`)
	d.press("Theaflavin", kb.Enter)
	d.until("the compound", `[...document.querySelectorAll("[aria-label=Compounds] tbody tr")].some(r => r.innerText.includes("Theaflavin"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("k")
	d.until("the name on the injection before", `[...document.querySelectorAll("svg.over text")].some(e => e.textContent === "Theaflavin")`)
}

// leaveOutAPoint takes the first standard out of caffeine's curve with a reason.
func (d *desk) leaveOutAPoint() {
	d.t.Helper()
	d.click(`nav a[href$="/curves"]`)
	d.until("the curves", `document.querySelectorAll("[role=tab]").length >= 8`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[role=tab]")].find(e => e.innerText.startsWith("Caffeine")).click()`))
	d.until("caffeine", `document.querySelector("h1").innerText === "Caffeine"`)
	d.until("its points", `document.querySelector("[aria-label=Statistics]").innerText.includes("12 points, 6 levels")`)
	d.click(`.right tbody tr:nth-child(6) .use`)
	d.reason("cap leaked")
	d.until("one point less", `document.querySelector("[aria-label=Statistics]").innerText.includes("11 points, 6 levels")`)
	if got := read[string](d, `document.querySelector(".right tbody tr:nth-child(6) .use").innerText`); got != "left out" {
		d.t.Errorf("its use reads %q", got)
	}
	d.until("the reason beside the point", `document.body.innerText.includes("left out: cap leaked") || [...document.querySelectorAll("text")].some(e => e.textContent === "left out: cap leaked")`)
}

// readAnAmount compares every mean with the simulated truth, and one with its working.
func (d *desk) readAnAmount(study bench.Study) string {
	d.t.Helper()
	d.click(`nav a[href$="/results"]`)
	d.until("the results", `document.querySelectorAll("[role=grid] tbody tr").length === 14`)
	cells := read[[][]string](d, `[...document.querySelectorAll("[role=grid] tbody tr")].map(r => [r.querySelector(".name").innerText, ...[...r.querySelectorAll(".v")].map(v => v.innerText.trim())])`)
	heads := read[[]string](d, `[...document.querySelectorAll("[role=grid] thead th")].slice(1).map(h => h.innerText)`)
	ids := map[string]string{}
	for _, c := range study.Method.Compounds {
		ids[c.Name] = c.ID
	}
	compared := 0
	for _, row := range cells {
		for k, head := range heads {
			want, known := study.SampleContents[row[0]][ids[head]]
			got, err := strconv.ParseFloat(row[k+1], 64)
			if !known || err != nil {
				continue
			}
			compared++
			// What was lost from EGCG at the end of the run is lost in the checks, not in the teas.
			if math.Abs(got/want-1) > 0.07 && math.Abs(got-want) > 0.1 {
				d.t.Errorf("%s in %s reads %g mg/g, true %g", head, row[0], got, want)
			}
		}
	}
	if compared < 14*8 {
		d.t.Errorf("only %d amounts were compared", compared)
	}
	d.click(`[data-at="6-4"]`)
	d.until("its working", `document.querySelector("[aria-label=Working]").innerText.includes("Caffeine in Oolong, light roast")`)
	amount := read[string](d, `document.querySelector('[data-at="6-4"] .v').innerText.trim()`)
	if value := read[string](d, `document.querySelector("[aria-label=Working] .value").innerText`); value != amount+" mg/g" {
		d.t.Errorf("the cell reads %s, its working %s", amount, value)
	}
	if steps := read[int](d, `document.querySelectorAll("[aria-label=Working] .step").length`); steps != 6 {
		d.t.Errorf("%d steps", steps)
	}
	d.click(`[aria-label=Working] .step .src`)
	d.until("the peak behind it", `location.pathname.endsWith("/peaks") && document.querySelector("tr.sel")?.innerText.includes("Caffeine")`)
	d.do(chromedp.NavigateBack())
	d.until("back at the results", `location.pathname.endsWith("/results") && document.querySelector('[data-at="6-4"].at')`)
	return amount
}

// findItOnPaper makes the PDF and looks for the amount in its text.
func (d *desk) findItOnPaper(amount string) {
	d.t.Helper()
	d.click(`nav a[href$="/report"]`)
	d.until("the pages", `document.querySelectorAll(".sheet svg").length >= 2`)
	onScreen := read[string](d, `[...document.querySelectorAll(".sheet text")].map(e => e.textContent).join("\n")`)
	link := read[string](d, `document.querySelector('a[download="report.pdf"]').href`)
	r, err := http.Get(link)
	if err != nil {
		d.t.Fatal(err)
	}
	defer r.Body.Close()
	file := filepath.Join(d.t.TempDir(), "report.pdf")
	out, err := os.Create(file)
	if err != nil {
		d.t.Fatal(err)
	}
	if _, err := io.Copy(out, r.Body); err != nil {
		d.t.Fatal(err)
	}
	out.Close()
	printed, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		d.t.Fatal(err)
	}
	row := ""
	for line := range strings.Lines(string(printed)) {
		if strings.Contains(line, "Oolong, light roast") {
			row += line // compounds may take more than one table
		}
	}
	if !strings.Contains(row, amount) {
		d.t.Errorf("caffeine reads %s on the screen, the paper has %q", amount, row)
	}
	// The preview is the print: every line of text on the screen is on paper.
	for line := range strings.Lines(onScreen) {
		if !strings.Contains(tight(string(printed)), tight(line)) {
			d.t.Errorf("%q is on the screen and not on paper", line)
		}
	}
}

// tight is a text without its white space, which a PDF does not keep.
func tight(s string) string { return strings.Join(strings.Fields(s), "") }
