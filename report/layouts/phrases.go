package layouts

import (
	"fmt"
	"strconv"
	"strings"
)

// Phrase is a part of a text: words, or a value that is filled in.
type Phrase struct {
	Words string
	Value *Value
	// From and To are where it stands in the text, in bytes.
	From, To int
}

// Phrases parts a text into words and values. A value stands in braces: {sample}, {amount of Caffeine}, {amount of Caffeine; 3} with three significant
// digits, {retention_min of EC; .2} with two decimals, {amount of EC in µmol/g} in another unit. A doubled brace is a brace.
func Phrases(text string) ([]Phrase, error) {
	var list []Phrase
	var plain strings.Builder
	began := 0
	flush := func(to int) {
		if plain.Len() > 0 {
			list = append(list, Phrase{Words: plain.String(), From: began, To: to})
			plain.Reset()
		}
	}
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case (c == '{' || c == '}') && i+1 < len(text) && text[i+1] == c:
			plain.WriteByte(c)
			i++
		case c == '{':
			end := strings.IndexByte(text[i:], '}')
			if end < 0 {
				return nil, fmt.Errorf("the brace at letter %d is not closed; a brace that is meant stands twice", i+1)
			}
			v, err := valueOf(text[i+1 : i+end])
			if err != nil {
				return nil, err
			}
			flush(i)
			list = append(list, Phrase{Value: &v, From: i, To: i + end + 1})
			i += end
			began = i + 1
		case c == '}':
			return nil, fmt.Errorf("the brace at letter %d closes nothing; a brace that is meant stands twice", i+1)
		default:
			plain.WriteByte(c)
		}
	}
	flush(len(text))
	return list, nil
}

func valueOf(inside string) (Value, error) {
	what, shown, formatted := strings.Cut(inside, ";")
	unit := ""
	if k := strings.LastIndex(what, " in "); k >= 0 {
		what, unit = what[:k], strings.TrimSpace(what[k+len(" in "):])
	}
	id, compound, _ := strings.Cut(what, " of ")
	v := Value{Quantity: strings.TrimSpace(id), Compound: strings.TrimSpace(compound), Unit: unit}
	if v.Quantity == "" {
		return v, fmt.Errorf("{%s} names no value", inside)
	}
	if !formatted {
		return v, nil
	}
	digits, decimal := strings.CutPrefix(strings.TrimSpace(shown), ".")
	n, err := strconv.Atoi(digits)
	if err != nil || n < 0 || n > 12 || n == 0 && !decimal {
		return v, fmt.Errorf("{%s}: after the semicolon stands a number of digits, or of decimals with a point before it", inside)
	}
	if decimal {
		v.Decimals = &n
	} else {
		v.Digits = n
	}
	return v, nil
}

// braces checks that all texts of a block can be read.
func (b Block) braces() error {
	title := ""
	if b.Title != nil {
		title = *b.Title
	}
	for _, t := range [][2]string{{"text", b.Text}, {"sub", b.Sub}, {"title", title}} {
		if _, err := Phrases(t[1]); err != nil {
			return fmt.Errorf("%s: %w", t[0], err)
		}
	}
	return nil
}
