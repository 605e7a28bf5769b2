package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// The contract is served as a page, from the server alone: nothing is fetched from elsewhere, and a request can be tried there.
func TestTheContractIsAPage(t *testing.T) {
	d := open(t)
	d.do(chromedp.Navigate(d.address + "/api"))
	const inside = `(document.querySelector("rapi-doc")?.shadowRoot?.textContent ?? "")`
	d.until("the operations", inside+`.includes("/api/batches/{batch}/review") && `+inside+`.includes("Start a batch, or find the one of that name")`)
	d.until("what they are about", inside+`.includes("Calibration: points, limits") && !`+inside+`.includes("General")`)
	d.quiet()
}
