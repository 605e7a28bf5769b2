package resolving

import (
	"crypto/sha256"
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"
)

var writeEdition = flag.Bool("write-edition", false, "write the fingerprint of the present computation")

// What was kept under an edition must be what that edition computes. When this fails, the computation has changed: raise Edition, and run this test once with
// -write-edition.
func TestTheEditionFollowsTheComputation(t *testing.T) {
	const file = "testdata/edition.txt"
	var numbers strings.Builder
	for k, m := range []made{
		{compounds: 3, samples: 6, scans: 80, places: 60, resolution: 0.6, shift: 0.1, bleed: 2000, height: 5000},
		{compounds: 2, samples: 5, scans: 70, places: 40, resolution: 0.5, height: 300, light: true},
	} {
		s, _, _ := m.make(uint64(40 + k))
		r, err := Resolve(s, Options{})
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range r.Components {
			fmt.Fprintf(&numbers, "%v %.5g %.4g %d\n", c.Background, c.ApexMin, c.Explained, len(c.Doubts))
			for _, p := range c.Samples {
				fmt.Fprintf(&numbers, "%.5g %.3g\n", p.AreaS, p.SE)
			}
		}
	}
	now := fmt.Sprintf("%s %x\n", Edition, sha256.Sum256([]byte(numbers.String())))
	if *writeEdition {
		if err := os.WriteFile(file, []byte(now), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	kept, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if string(kept) != now {
		t.Errorf("edition %s computes other numbers than before; raise Edition in resolve.go:\n%s", Edition, numbers.String())
	}
}
