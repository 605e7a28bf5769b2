package e2e

import (
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

const keeperWords = "kettle leaf and morning"

// staffed is an installation where people sign in, with one keeper, and a browser at its entrance.
func staffed(t *testing.T) *desk {
	t.Helper()
	t.Parallel()
	program, err := build()
	if err != nil {
		t.Fatal(err)
	}
	data := filepath.Join(t.TempDir(), "data")
	add := exec.CommandContext(t.Context(), program, "people", "add", "L. Ferreira", "--role", "keeper", "--data", data)
	add.Stdin = strings.NewReader(keeperWords + "\n")
	if out, err := add.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	d := served(t, program, "serve", data, "--people")
	d.browse("")
	d.do(chromedp.Navigate(d.address + "/"))
	return d
}

func (d *desk) signIn(name, password string) {
	d.t.Helper()
	d.until("the entrance", `document.querySelector("main[aria-label='Sign in'] #password")`)
	d.fill("#entering", name)
	d.fill("#password", password)
	d.press(kb.Enter)
}

// fill puts words into a field in place of what is there.
func (d *desk) fill(selector, words string) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector(%q).focus(); document.querySelector(%q).select()`, selector, selector)), chromedp.KeyEvent(words))
}

// A keeper comes in and lets an analyst in; the analyst works under their own name, may not do what their role does not allow, and when their session is ended from elsewhere
// signs in over their work, of which nothing is lost.
func TestTwoPeopleShareAnInstallation(t *testing.T) {
	d := staffed(t)
	d.until("nothing but the entrance", `document.querySelector("#password") && !document.querySelector("[aria-label=Studies]")`)
	d.accessible("the entrance")
	d.signIn("L. Ferreira", "not the password")
	d.until("a refusal", `document.querySelector("[role=alert]")?.innerText === "This name and password do not belong together."`)
	d.signIn("l. ferreira", keeperWords)
	d.until("the shelf", `document.querySelector("[aria-label=Studies]") && document.querySelector("header .me")?.title.startsWith("LF: L. Ferreira, keeper;")`)
	d.text("main button", "People")
	d.until("the table of people", `document.querySelectorAll("[aria-label=People] tbody tr").length === 1 && location.pathname === "/people"`)
	d.accessible("people")
	d.explained("people")
	d.fill("#new-person", "M. Okada")
	d.fill("#first-password", "short")
	d.text("[aria-label='A new person'] button", "Add")
	d.until("too short", `document.querySelector("[aria-label='A new person'] [role=alert]")?.innerText.includes("at least 12 signs")`)
	d.fill("#first-password", "evening rain on bamboo")
	d.text("[aria-label='A new person'] button", "Add")
	d.until("both of them", `document.querySelectorAll("[aria-label=People] tbody tr").length === 2 && document.querySelector("[aria-label=People]").innerText.includes("M. Okada")`)

	keeper := d.ctx
	other := &desk{t: d.t, program: d.program, address: d.address}
	other.browse("")
	other.do(chromedp.Navigate(d.address + "/"))
	other.signIn("M. Okada", "evening rain on bamboo")
	other.until("the shelf", `document.querySelector("header .me")?.title.startsWith("MO: M. Okada, analyst;")`)
	other.text("[role=tab]", "From a table")
	other.until("the table", `document.querySelector("textarea")`)
	other.fill("textarea", "1 10; 2 20")
	other.text("[aria-label=Studies] button", "Back everything up")
	other.until("not theirs", `document.querySelector("[aria-label=Studies]").innerText.includes("M. Okada may not do this")`)

	d.ctx = keeper
	d.text("[aria-label=People] tbody button", "M. Okada")
	d.until("the analyst", `document.querySelector("[aria-label='This person'] h2")?.innerText === "M. Okada"`)
	d.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[aria-label='This person'] input[value=reviewer]").click()`))
	d.text("[aria-label='This person'] button", "Keep")
	d.until("two roles", `document.querySelector("[aria-label=People]").innerText.includes("analyst, reviewer")`)

	other.text("[aria-label=Studies] button", "Back everything up")
	other.until("the entrance over the work", `document.querySelector("main[aria-label='Sign in']")?.innerText.includes("This session was ended")`)
	other.signIn("M. Okada", "evening rain on bamboo")
	other.until("the work as it was", `!document.querySelector("#password") && document.querySelector("textarea")?.value.includes("2 20")`)
	other.click("header .me")
	other.text(".whose button", "Sign out")
	other.do(chromedp.Sleep(time.Second)) // the page is loaded anew, and nothing of what was on it stays
	other.until("out", `document.querySelector("#password") && !document.querySelector("textarea")`)
	other.quiet("status of 401", "status of 403", "status of 422")
	d.quiet("status of 401", "status of 422")
}
