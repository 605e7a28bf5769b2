package jcamp

import (
	"fmt"
	"strconv"
	"strings"
)

// The pseudo-digits of the ASCII squeezed difference form (McDonald & Wilks 1988, table 1).
const (
	squeezed   = "@ABCDEFGHI" // 0 to 9
	squeezedN  = "abcdefghi"  // -1 to -9
	difference = "%JKLMNOPQR" // 0 to 9
	differentN = "jklmnopqr"  // -1 to -9
	duplicate  = "STUVWXYZs"  // 1 to 9
)

// line is one line of (X++(Y..Y)): its abscissa, its ordinates, and whether it ended in difference form, so that the next one begins with a check.
type line struct {
	x          float64
	ys         []float64
	difference bool
}

// token is a piece of a line: a pseudo-digit or none, and the number after it.
type token struct {
	mode byte // 'n' a number, 'd' a difference, 'r' a repetition
	v    float64
}

// decodeLine reads the ordinates of one line in any of the forms: AFFN, PAC, SQZ, DIF, DUP. It refuses to repeat a value beyond so many points.
func decodeLine(text string, most int) (line, error) {
	tokens, err := tokens(text)
	if err != nil {
		return line{}, err
	}
	if len(tokens) == 0 || tokens[0].mode != 'n' {
		return line{}, fmt.Errorf("the line does not begin with an abscissa")
	}
	l := line{x: tokens[0].v}
	last := token{}
	for _, t := range tokens[1:] {
		switch t.mode {
		case 'n':
			l.ys = append(l.ys, t.v)
			last = t
		case 'd':
			if len(l.ys) == 0 {
				return l, fmt.Errorf("a difference stands before any value")
			}
			l.ys = append(l.ys, l.ys[len(l.ys)-1]+t.v)
			last = t
		case 'r':
			if len(l.ys) == 0 || last.mode == 0 {
				return l, fmt.Errorf("a repetition stands before any value")
			}
			if t.v < 1 || float64(len(l.ys))+t.v > float64(most)+1 {
				return l, fmt.Errorf("a value is repeated %g times", t.v)
			}
			for range int(t.v) - 1 {
				v := last.v
				if last.mode == 'd' {
					v += l.ys[len(l.ys)-1]
				}
				l.ys = append(l.ys, v)
			}
		}
	}
	l.difference = last.mode == 'd'
	return l, nil
}

// tokens parts a line. An E belongs to the number before it where a sign and a digit follow; else it is a pseudo-digit.
func tokens(text string) ([]token, error) {
	var out []token
	for i := 0; i < len(text); {
		c := text[i]
		switch {
		case c == ' ' || c == '\t' || c == ',' || c == ';':
			i++
			continue
		case c == '?':
			return nil, fmt.Errorf("a value is missing (?)")
		}
		t := token{mode: 'n'}
		lead := ""
		if digit, mode, ok := pseudo(c); ok {
			t.mode, lead = mode, digit
			i++
		}
		end := i
		if lead == "" {
			end = number(text, i)
		} else {
			for end < len(text) && (text[end] >= '0' && text[end] <= '9' || text[end] == '.') {
				end++
			}
		}
		if lead == "" && end == i {
			return nil, fmt.Errorf("%q is no number", text[i:min(len(text), i+12)])
		}
		v, err := strconv.ParseFloat(lead+text[i:end], 64)
		if err != nil {
			return nil, fmt.Errorf("%q is no number", lead+text[i:end])
		}
		t.v = v
		out = append(out, t)
		i = end
	}
	return out, nil
}

// pseudo gives the digits and the mode that a pseudo-digit stands for.
func pseudo(c byte) (digit string, mode byte, ok bool) {
	for _, set := range []struct {
		letters, sign string
		first         int
		mode          byte
	}{{squeezed, "", 0, 'n'}, {squeezedN, "-", 1, 'n'}, {difference, "", 0, 'd'}, {differentN, "-", 1, 'd'}, {duplicate, "", 1, 'r'}} {
		if k := strings.IndexByte(set.letters, c); k >= 0 {
			return set.sign + strconv.Itoa(k+set.first), set.mode, true
		}
	}
	return "", 0, false
}

// number gives where a number that begins at a place ends: there where it has no digit.
func number(text string, start int) int {
	i := start
	if i < len(text) && (text[i] == '+' || text[i] == '-') {
		i++
	}
	digits := i
	for i < len(text) && (text[i] >= '0' && text[i] <= '9' || text[i] == '.') {
		i++
	}
	if i == digits {
		return start
	}
	if i+2 < len(text) && (text[i] == 'E' || text[i] == 'e') && (text[i+1] == '+' || text[i+1] == '-') && text[i+2] >= '0' && text[i+2] <= '9' {
		for i += 2; i < len(text) && text[i] >= '0' && text[i] <= '9'; i++ {
		}
	}
	return i
}
