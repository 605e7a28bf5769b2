package e2e

import (
	"fmt"
	"os/exec"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

const analystWords, reviewerWords = "evening rain on bamboo", "slow water over stones"

// twoPeople opens the demo for an analyst and for a reviewer, each in a browser of their own, at the station where changes are reviewed.
func twoPeople(t *testing.T) (okada, lindqvist *desk) {
	t.Helper()
	program, data := demoFolder(t)
	for _, p := range [][3]string{{"L. Ferreira", "keeper", keeperWords}, {"M. Okada", "analyst", analystWords}, {"R. Lindqvist", "reviewer", reviewerWords}} {
		add := exec.CommandContext(t.Context(), program, "people", "add", p[0], "--role", p[1], "--data", data)
		add.Stdin = strings.NewReader(p[2] + "\n")
		if out, err := add.CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
	}
	one := served(t, program, "serve", data, "--people")
	enter := func(name, password string) *desk {
		d := &desk{t: t, program: one.program, address: one.address}
		d.browse("")
		d.do(chromedp.Navigate(d.address + "/"))
		d.signIn(name, password)
		d.until("the shelf", `document.querySelector("[aria-label=Studies]")`)
		d.do(chromedp.Evaluate[chromedp.Void](`void fetch("/api/studies").then((r) => r.json()).then((list) => (window.first = list.flatMap((s) => s.batches).find((b) => b.name === "Spring teas").id))`))
		d.until("the batch", `window.first`)
		d.batch = read[string](d, `window.first`)
		return d
	}
	okada, lindqvist = enter("M. Okada", analystWords), enter("R. Lindqvist", reviewerWords)
	for _, d := range []*desk{okada, lindqvist} {
		d.station("review", "")
		d.until("the changes", `document.querySelectorAll("[aria-label='What was changed'] tbody tr").length > 2 && !document.querySelector("[aria-label='What was changed']").innerText.includes("…")`)
	}
	return okada, lindqvist
}

// listed waits for a word in the list of changes.
func (d *desk) listed(what, word string) {
	d.t.Helper()
	d.until(what, fmt.Sprintf(`document.querySelector("[aria-label='What was changed']")?.innerText.includes(%q)`, word))
}

func (d *desk) signs(password, word string) {
	d.t.Helper()
	d.until("that it may be signed", `document.querySelector("#sign-password")`)
	d.fill("#sign-password", password)
	d.text("[aria-label=Sign] button", word)
}

// One prepares, the other sends back; it is mended, accepted, signed and locked; a change is refused; unlocked it is changed again, and the page says so.
func TestTwoPeopleReviewAndSign(t *testing.T) {
	okada, lindqvist := twoPeople(t)
	okada.accessible("review")
	okada.explained("review")
	okada.until("that an analyst does not judge", `document.querySelector("[aria-label='The change']").innerText.includes("M. Okada may not review") && document.querySelector("[aria-label=Sign]").innerText.includes("may not sign as reviewed")`)
	okada.signs("not the password", "Sign")
	okada.until("a refusal", `document.querySelector("[aria-label=Sign] [role=alert]")?.innerText.includes("4 more")`)
	okada.signs(analystWords, "Sign")
	okada.until("prepared", `document.querySelector("[aria-label=Signatures]").innerText.includes("M. Okada, prepared")`)

	lindqvist.until("the signature, without being asked", `document.querySelector("[aria-label=Signatures]").innerText.includes("M. Okada, prepared")`)
	lindqvist.until("what is to be done first", `document.querySelector("[aria-label=Sign]").innerText.includes("to look at")`)
	lindqvist.text("[aria-label='What was changed'] tbody button", "Level")
	lindqvist.press("x")
	lindqvist.until("that a remark is wanted", `document.activeElement?.id === "review-remark" && document.querySelector("[aria-label='The change'] [role=alert]")`)
	lindqvist.do(chromedp.KeyEvent("the bottle says 50"))
	lindqvist.text("[aria-label='The change'] button", "Send back")
	lindqvist.listed("sent back", "sent back")

	okada.listed("sent back, here too", "sent back")
	okada.until("a count that asks for eyes", `document.querySelector("nav[aria-label=Stations] a[href$='/review'] sup")`)
	okada.station("batch", "")
	okada.until("a notice of what was sent back", `document.querySelector("[aria-label=Notices]")?.innerText.includes("Sent back by R. Lindqvist") && document.querySelector("[aria-label=Notices]").innerText.includes("the bottle says 50")`)
	okada.text("[aria-label=Notices] .what", "Sent back")
	okada.until("the review", `location.pathname.endsWith("/review")`)
	change := func(level string) (status float64) {
		okada.do(chromedp.Evaluate[chromedp.Void](`window.answered = 0; void (async () => {
			const path = "/api/batches/" + location.pathname.split("/")[1];
			const view = await (await fetch(path)).json();
			const check = view.batch.injections.find((i) => i.role === "check");
			const r = await fetch(path + "/entries", {method: "PATCH", headers: {"Content-Type": "application/json", "If-Match": "*"},
				body: JSON.stringify({changes: [{injection_id: check.id, field: "level", value: "` + level + `"}], reason: "as the bottle says"})});
			window.answered = r.status;
		})()`))
		okada.until("an answer", `window.answered`)
		return read[float64](okada, `window.answered`)
	}
	if status := change("50"); status != 200 {
		t.Fatalf("mending answers %v", status)
	}
	okada.listed("the mended level", "as the bottle says")
	okada.until("that it was changed since", `document.querySelector("[aria-label=Signatures]").innerText.includes("changed since")`)
	okada.signs(analystWords, "Sign")
	okada.until("prepared again", `document.querySelectorAll("[aria-label=Signatures] .given").length === 2`)

	lindqvist.until("both signatures", `document.querySelectorAll("[aria-label=Signatures] .given").length === 2 && !document.querySelector("[aria-label='What was changed']").innerText.includes("sent back")`)
	for range 30 { // one after the other, by the keyboard
		left := read[float64](lindqvist, `Number(document.querySelector(".foot, footer")?.innerText.match(/(\d+) to look at/)?.[1] ?? -1)`)
		if left < 0 {
			t.Fatal("the foot does not say how many are to look at")
		}
		if left == 0 {
			break
		}
		lindqvist.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
		lindqvist.press("\r")
		lindqvist.until("one fewer", fmt.Sprintf(`Number(document.querySelector(".foot, footer")?.innerText.match(/(\d+) to look at/)?.[1]) < %v`, left))
	}
	lindqvist.signs(reviewerWords, "Sign and lock")
	lindqvist.until("that it is locked", `document.querySelector(".lock")?.innerText.includes("Signed by R. Lindqvist, reviewed")`)

	okada.until("that it is locked, here too", `document.querySelector(".lock")?.innerText.includes("R. Lindqvist")`)
	if status := change("60"); status != 423 {
		t.Errorf("a change of a signed batch answers %v", status)
	}
	okada.until("nobody here unlocks", `document.querySelector("[aria-label=Signatures]").innerText.includes("A reviewer unlocks it") && document.querySelector("[aria-label=Undo]").disabled`)
	okada.station("report", "")
	okada.until("the signature on the page", `document.body.innerHTML.includes("R. Lindqvist") && document.body.innerHTML.includes("seal ")`)

	lindqvist.accessible("a signed batch")
	lindqvist.text("[aria-label=Signatures] button", "Unlock")
	lindqvist.fill("#unlock-reason", "the bottle says 60 after all")
	lindqvist.fill("#unlock-password", reviewerWords)
	lindqvist.text("[aria-label=Signatures] form button", "Unlock")
	lindqvist.until("withdrawn", `!document.querySelector(".lock") && document.querySelector("[aria-label=Signatures]").innerText.includes("withdrawn")`)
	if status := change("60"); status != 200 {
		t.Errorf("a change of what was unlocked answers %v", status)
	}
	lindqvist.listed("what changed since", "since it was unlocked")
	okada.until("that it was unlocked, on the page", `document.body.innerHTML.includes("Unlocked") && document.body.innerHTML.includes("the bottle says 60 after all")`)
	okada.quiet("status of 401", "status of 422", "status of 423", "status of 412")
	lindqvist.quiet("status of 401", "status of 422")
}
