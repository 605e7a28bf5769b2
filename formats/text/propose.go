package text

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Proposal is a profile that a file itself suggests, with what was guessed.
type Proposal struct {
	Profile Profile `json:"profile"`
	// Guesses are sentences about what could be otherwise.
	Guesses []string `json:"guesses"`
}

var saysWords = map[Says][]string{
	SaysSample:   {"sample name", "sample", "name", "probe", "probenname", "échantillon", "muestra"},
	SaysSampleID: {"sample id", "id", "sample number"},
	SaysVial:     {"vial", "position", "vial position", "fläschchen"},
	SaysOperator: {"operator", "analyst", "bediener", "opérateur"},
	SaysMethod:   {"method", "methode", "méthode", "acquisition method"},
	SaysAcquired: {"acquired", "acquisition date", "date acquired", "injection date", "date", "injected", "injected at", "acquired at", "datum", "date d'injection", "fecha"},
	SaysType:     {"sample type", "type", "probentyp"},
}

// saysOf is the field that a word before a value names; a condition where it names none.
func saysOf(name string) Says {
	for field, words := range saysWords {
		for _, w := range words {
			if strings.EqualFold(name, w) {
				return field
			}
		}
	}
	return SaysCondition
}

// Propose finds how a text can be read, from the text alone.
func Propose(data []byte) (Proposal, error) {
	text := decodedForProposal(data)
	out := Proposal{Guesses: []string{}}
	p := &out.Profile
	p.Delimiter = string(delimiter([]byte(text)))
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if p.Delimiter == "," && blanksPart(lines) {
		p.Delimiter = " "
	}
	from, comma, columns := p.firstNumbers(lines)
	if from == 0 {
		return out, noTable(nil)
	}
	p.Decimal, p.Data = ".", from
	if comma {
		p.Decimal = ","
	}
	p.headings(lines, from)
	p.roles(lines, columns, &out)
	p.values(lines, &out)
	p.layout(lines)
	return out, nil
}

func decodedForProposal(data []byte) string {
	text, err := (Profile{}).decoded(data)
	if err != nil {
		return string(data)
	}
	return string(text)
}

// blanksPart tells whether lines are parted by blanks: commas are absent or decimal marks, and most lines have two numbers or more.
func blanksPart(lines []string) bool {
	n, all := 0, 0
	for _, l := range lines[:min(len(lines), 200)] {
		if strings.TrimSpace(l) == "" {
			continue
		}
		all++
		fields := strings.Fields(l)
		if len(fields) < 2 {
			continue
		}
		_, errA := parse(fields[0], strings.Contains(fields[0], ","))
		_, errB := parse(fields[1], strings.Contains(fields[1], ","))
		if errA == nil && errB == nil {
			n++
		}
	}
	return all > 0 && 2*n > all
}

// firstNumbers is the line at which numbers begin, their decimal mark, and how many columns there are.
func (p *Profile) firstNumbers(lines []string) (line int, comma bool, columns int) {
	for n := range lines {
		for _, comma := range []bool{false, true} {
			if comma && p.Delimiter == "," {
				continue
			}
			run := 0
			for k := n; k < len(lines) && run < sure; k++ {
				if strings.TrimSpace(lines[k]) == "" && run > 0 {
					continue
				}
				fields := p.Fields(lines[k])
				if len(fields) < 2 || !allNumbers(fields[:2], comma) {
					break
				}
				run++
			}
			if run == sure {
				return n + 1, comma, len(p.Fields(lines[n]))
			}
		}
	}
	return 0, false, 0
}

func allNumbers(fields []string, comma bool) bool {
	for _, f := range fields {
		if _, err := parse(f, comma); err != nil {
			return false
		}
	}
	return true
}

// headings finds the lines of names and units above the numbers.
func (p *Profile) headings(lines []string, from int) {
	for n := from - 1; n >= 1 && n >= from-3; n-- {
		if strings.TrimSpace(lines[n-1]) == "" {
			continue
		}
		fields := p.Fields(lines[n-1])
		if len(fields) < 2 {
			return
		}
		if p.Units == 0 && p.Heading == 0 && isUnits(fields) {
			p.Units = n
			continue
		}
		p.Heading, p.Shape = n, lines[n-1]
		return
	}
}

// roles says what the columns are: the first a time, the others signals; a column that is headed as a time again begins a pair of its own.
func (p *Profile) roles(lines []string, columns int, out *Proposal) {
	field := func(line, column int) string {
		if line == 0 {
			return ""
		}
		if f := p.Fields(lines[line-1]); column <= len(f) {
			return f[column-1]
		}
		return ""
	}
	first := p.Fields(lines[p.Data-1])
	for c := 1; c <= min(columns, maxColumns); c++ {
		head := strings.ToLower(field(p.Heading, c))
		switch {
		case c == 1, c > 1 && c < columns && (strings.HasPrefix(head, "time") || strings.HasPrefix(head, "zeit") || strings.HasPrefix(head, "rt")):
			p.Columns = append(p.Columns, Column{Column: c, Role: TimeColumn})
		case c <= len(first) && allNumbers(first[c-1:c], p.Decimal == ","):
			p.Columns = append(p.Columns, Column{Column: c, Role: SignalColumn})
		}
	}
	unit := unitSaid(field(p.Heading, 1) + " " + field(p.Units, 1))
	last := 0.0
	for n := p.Data; n <= len(lines); n++ {
		if f := p.Fields(lines[n-1]); len(f) >= 2 {
			if v, ok := p.number(f[0]); ok {
				last = max(last, v)
			}
		}
	}
	switch {
	case unit != "":
		p.TimeUnit = unit
	case last >= 300:
		p.TimeUnit = Seconds
		out.Guesses = append(out.Guesses, fmt.Sprintf("No unit of time is said; the run ends at %g, so seconds are taken.", last))
	default:
		p.TimeUnit = Minutes
		out.Guesses = append(out.Guesses, fmt.Sprintf("No unit of time is said; the run ends at %g, so minutes are taken.", last))
	}
}

var figuresDate = regexp.MustCompile(`^(\d{1,2})[./-](\d{1,2})[./-]\d{4}`)

// values says what the lines above the numbers say.
func (p *Profile) values(lines []string, out *Proposal) {
	for n := 1; n < p.Data; n++ {
		if n == p.Heading || n == p.Units || strings.TrimSpace(lines[n-1]) == "" {
			continue
		}
		name, value := p.said(lines[n-1])
		says := saysOf(name)
		if name == "" || value == "" {
			continue
		}
		if says == SaysAcquired {
			if !p.order(value, out) {
				says = SaysCondition
			}
		}
		p.Values = append(p.Values, Value{n, says})
	}
}

// order finds the order of a date; false where it is none.
func (p *Profile) order(value string, out *Proposal) bool {
	for _, order := range []DateOrder{YearFirst, DayFirst, MonthFirst} {
		p.DateOrder = order
		if _, err := p.moment(value); err != nil {
			continue
		}
		if m := figuresDate.FindStringSubmatch(value); m != nil && order == DayFirst {
			p.DateOrder = MonthFirst
			_, err := p.moment(value)
			p.DateOrder = DayFirst
			if err == nil && m[1] != m[2] {
				out.Guesses = append(out.Guesses, fmt.Sprintf("%s could begin with the day or the month; the day is taken.", value))
			}
		}
		return true
	}
	p.DateOrder = YearFirst
	return false
}

// layout tells blocks, where numbers begin again after lines that are none.
func (p *Profile) layout(lines []string) {
	gap := false
	for n := p.Data; n <= len(lines); n++ {
		if p.empty(lines[n-1]) {
			continue
		}
		_, why := p.misfit(lines[n-1])
		if why != "" {
			gap = true
		} else if gap {
			p.Layout = InBlocks
			p.Values = slices.DeleteFunc(p.Values, func(v Value) bool { return v.Line == p.titleLine(lines) }) // it names the first block
			return
		}
	}
}
