package layouts

import (
	"embed"
	"fmt"
	"slices"
	"strings"
)

//go:embed shipped/*.json
var shippedFiles embed.FS

// Shipped are the layouts that come with Yugen, by the names of their files, in the order in which they are offered. They cannot be changed, only copied.
var Shipped = []string{"one-page", "certificate", "whole-batch", "curve-dossier", "run-sheet", "screening"}

// ShippedLayout is one of them.
func ShippedLayout(name string) (Layout, error) {
	if !slices.Contains(Shipped, name) {
		return Layout{}, fmt.Errorf("no layout %q is shipped; %s are", name, strings.Join(Shipped, ", "))
	}
	data, err := shippedFiles.ReadFile("shipped/" + name + ".json")
	if err != nil {
		return Layout{}, err
	}
	return Read(data)
}
