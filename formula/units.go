package formula

import (
	"fmt"
	"sort"
	"strings"
)

// unit is a product of powers of what units are written with: "mAU·s" is {mAU: 1, s: 1}, "mg/L" {mg: 1, L: -1}. A percentage is a unit of its own.
type unit map[string]int

func parseUnit(text string) unit {
	u := unit{}
	for k, part := range strings.Split(text, "/") {
		sign := 1
		if k > 0 {
			sign = -1
		}
		for _, one := range strings.FieldsFunc(part, func(r rune) bool { return r == '·' || r == '*' || r == ' ' }) {
			if one != "1" {
				u[one] += sign
			}
		}
	}
	return u.clean()
}

func (u unit) clean() unit {
	for name, power := range u {
		if power == 0 {
			delete(u, name)
		}
	}
	return u
}

// times is the product of a unit with a power of another.
func (u unit) times(o unit, power int) unit {
	out := unit{}
	for name, p := range u {
		out[name] = p
	}
	for name, p := range o {
		out[name] += power * p
	}
	return out.clean()
}

func (u unit) same(o unit) bool {
	if len(u) != len(o) {
		return false
	}
	for name, p := range u {
		if o[name] != p {
			return false
		}
	}
	return true
}

func (u unit) String() string {
	var over, under []string
	for name, p := range u {
		text := name
		if n := max(p, -p); n > 1 {
			text = fmt.Sprintf("%s^%d", name, n)
		}
		if p > 0 {
			over = append(over, text)
		} else {
			under = append(under, text)
		}
	}
	sort.Strings(over)
	sort.Strings(under)
	text := strings.Join(over, "·")
	if text == "" && len(under) > 0 {
		text = "1"
	}
	for _, name := range under {
		text += "/" + name
	}
	return text
}

// words is a unit in a sentence.
func (u unit) words() string {
	if len(u) == 0 {
		return "a plain number"
	}
	return u.String()
}
