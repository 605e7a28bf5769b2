package e2e

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A preview stays when another window changes the batch and when a second edit begins; it is taken back step by step, and kept from wherever the focus is.
func TestAPreviewIsNotLost(t *testing.T) {
	d := open(t)
	d.station("peaks", "?c=ec")
	d.until("the peak", `document.querySelectorAll(".handle").length === 2`)
	tried := `(document.querySelector("[aria-label=Previewing]")?.innerText ?? "")`
	d.press("f")
	d.until("a preview", tried+`.includes("EC")`)
	id := read[string](d, `fetch("/api/batches/`+d.batch+`").then(r => r.json()).then(v => v.batch.injections[3].id)`, chromedp.EvalAwaitPromise)
	r, err := http.NewRequestWithContext(t.Context(), "PATCH", d.address+"/api/batches/"+d.batch+"/entries", strings.NewReader(`{"changes": [{"injection_id": "`+id+`", "field": "vial", "value": "Z1"}]}`))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("If-Match", "*")
	answer, err := http.DefaultClient.Do(r)
	if err != nil || answer.StatusCode != http.StatusOK {
		t.Fatal(answer, err)
	}
	answer.Body.Close()
	d.until("the other window's change", `document.querySelector("[aria-label=Undo]").title.includes("vial")`)
	d.until("the preview all the same", tried+`.includes("EC")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("[aria-label=Peaks] tbody tr .nm")].find(b => b.innerText.startsWith("Caffeine")).click()`))
	d.until("caffeine", `document.querySelector("tr.sel")?.innerText.includes("Caffeine")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	d.press(kb.Delete)
	d.until("both edits", tried+`.includes("gone") && `+tried+`.includes("EC")`)
	if read[bool](d, `!!document.querySelector("tr.sel")`) {
		t.Error("another peak is selected after one was removed")
	}
	d.press(kb.Delete)
	d.do(chromedp.Sleep(300 * time.Millisecond))
	if n := read[int](d, `(`+tried+`.match(/gone/g) ?? []).length`); n != 1 {
		t.Errorf("%d peaks go", n)
	}
	d.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2)))
	d.until("the first edit alone", tried+`.includes("EC") && !`+tried+`.includes("gone")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".ruler-thumb").focus()`))
	d.press(kb.Enter)
	d.reason("a shoulder")
	d.until("it is kept", `document.querySelectorAll("[aria-label=Edits] .edit").length === 1 && !document.querySelector("[aria-label=Previewing]")`)
	d.quiet()
}
