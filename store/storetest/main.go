// Package storetest gives tests that open stores a signing key of their own, so that they neither use nor make that of the person who runs them.
package storetest

import (
	"os"
	"path/filepath"
	"testing"
)

// Run runs the tests of a package with such a key, and gives their exit code.
func Run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "yugen-key")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	if err := os.Setenv("YUGEN_KEY", filepath.Join(dir, "signing.key")); err != nil {
		panic(err)
	}
	code := m.Run()
	for _, dir := range made {
		if os.RemoveAll(dir) != nil {
			code = 1
		}
	}
	return code
}
