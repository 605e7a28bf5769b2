package server

import (
	"os"
	"path/filepath"
	"testing"
)

// TestMain gives the tests a signing key of their own.
func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "yugen-key")
	if err != nil {
		panic(err)
	}
	os.Setenv("YUGEN_KEY", filepath.Join(dir, "signing.key"))
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}
