package e2e

import (
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// pointed opens the help of a place and lets it point at everything that it speaks of.
func (d *desk) pointed(place, ready string) {
	d.t.Helper()
	d.until(place, ready)
	d.press("?")
	d.until("the help of "+place, `document.querySelector("[aria-label=Help] h2")?.innerText.toLowerCase().startsWith("`+place+`")`)
	for k := range read[int](d, `document.querySelectorAll("[aria-label=Help] li button").length`) {
		d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".ring")?.click()`))
		d.until("no ring", `!document.querySelector(".ring")`)
		d.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("[aria-label=Help] li button")[` + fmt.Sprint(k) + `].click()`))
		d.until(fmt.Sprintf("a ring round part %d, at %s", k+1, place), `(() => { const r = document.querySelector(".ring")?.getBoundingClientRect(); return r && r.width > 20 && r.height > 10 && r.left < innerWidth && r.top < innerHeight; })()`)
	}
	d.press(kb.Escape, kb.Escape)
	d.until("the help closed", `!document.querySelector("[aria-label=Help]") && !document.querySelector(".ring")`)
}

// found asks for words where anything is found or done, and takes the first that is offered.
func (d *desk) found(words string) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("k", chromedp.KeyModifiers(2)))
	d.fill(`[aria-label="Find or do"][role=combobox]`, words)
	d.until("found "+words, `document.activeElement?.getAttribute("role") === "combobox" && `+quote(strings.ToLower(words))+`.split(" ").every(w => document.querySelector("#found-0")?.textContent.toLowerCase().includes(w))`)
	d.press(kb.Enter)
	d.until("the field closed", `!document.querySelector(".find-sheet")?.checkVisibility()`)
}

// Help says at every station what it is for and what is done already, as the batch is; and everything that it points to is there.
func TestHelpPointsAtWhatIsThere(t *testing.T) {
	d := open(t)
	const busy = ` && document.querySelectorAll("[role=option]").length === 47`
	for station, ready := range map[string]string{
		"batch":     `document.querySelectorAll(".ntc").length >= 6`,
		"traces":    `document.querySelector("main")`,
		"peaks":     `document.querySelector("main svg")`,
		"compounds": `document.querySelector("[aria-label=Compounds]")`,
		"curves":    `document.querySelectorAll(".pt").length > 10`,
		"results":   `document.querySelector("main table")`,
		"review":    `document.querySelector("[aria-label='The change']")`,
		"report":    `document.querySelectorAll(".sheet svg").length >= 2`,
	} {
		d.station(station, "")
		d.pointed(station, ready+busy)
	}
	d.station("batch", "")
	d.until("the batch", `document.querySelectorAll(".ntc").length >= 6`)
	d.press("?")
	d.until("what is done and what is not", `(() => { const t = [...document.querySelectorAll("[aria-label=Help] .tick")].map((x) => x.innerText); return t.join("") === "✓✓✓○"; })()`)
	d.accessible("help")
	d.explained("help")
	d.press("?")
	d.do(chromedp.Navigate(d.address + "/"))
	d.pointed("shelf", `document.querySelectorAll(".rows .batch").length >= 9`)
	d.quiet()
}

// What help tells is found by its words from anywhere, and leads to its place; so do the formulas, which a number's working shows with its own numbers.
func TestHelpIsFoundByItsWords(t *testing.T) {
	d := open(t)
	d.station("batch", "")
	d.until("the batch", `document.querySelectorAll(".ntc").length >= 6`)
	d.found("deviations leave a point out")
	d.until("the curves, with help and what it speaks of", `location.pathname.endsWith("/curves") && document.querySelector("[aria-label=Help] h2")?.innerText.startsWith("Curves") && document.querySelector(".ring")`)
	d.press(kb.Escape, kb.Escape)
	d.until("closed", `!document.querySelector("[aria-label=Help]")`)

	d.station("results", "?c=egcg")
	d.until("a working", `document.querySelectorAll("[aria-label=Working] .step").length >= 4`)
	d.copied("[aria-label=Working] button", "copy as text", "mg")
	d.text("[aria-label=Working] button", "how and from where")
	d.until("its formulas with its numbers", `document.querySelectorAll("[aria-label=Help] .rule").length === document.querySelectorAll("[aria-label=Working] .step").length`)
	d.until("the content's formula, and the weighing here", `[...document.querySelectorAll("[aria-label=Help] .rule")].some(r => r.innerText.includes("w = x × D × V × F ÷ m") && r.innerText.includes("50 mL"))`)
	d.accessible("formulas")
	d.explained("formulas")
	d.press(kb.Escape)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.querySelectorAll(".rows .batch").length >= 9`)
	d.found("standard addition x =")
	d.until("all formulas", `document.querySelectorAll("[aria-label=Help] .rule").length >= 15`)
	d.quiet()
}

// Everything that is done somewhere is done by name from anywhere: one goes there, and it is pressed, or pointed at where it acts on something.
func TestWhatIsDoneElsewhereIsDoneByName(t *testing.T) {
	d := open(t)
	source, err := os.ReadFile("../ui/src/state/deeds.ts")
	if err != nil {
		t.Fatal(err)
	}
	table := regexp.MustCompile(`(?m)^  \["(.+?)", "(\w+)", "(\w*)", "(.+?)"(, "point")?\],$`).FindAllStringSubmatch(string(source), -1)
	if len(table) < 50 {
		t.Fatalf("%d deeds are read", len(table))
	}
	d.station("batch", "")
	d.until("the batch", `document.querySelectorAll(".ntc").length >= 6`)
	place := ""
	for _, deed := range table {
		name, where, face, words, pointed := deed[1], deed[2], deed[3], deed[4], deed[5] != ""
		if where == "bench" {
			continue // its test is that of the bench
		}
		if at := where + face; at != place { // through Find from somewhere else; what else is there is looked for only
			place = at
			if where == "batch" { // from a page of the house no station is reached
				d.station("peaks", "")
				d.until("the peaks", `document.querySelector("[aria-label=Peaks] tbody tr")`)
			}
			d.found(name)
			if pointed {
				d.until("pointed at "+name, `document.querySelector(".ring") !== null`)
			}
		}
		d.until(name+": "+words, `[...document.querySelectorAll("main button, main .choice-item, .stage button, .stage .choice-item, aside button")].some(b => (b.getAttribute("aria-label") ?? [...b.childNodes].filter(n => n.nodeName !== "KBD").map(n => n.textContent).join("")).replace(/\s+/g, " ").trim().startsWith(`+quote(words)+`))`)
	}
	// Somebody who goes on at once is not called back to what was found before.
	d.station("peaks", "")
	d.until("the peaks", `document.querySelector("[aria-label=Peaks] tbody tr")`)
	d.found("each replicate by itself")
	d.do(chromedp.KeyEvent("k", chromedp.KeyModifiers(2)))
	d.fill(`[aria-label="Find or do"][role=combobox]`, "gyokuro")
	d.do(chromedp.Sleep(time.Second))
	if has := read[string](d, `document.activeElement.value ?? document.activeElement.tagName`); has != "gyokuro" {
		t.Errorf("the field is left for %s", has)
	}
	if read[bool](d, `[...document.querySelectorAll(".choice-item[data-state=checked]")].some(b => b.textContent.includes("each replicate"))`) {
		t.Error("what was found before is done behind the field")
	}
	d.press(kb.Escape)
	d.found("make many reports")
	d.until("many reports", `location.pathname.endsWith("/report") && document.querySelector("section[aria-label=Of]") && !document.querySelector("[role=alert]")`)
	d.quiet()
}

// copied tells what a button puts on the clipboard: as the browser allows it, or by hand where a page is given no clipboard, and a sentence where nothing is let.
func (d *desk) copied(selector, words, want string) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](`Object.defineProperty(navigator, "clipboard", {value: undefined, configurable: true});
		window.taken = ""; document.addEventListener("copy", () => (window.taken = document.activeElement.value)); undefined`))
	d.text(selector, words)
	d.until("it is copied by hand", `window.taken.includes(`+quote(want)+`) && [...document.querySelectorAll(`+quote(selector)+`)].some(b => b.innerText === "copied")`)
	d.until("it can be copied again", `[...document.querySelectorAll(`+quote(selector)+`)].some(b => b.innerText === `+quote(words)+`)`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.execCommand = () => false; undefined`))
	d.text(selector, words)
	d.until("nothing is let", `[...document.querySelectorAll("[role=alert]")].some(a => a.innerText.includes("lets nothing be copied"))`)
	d.do(chromedp.Evaluate[chromedp.Void](`delete document.execCommand; delete navigator.clipboard; [...document.querySelectorAll("[role=alert] button")].find(b => b.innerText === "Close").click()`))
}
