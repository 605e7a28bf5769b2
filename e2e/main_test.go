package e2e

import (
	"os"
	"testing"

	"yugen/store/storetest"
)

func TestMain(m *testing.M) {
	code := storetest.Run(m)
	for _, stop := range closing {
		stop()
	}
	for _, made := range leftovers {
		if err := os.RemoveAll(made); err != nil {
			code = 1
		}
	}
	os.Exit(code)
}

// leftovers are what the tests made outside of their own folders.
var leftovers []string

// closing ends what the tests share.
var closing []func()
