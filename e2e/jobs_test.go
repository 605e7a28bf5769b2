package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// behindItsMethod saves a version with bent curves for a batch, and goes back to the one before.
const behindItsMethod = `(async () => {
	const at = "/api/batches/%s", head = { "If-Match": "*", "Content-Type": "application/json" };
	const send = (method, path, body) => fetch(at + path, { method, headers: head, body: JSON.stringify(body) });
	const method = (await (await fetch(at)).json()).batch.version.method;
	method.curves.model = "quadratic";
	await send("PUT", "/method", { method, reason: "bent" });
	return (await send("POST", "/undo", { reason: "tried" })).status;
})()`

// A batch that is behind its method is processed once more: what would change stands there before it is taken, taking it is undone, and the panel tells of it
// in another window, too, after the program was started again.
func TestProcessingOnceMoreIsSeenBeforeItIsTaken(t *testing.T) {
	d := open(t)
	d.station("results", "?face=changed")
	d.until("the versions are known", `document.querySelector("[aria-label='Version to process with']")?.options.length > 0`)
	if status := read[int](d, fmt.Sprintf(behindItsMethod, d.batch), chromedp.EvalAwaitPromise); status != 200 {
		t.Fatal(status)
	}
	number := fmt.Sprintf(`fetch("/api/batches/%s").then(r => r.json()).then(v => v.batch.version.number)`, d.batch)
	version := read[int](d, number, chromedp.EvalAwaitPromise)
	results := fmt.Sprintf(`fetch("/api/batches/%s/results.csv").then(r => r.text())`, d.batch)
	amounts := read[string](d, results, chromedp.EvalAwaitPromise)
	d.do(chromedp.Reload())
	d.until("the newest is offered", `(s => s?.options.length > 1 && s.selectedOptions[0].textContent.includes("the newest: bent"))(document.querySelector("[aria-label='Version to process with']"))`)
	d.text("section[aria-label='Once more'] button", "Process once more")
	d.until("what would change stands there", `document.querySelector("section[aria-label='Once more'] table tbody tr") !== null`)
	if after := read[string](d, results, chromedp.EvalAwaitPromise); after != amounts {
		t.Error("looking has changed the results")
	}
	d.accessible("once more")
	d.explained("once more")
	d.text("section[aria-label='Once more'] button", "Take version")
	d.until("it is taken", `document.querySelector("section[aria-label='Once more']").textContent.includes("Taken.")`)
	if now := read[int](d, number, chromedp.EvalAwaitPromise); now != version+1 {
		t.Errorf("version %d, was %d", now, version)
	}
	d.click("button.undo")
	d.until("it is undone, and may be taken again", `document.querySelector("section[aria-label='Once more'] .btn.pri") !== null && document.querySelector("button.redo:not([disabled])") !== null`)
	if now := read[int](d, number, chromedp.EvalAwaitPromise); now != version {
		t.Errorf("undone to version %d, was %d", now, version)
	}

	d.do(chromedp.KeyEvent("k", chromedp.KeyModifiers(2)))
	d.fill(`[aria-label="Find or do"][role=combobox]`, "jobs: what")
	d.until("one thing is found", `document.querySelectorAll("#found li").length === 1`)
	d.press(kb.Enter)
	d.until("the panel tells what came of it", `[...document.querySelectorAll(".jobs-panel .late")].some(p => p.textContent.includes("moved"))`)
	d.accessible("jobs")
	d.explained("jobs")
	d.until("the panel has the focus", `document.activeElement?.closest(".jobs-panel") !== null`)
	for range read[int](d, `[...document.querySelectorAll("[data-job]")].findIndex(j => j.innerText.includes("What changes")) + 1`) {
		d.press(kb.ArrowDown)
	}
	d.until("it is reached by keys", `document.activeElement?.matches("[data-job]") && document.activeElement.innerText.includes("What changes")`)
	d.press(kb.Enter)
	d.until("it is there again", `document.querySelector("section[aria-label='Once more'] table tbody tr") !== null && !document.querySelector("section[aria-label='Once more']").textContent.includes("Taken.")`)
	d.quiet()
}
