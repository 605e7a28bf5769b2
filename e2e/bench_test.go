package e2e

import (
	"fmt"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"testing"
)

// openBench is open with three stand-ins for instruments, whose time runs fast, at the bench.
func openBench(t *testing.T, speed string) *desk {
	t.Helper()
	program, data := demoFolder(t)
	d := served(t, program, "demo", data, "--bench", "--bench-speed", speed)
	d.browse("M. Okada")
	d.do(chromedp.Navigate(d.address + "/bench"))
	d.until("the instruments answer", `document.querySelectorAll("[role=tab]").length === 3 && [...document.querySelectorAll("[role=tab]")].every(t => t.textContent.includes("at rest"))`)
	return d
}

const toBench = `[...document.querySelectorAll("h2, h1")].some(h => h.textContent.includes("A list for"))`

// list gives the instrument of a number the example of its tray, into a new batch of the study that belongs to it.
func (d *desk) list(number, batch, study string) {
	d.t.Helper()
	d.press(number)
	d.until("a list can be written", toBench)
	d.until("the study is known", `document.querySelector("[aria-label=Study]").value === `+quote(study)+` && document.querySelector("[aria-label=Method]").value !== ""`)
	d.text("form button", "Fill in an example")
	d.fill(`[aria-label="Name of the batch"]`, batch)
	d.text("form button", "Give it")
	d.until("it gets ready", `document.querySelector("main h1").textContent.startsWith("Getting ready")`)
}

// From the empty hand to the page: get ready, run seven, see the amounts by one point, the report, and all left clean. Nobody looks while it runs.
func TestAListFromTheBenchToThePage(t *testing.T) {
	d := openBench(t, "1500")
	d.found("write a list for an instrument")
	d.until("the list is pointed at", `document.querySelector(".ring") !== null && document.activeElement?.textContent.includes("Fill in an example")`)
	d.press(kb.Escape)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.list("1", "Seven from the bench", "Green tea assay")
	d.accessible("getting ready")
	d.explained("getting ready")
	d.pointed("bench", `document.querySelector(".cond")`)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf says what it waits for", `(r => r.includes("wants you") && r.includes("LC 1: bottles and waste right?") && r.includes("7 to run"))(document.querySelector(".rows .batch")?.innerText ?? "")`)
	d.do(chromedp.Navigate(d.address + "/bench"))
	d.until("it gets ready, still", `document.querySelector("main h1")?.textContent.startsWith("Getting ready")`)
	d.press("y")
	d.until("somebody has looked", `[...document.querySelectorAll(".cond")].some(c => c.textContent.includes("looked at"))`)
	d.until("it runs", `/injection [1-7] of 7/.test(document.querySelector("main h1").textContent)`)
	d.accessible("running")
	d.do(chromedp.Navigate("about:blank")) // nobody looks
	d.do(chromedp.Navigate(d.address + "/bench"))
	d.until("the end is confirmed", `document.body.textContent.includes("pump stopped, lamp off")`)
	d.until("all seven are processed", `[...document.querySelectorAll("td button")].filter(b => b.textContent.trim() === "processed").length === 7`)
	d.text("td button", "processed")
	d.until("its peaks are shown", `location.pathname.endsWith("/peaks") && document.querySelectorAll("tbody tr").length > 5`)
	d.batch = read[string](d, `location.pathname.split("/")[1]`)
	// One level alone: the curve is a single point.
	d.do(chromedp.Evaluate[chromedp.Void](`(async () => {
		const at = "/api/batches/`+d.batch+`", headers = {"If-Match": "*", "Content-Type": "application/json"};
		const {batch} = await (await fetch(at)).json();
		const m = batch.version.method;
		m.curves.model = "one_point";
		m.curves.weight = "none";
		await fetch(at + "/method", {method: "PUT", headers, body: JSON.stringify({method: m, reason: "one level alone"})});
	})()`, chromedp.EvalAwaitPromise))
	d.station("results", "")
	d.until("the amounts are there", `[...document.querySelectorAll("tr")].some(r => r.textContent.includes("Gyokuro") && /\d\d\.\d/.test(r.textContent))`)
	d.station("report", "")
	d.until("the page shows them", `document.querySelector("main svg")?.textContent.includes("Gyokuro")`)
	d.quiet()
}

// A list that somebody writes stays while they look elsewhere and when another gives theirs; it is refused with a sentence while that is under way.
func TestTwoWriteListsForOneInstrument(t *testing.T) {
	d := openBench(t, "60")
	other := &desk{t: t, program: d.program, address: d.address}
	other.browse("J. Keller")
	other.do(chromedp.Navigate(d.address + "/bench"))
	d.press("1")
	d.until("a list can be written", toBench)
	d.fill(`[data-cell="0 name"]`, "Pond water")
	d.fill(`[aria-label="Name of the batch"]`, "Ponds")
	const written = `document.querySelector("[data-cell='0 name']")?.value === "Pond water" && document.querySelector("[aria-label='Name of the batch']")?.value === "Ponds"`
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("2")
	d.until("the other instrument's list is empty", `document.querySelector("[data-cell='0 name']")?.value === "" && document.querySelector("h1").textContent.includes("GC 1")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("a.wm").click()`))
	d.until("the shelf", `document.querySelector("[aria-label=Studies]")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("a.bench").click()`))
	d.until("the bench", `document.querySelector("[role=tablist]")`)
	d.press("1")
	d.until("what was written is there", written)

	other.list("1", "Teas of another", "Green tea assay")
	d.until("it is told", `document.querySelector("form [role=status]")?.textContent.includes("was given another list meanwhile, by J. Keller")`)
	d.text("form button", "Give it 1 injection")
	d.until("it is refused", `(document.querySelector("form [role=alert]")?.textContent ?? "").length > 20`)
	if !read[bool](d, `document.querySelector("[data-cell='0 name']")?.value === "Pond water"`) {
		t.Error("what was refused is lost")
	}
	d.text("form button", "leave it")
	d.until("the list of the other", `document.querySelector("main h1").textContent.startsWith("Getting ready for Teas of another")`)
	d.quiet("status of 422", "status of 409")
}

// When the flame goes out the bench says what happened and what is in doubt; once the cause is mended it goes on by Enter, and runs the doubtful one again.
func TestTroubleOnTheBench(t *testing.T) {
	d := openBench(t, "400")
	d.list("2", "Oils from the bench", "Camellia seed oil")
	d.press("y")
	d.text(".cond button", "Done")
	d.until("the second runs", `document.querySelector("main h1").textContent.startsWith("Hill garden") && /· [4-9]\./.test(document.querySelector("main h1").textContent)`)
	d.text(".faults button", "hydrogen")
	d.until("it says what happened", `document.querySelector("main h1").textContent.includes("flame went out") && [...document.querySelectorAll("h2")].some(h => h.textContent === "What happened")`)
	d.until("it says what is in doubt", `[...document.querySelectorAll("[aria-label='Doubtful compounds'] td")].some(c => c.textContent === "not recorded")`)
	d.accessible("trouble")
	d.legible("trouble")
	d.explained("trouble")
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf says so", `(r => r.includes("wants you") && r.includes("GC 1: The flame went out"))(document.querySelector(".rows .batch")?.innerText ?? "")`)
	d.do(chromedp.Navigate(d.address + "/bench"))
	d.until("it is told again", `document.querySelector("main h1")?.textContent.includes("flame went out")`)
	d.text(".cond button", "Done")
	d.press("y")
	d.until("it may go on", `![...document.querySelectorAll("button")].find(b => b.textContent.startsWith("Go on")).disabled`)
	d.press(kb.Enter)
	d.until("it goes on", `[...document.querySelectorAll("[aria-label^='Run list of'] tbody tr")].length === 8`)
	d.until("the top bar says what a person must do", `document.querySelector("a[href='/bench']").title.startsWith("The bench")`)
	d.text("td button", "doubtful")
	d.until("its peaks are shown", `location.pathname.endsWith("/peaks")`)
	d.batch = read[string](d, `location.pathname.split("/")[1]`)
	d.station("results", "")
	d.until("a notice says so", `document.body.textContent.includes("The flame went out")`)
	d.quiet()
}

// trouble makes something go wrong with the instrument that is looked at, and does what is asked for until the list goes on.
func (d *desk) trouble(fault, heading string) {
	d.t.Helper()
	d.until("an injection is measured, before "+fault, `/ of [0-9.]+ min/.test(document.querySelector("main h1 .note")?.textContent ?? "") && document.querySelector("[aria-label^='Run list of'] tbody")?.textContent.includes("running")`)
	d.text(".faults button", fault)
	d.until("it is told: "+heading, `document.querySelector("main h1").textContent.includes(`+quote(heading)+`) && document.querySelector("[aria-label='What happened'] p") !== null`)
	for _, by := range []string{".cond .help button", ".cond .says button"} { // what a stand-in's world lacks, and what is only looked at
		for read[bool](d, `document.querySelector(`+quote(by)+`) !== null`) {
			n := read[int](d, `document.querySelectorAll(`+quote(by)+`).length`)
			d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(` + quote(by) + `)?.click()`))
			d.until("one less to do", fmt.Sprintf(`document.querySelectorAll(%s).length < %d`, quote(by), n))
		}
	}
	d.until("it may go on after "+fault, `(b => b && !b.disabled)([...document.querySelectorAll("button")].find(b => b.textContent.startsWith("Go on")))`)
	d.text("button", "Go on")
	d.until("it goes on after "+fault, `!document.querySelector("[aria-label='What happened']")`)
}

// Whatever goes wrong with pump, lamp, needle, vacuum or filament is told with what to do, and the list goes on once that is done; trouble of before stands beside it.
func TestTroubleOfEachKindOnTheBench(t *testing.T) {
	d := openBench(t, "700")
	d.list("1", "Troubled", "Green tea assay")
	d.press("y")
	for fault, heading := range map[string]string{"block": "pressure is too high", "leak": "pressure is too low", "lamp": "lamp went out", "syringe": "needle is blocked", "solvent": "Solvent runs low"} {
		d.trouble(fault, heading)
	}
	d.list("3", "Troubled, too", "Tea aroma")
	d.press("y")
	for fault, heading := range map[string]string{"leak": "vacuum was lost", "filament": "filament burnt through"} {
		d.trouble(fault, heading)
	}
	if n := read[int](d, `fetch("/api/bench-troubles").then(r => r.json()).then(l => l.filter(t => t.instrument && t.says).length)`, chromedp.EvalAwaitPromise); n < 7 {
		t.Errorf("%d of 7 troubles are told afterwards", n)
	}
	d.text("button", "Stop now")
	d.until("it is at rest", `document.querySelectorAll("[role=tab]")[2].textContent.includes("ended;")`)
	d.quiet()
}

// A mass detector is opened to the air by a person who stays, cold, and what was changed is ticked; shut again it wants its tune.
func TestAMassDetectorIsVentedOnTheBench(t *testing.T) {
	d := openBench(t, "2000")
	d.press("3")
	d.until("it can be vented", `document.querySelector("[aria-label='For what it is vented']")`)
	d.fill(`[aria-label="For what it is vented"]`, "for an oil change")
	d.text("[aria-label='Open it to the air'] button", "Vent")
	d.until("it vents", `document.querySelector("main h1").textContent.startsWith("Venting for an oil change")`)
	d.accessible("venting")
	d.explained("venting")
	d.legible("venting")
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press("y")
	d.until("the calibrant was looked at", `[...document.querySelectorAll("[aria-label='What is done, and by whom'] tr")].some(r => r.textContent.includes("calibrant") && r.textContent.includes("M. Okada"))`)
	d.press("y")
	d.until("it is open", `document.querySelector("main h1").textContent.startsWith("Open for an oil change")`)
	d.text("[aria-label='While it is open'] p:last-of-type button", "changed")
	d.until("the oil is new", `document.querySelector("[aria-label='While it is open'] p:last-of-type").textContent.includes("4400 of 4400")`)
	d.press("y")
	d.until("it is shut and at rest", `document.querySelectorAll("[role=tab]")[2].textContent.includes("at rest")`)
	if n := read[int](d, `fetch("/api/record?words=changed%3A%20oil").then(r => r.json()).then(p => p.rows.length)`, chromedp.EvalAwaitPromise); n != 1 {
		t.Errorf("%d rows of the record tell of the oil", n)
	}
	d.quiet()
}
