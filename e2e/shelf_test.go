package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// The shelf lists what is open by what it needs, finds over all batches, by arrows and Enter too, says what is near, and puts away and takes out again.
func TestTheShelfIsFoundAndWalked(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("what wants eyes, first", `document.querySelectorAll(".rows .batch").length >= 9 && document.querySelector(".rows .batch").innerText.includes("wants eyes") && document.querySelector(".rows .batch").innerText.includes("Spring teas")`)
	d.until("the run of each", `document.querySelectorAll(".rows .ridge path[d*=L]").length >= 9`)
	d.accessible("the shelf")
	d.explained("the shelf")
	d.press("/")
	d.do(chromedp.KeyEvent("gyokoro"))
	d.until("what is near", `[...document.querySelectorAll("main button")].some((b) => b.innerText === "Gyokuro" && b.title.startsWith("Looks for"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("main button")].find((b) => b.innerText === "Gyokuro").click()`))
	d.until("injections of two batches", `(() => { const text = document.querySelector("[aria-label=Found]")?.innerText ?? ""; return text.includes("Spring teas") && text.includes("Spring aromas"); })()`)
	d.fill(".look", "EGCG > 60 mg/g")
	d.until("amounts", `[...document.querySelectorAll("[aria-label=Found] li")].length === 4 && document.querySelector("[aria-label=Found]").innerText.includes("mg/g")`)
	d.accessible("what was found")
	d.press(kb.ArrowDown)
	d.until("the first of them", `document.activeElement === document.querySelector("[aria-label=Found] button")`)
	d.press(kb.Enter)
	d.until("its batch, at the results", `location.pathname === "/`+d.batch+`/results"`)

	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.querySelectorAll(".rows .batch").length >= 9`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".rows .batch")].find((b) => b.innerText.includes("Day 2")).querySelector("[title^='Takes it out of sight']").click()`))
	d.until("out of sight", `!document.querySelector(".rows").innerText.includes("Day 2")`)
	d.text("[aria-label='Which batches'] button", "put away 1")
	d.until("there", `document.querySelectorAll(".rows .batch").length === 1 && document.querySelector(".rows").innerText.includes("Day 2")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[title^='Puts it back']").click()`))
	d.until("nothing put away", `document.querySelector(".rows").innerText.includes("Nothing is put away")`)
	d.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".study .name")].find((b) => b.innerText.includes("Green tea assay")).click()`))
	d.until("what belongs to a study", `(() => { const text = document.querySelector(".belongs")?.innerText ?? ""; return text.includes("Tea catechins 278") && text.includes("Certificate"); })()`)

	d.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const svg = document.querySelector(".study svg"), r = svg.getBoundingClientRect();
		const at = (type, x) => svg.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, clientY: r.top + 10, pointerId: 1 }));
		svg.setPointerCapture = () => {};
		at("pointerdown", r.left + 4);
		at("pointerup", r.left + r.width / 2);
	})()`))
	d.until("months that were dragged over", `/^\w+ \d{4} to \w+ \d{4}$/.test(document.querySelector(".look").value) && document.querySelector("[role=status]")?.innerText.includes("measured")`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".look").focus()`))
	d.press(kb.Escape)
	d.until("the shelf again", `document.querySelector(".rows") && document.querySelector(".look").value === ""`)

	// A batch in one go, with a run list that comes before its files.
	d.fill("[list=studies]", "Green tea assay")
	d.fill("form label:nth-of-type(2) input", "Summer teas")
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { const t = document.querySelector("form textarea"); t.value = "name\trole\tvial\nSencha\tsample\tA1\nGyokuro\tsample\tA2"; t.dispatchEvent(new Event("input", { bubbles: true })); })()`))
	d.until("what is there", `document.querySelector("form").innerText.includes("2 rows of a run list")`)
	d.text("form button", "Start")
	d.until("both lines wait", `location.pathname.endsWith("/batch") && document.body.innerText.includes("Gyokuro") && document.body.innerText.includes("Summer teas")`)
	d.quiet()
}
