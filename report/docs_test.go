package report

import (
	"os"
	"reflect"
	"strings"
	"testing"

	"yugen/report/layouts"
)

// What can be said in a layout, and what a document says, stands in the documents that describe them.
func TestFormsAreDescribed(t *testing.T) {
	for file, types := range map[string][]any{
		"../docs/layouts.md": {layouts.Layout{}, layouts.Margin{}, layouts.Block{}, layouts.Value{}},
		"../docs/results.md": {Document{}, Injection{}, Found{}, Sampled{}, Mean{}},
	} {
		text, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		said := func(word string) {
			if !strings.Contains(string(text), "`"+word+"`") {
				t.Errorf("%s says nothing of %s", file, word)
			}
		}
		for _, v := range types {
			for k := range reflect.TypeOf(v).NumField() {
				name, _, _ := strings.Cut(reflect.TypeOf(v).Field(k).Tag.Get("json"), ",")
				said(name)
			}
		}
		if strings.HasSuffix(file, "layouts.md") {
			for _, k := range layouts.Kinds {
				said(string(k))
			}
			for _, w := range OwnWords {
				said(w)
			}
			for _, name := range layouts.Shipped {
				said(name)
			}
		}
	}
}
