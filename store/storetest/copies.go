package storetest

import (
	"os"
	"path/filepath"
	"sync"
	"testing"
)

// made are the folders that copies were made of, for Run to take away.
var made []string

// Copies gives each test a folder of its own with the same contents, which are made once: the demo takes seconds to load, and a moment to copy.
func Copies(fill func(dir string) error) func(t *testing.T) (dir string) {
	once := sync.OnceValues(func() (string, error) {
		dir, err := os.MkdirTemp("", "yugen-copies")
		if err != nil {
			return "", err
		}
		made = append(made, dir)
		return dir, fill(dir)
	})
	return func(t *testing.T) string {
		t.Helper()
		from, err := once()
		if err != nil {
			t.Fatal(err)
		}
		dir := filepath.Join(t.TempDir(), "data")
		if err := os.CopyFS(dir, os.DirFS(from)); err != nil {
			t.Fatal(err)
		}
		return dir
	}
}
