package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// What the installation decides of itself is kept from its page, refused where it cannot be, and stands on the next report.
func TestTheInstallationDecidesOfItself(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/"))
	d.until("the shelf", `document.querySelectorAll(".rows .batch").length >= 9`)
	d.text("[aria-label=Studies] button", "Settings")
	d.until("the settings", `location.pathname === "/settings" && document.querySelector("[title='As reports name it']")`)
	d.accessible("settings")
	d.explained("settings")
	d.fill("[title='As reports name it']", "House of Leaves")
	d.do(chromedp.Evaluate[chromedp.Void](`(() => { for (const [title, value] of [["In numbers on paper; screens and files have a point", ","], ["The time zone of times on paper", "Asia/Tokyo"]]) { const s = document.querySelector("[title='" + title + "']"); s.value = value; s.dispatchEvent(new Event("change", { bubbles: true })); } })()`))
	d.text("form button", "Keep")
	d.until("that it is kept", `document.querySelector("[role=status]")?.innerText.startsWith("Kept")`)
	d.legible("settings")
	d.station("report", "")
	d.until("the page", `(() => { const text = [...document.querySelectorAll(".sheet svg")].map((s) => s.textContent).join(" "); return text.includes("House of Leaves") && text.includes("JST") && /\d,\d/.test(text); })()`)
	d.quiet()
}
