// Package proposals reads from names and peaks what a batch of a few files is likely to be, before anybody has said anything of it.
package proposals

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"yugen/core/amounts"
	"yugen/core/batch"
)

// Span is a stretch of a name, in characters (not bytes) from its start; empty where To is 0.
type Span struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// Reading is what one name says. A role of NoRole and a level of nil mean that the name does not say.
type Reading struct {
	Role      batch.Role `json:"role"`
	Level     *float64   `json:"level"` // in Unit
	Unit      string     `json:"unit"`
	LevelFrom Span       `json:"level_from"`
	RoleFrom  Span       `json:"role_from"`
	// Doubt is why this must not be taken without a look; empty where there is none.
	Doubt string `json:"doubt,omitempty"`
}

// content is a number with a unit of content as it is written in names of files, where no slash can stand: "20 mg-L", "2,5ug_mL", "10 mg per L", "5mgL".
var content = regexp.MustCompile(`(?i)(\d+(?:[.,]\d+)?)[ _]*(g|mg|µg|μg|ug|ng|pg|mmol|µmol|μmol|umol|nmol|mol)(?:[ _]*(?:/|-|_|\.|p|per| )[ _]*)?(l|dl|ml|µl|μl|ul)(?:[^\p{L}]|$)`)

// shareOf is a share without a unit of its own.
var shareOf = regexp.MustCompile(`(?i)(\d+(?:[.,]\d+)?)[ _]*(ppm|ppb)(?:[^\p{L}]|$)`)

// number is a number that stands alone in a name.
var number = regexp.MustCompile(`\d+(?:[.,]\d+)?`)

// Names reads the names of the files of one batch, without their endings. Numbers without a unit are levels only where they tell the standards apart, and
// doubtful where they may as well count them.
func Names(names []string) []Reading {
	out := make([]Reading, len(names))
	for i, name := range names {
		out[i] = named(name)
	}
	bare(names, out)
	standards := 0
	for _, r := range out {
		if r.Role == batch.Standard {
			standards++
		}
	}
	if standards >= 2 { // what says nothing of itself beside several standards is what they are for
		for i := range out {
			if out[i].Role == batch.NoRole {
				out[i].Role = batch.Sample
			}
		}
	}
	return out
}

// named reads one name by itself.
func named(name string) Reading {
	r := Reading{}
	r.Role, r.RoleFrom = roleWord(name)
	switch m := content.FindStringSubmatchIndex(name); {
	case m != nil:
		if v, err := decimal(name[m[2]:m[3]]); err == nil {
			r.Level, r.Unit, r.LevelFrom = &v, unitOf(name[m[4]:m[5]], name[m[6]:m[7]]), span(name, m[2], m[7])
		}
	default:
		if m := shareOf.FindStringSubmatchIndex(name); m != nil {
			if v, err := decimal(name[m[2]:m[3]]); err == nil {
				r.Level, r.LevelFrom = &v, span(name, m[2], m[5])
				r.Doubt = fmt.Sprintf("%q does not say of what", name[m[4]:m[5]])
			}
		}
	}
	switch {
	case r.Level != nil && r.Role == batch.NoRole:
		r.Role, r.RoleFrom = batch.Standard, r.LevelFrom
	case r.Role != batch.Standard && r.Role != batch.Check: // a content in the name of a sample is no level
		r.Level, r.Unit, r.LevelFrom, r.Doubt = nil, "", Span{}, ""
	}
	return r
}

// roleWord is the role that a word of a name means, and where the word stands.
func roleWord(name string) (batch.Role, Span) {
	at := 0
	for _, word := range split(name) {
		from := at + strings.Index(name[at:], word)
		at = from + len(word)
		if role, ok := batch.RoleOfWord(strings.ToLower(word)); ok {
			return role, span(name, from, at)
		}
	}
	return batch.NoRole, Span{}
}

// split gives the words of a name: runs of letters.
func split(name string) []string {
	return strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) })
}

// bare gives standards without a unit the number that tells them apart.
func bare(names []string, out []Reading) {
	var without []int
	for i, r := range out {
		if r.Role == batch.Standard {
			if r.Level != nil {
				return // where any says its content with a unit, a bare number is something else
			}
			without = append(without, i)
		}
	}
	if len(without) < 2 {
		return
	}
	values := make([]float64, len(without))
	spans := make([]Span, len(without))
	for k, i := range without {
		found := number.FindAllStringIndex(names[i], -1)
		if len(found) == 0 {
			return
		}
		m := found[0]
		v, err := decimal(names[i][m[0]:m[1]])
		if err != nil {
			return
		}
		values[k], spans[k] = v, span(names[i], m[0], m[1])
	}
	sorted := slices.Clone(values)
	slices.Sort(sorted)
	distinct := slices.Compact(slices.Clone(sorted))
	if len(distinct) < 2 {
		return
	}
	doubt := ""
	if distinct[0] <= 1 && distinct[len(distinct)-1]-distinct[0] == float64(len(distinct)-1) {
		doubt = fmt.Sprintf("%g to %g may number the standards rather than say what they hold", distinct[0], distinct[len(distinct)-1])
	}
	for k, i := range without {
		out[i].Level, out[i].LevelFrom, out[i].Doubt = &values[k], spans[k], doubt
	}
}

func decimal(text string) (float64, error) {
	return strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
}

// unitOf writes a unit of content as it is written on paper.
func unitOf(mass, volume string) string {
	mass, volume = strings.ToLower(mass), strings.ToLower(volume)
	for _, micro := range []string{"u", "μ"} {
		if rest, ok := strings.CutPrefix(mass, micro); ok {
			mass = "µ" + rest
		}
		if rest, ok := strings.CutPrefix(volume, micro); ok {
			volume = "µ" + rest
		}
	}
	return mass + "/" + strings.TrimSuffix(volume, "l") + "L"
}

// span turns bytes of a name into characters.
func span(name string, from, to int) Span {
	return Span{From: len([]rune(name[:from])), To: len([]rune(name[:to]))}
}

// InOneUnit turns the levels into the unit that most of them have, and gives it. A level that cannot be turned is left out with a doubt; where none has a
// unit it is empty.
func InOneUnit(list []Reading) (unit string) {
	count := map[string]int{}
	for _, r := range list {
		if r.Level != nil && r.Unit != "" {
			count[r.Unit]++
			if count[r.Unit] > count[unit] {
				unit = r.Unit
			}
		}
	}
	to, err := amounts.ParseUnit(unit)
	if err != nil {
		return unit
	}
	for i, r := range list {
		if r.Level == nil || r.Unit == unit || r.Unit == "" {
			continue
		}
		from, err := amounts.ParseUnit(r.Unit)
		if err == nil {
			q, err2 := amounts.Quantity{Value: *r.Level, Unit: from}.In(to)
			if err2 == nil {
				v, _ := strconv.ParseFloat(strconv.FormatFloat(q.Value, 'g', 12, 64), 64) // powers of ten leave no dust
				list[i].Level, list[i].Unit = &v, unit
				continue
			}
		}
		list[i].Level, list[i].Doubt = nil, fmt.Sprintf("%g %s cannot be told in %s", *r.Level, r.Unit, unit)
	}
	return unit
}

// CommonName is the word that every name carries besides what tells role and level, when there is exactly one: what was likely measured. Else it is empty.
func CommonName(names []string) string {
	if len(names) < 2 {
		return ""
	}
	var common []string
	for _, word := range split(names[0]) {
		role := false
		if _, ok := batch.RoleOfWord(strings.ToLower(word)); ok {
			role = true
		}
		if role || len([]rune(word)) < 4 || slices.Contains(common, word) {
			continue
		}
		in := func(name string) bool {
			return slices.ContainsFunc(split(name), func(w string) bool { return strings.EqualFold(w, word) })
		}
		if !slices.ContainsFunc(names, func(n string) bool { return !in(n) }) {
			common = append(common, word)
		}
	}
	if len(common) != 1 {
		return ""
	}
	return common[0]
}
