package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// A batch of no injection, of one standard, of one blank, and of what was typed: every station, and every view of it, says what there is or what is missing, without an error of
// the page and without a request that fails.
func TestStationsWithNextToNothing(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the batch", `document.querySelectorAll("[data-row]").length === 47`)
	files := read[[]string](d, `(async () => (await (await fetch("/api/batches/`+d.batch+`")).json()).batch.injections.slice(0, 4).map(i => i.id))()`, chromedp.EvalAwaitPromise)
	made := read[[]string](d, fmt.Sprintf(`(async () => {
		const ids = [], send = async (path, body, raw) => (await fetch(path, {method: "POST", headers: raw ? {} : {"Content-Type": "application/json"}, body: raw ? body : JSON.stringify(body)})).json();
		for (const [name, of] of [["Nothing", []], ["One", [1]], ["A blank", [0]]]) {
			const {id} = await send("/api/batches", {study: "Few", name});
			ids.push(id);
			for (const k of of) {
				const at = "/api/batches/%s/injections/" + %s[k] + "/raw";
				const file = await (await fetch(at)).blob();
				await send("/api/batches/" + id + "/files?name=" + (name === "A blank" ? "blank" : "tea") + k + ".cdf", file, true);
			}
		}
		const typed = await send("/api/readings", {study: "Few", name: "Typed", compound: "X", unit: "mg/L", text: "1\t10\n2\t20\n5\t50\nPond\t33"});
		return [...ids, ...typed.ids];
	})()`, d.batch, quoteAll(files)), chromedp.EvalAwaitPromise)
	if len(made) != 4 {
		t.Fatalf("%v", made)
	}
	sound := func(what string) {
		if got := read[string](d, `document.body.innerText.match(/\b(NaN|undefined|Infinity|null)\b|\[object Object\]/)?.[0] ?? ""`); got != "" {
			t.Errorf("%s shows %q", what, got)
		}
		d.explained(what)
	}
	for k, id := range made {
		d.batch = id
		for _, station := range []string{"batch", "traces", "peaks", "compounds", "curves", "results", "review", "report"} {
			what := fmt.Sprintf("%s of batch %d", station, k+1)
			d.station(station, "")
			d.until(what, `document.querySelector("header nav a[aria-current=page]")?.getAttribute("href").endsWith(`+quote("/"+station)+`) && document.querySelector("main")?.innerText.trim().length > 10`)
			d.do(chromedp.Sleep(150 * time.Millisecond))
			views := read[int](d, `document.querySelectorAll("main [role=radio], main .choice-item, main [role=tab]").length`)
			for n := range views { // each is shown once
				d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelectorAll("main [role=radio], main .choice-item, main [role=tab]")[%d]?.click()`, n)))
				d.do(chromedp.Sleep(120 * time.Millisecond))
				sound(fmt.Sprintf("%s, view %d", what, n+1))
			}
			sound(what)
			d.quiet()
		}
	}
}

func quoteAll(list []string) string {
	out := "["
	for _, s := range list {
		out += quote(s) + ","
	}
	return out + "]"
}
