package summary

import (
	"fmt"
	"strings"

	"yugen/core/batch"
)

// Groupings are by what injections can be grouped besides own columns; nothing is by role.
var Groupings = []string{"", "replicates", "level", "role", "batch", "none"}

// Key names the group of an injection: by replicates its name, by level, by role, all as one for "none", or by the value of an own column.
func Key(m batch.Method, e batch.Entry, by string) string {
	role := roleWords[e.Role]
	switch by {
	case "none":
		return All
	case "replicates":
		return e.Name
	case "level":
		if e.Level != nil && e.Role == batch.Standard {
			return fmt.Sprintf("%g %s", *e.Level, m.Curves.Unit)
		}
		return role
	}
	if id, own := strings.CutPrefix(by, batch.OwnPrefix); own {
		if v := e.Own[id]; v != "" {
			return v
		}
		return "without"
	}
	return role
}

var roleWords = map[batch.Role]string{batch.Sample: "Samples", batch.Standard: "Standards", batch.Check: "Checks", batch.Blank: "Blanks", batch.Suitability: "Suitability", batch.NoRole: "Without a role"}
