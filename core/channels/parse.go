package channels

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

var placeText = regexp.MustCompile(`^\s*([1-9]\d*(?:\.\d+)?)\s*(?:(?:±|\+-|\+/-)\s*(\d+(?:\.\d+)?)\s*(ppm|da|nm)?)?\s*$`)

// ParseIons reads ions as a person writes them: "71.05±0.3", "71.05±10ppm", or several with commas between. Those without a tolerance have that of the next.
func ParseIons(words string) (Signal, error) {
	s := Signal{Kind: Ions}
	for word := range strings.SplitSeq(words, ",") {
		p, err := parsePlace(word)
		if err != nil {
			return Signal{}, err
		}
		s.Places = append(s.Places, p)
	}
	for i := len(s.Places) - 2; i >= 0; i-- {
		if p := &s.Places[i]; p.Tolerance == 0 {
			p.Tolerance, p.PPM = s.Places[i+1].Tolerance, s.Places[i+1].PPM
		}
	}
	if s.Places[len(s.Places)-1].Tolerance == 0 {
		return Signal{}, fmt.Errorf("%q needs a tolerance, as %s±0.3", words, strings.TrimSpace(words))
	}
	return s, s.Validate()
}

// ParseWavelength reads "278±4" nm.
func ParseWavelength(word string) (Signal, error) {
	p, err := parsePlace(word)
	if err != nil {
		return Signal{}, err
	}
	s := Signal{Kind: Wavelength, Places: []Place{p}}
	return s, s.Validate()
}

// ParseProduct reads "195.1±0.3 → 138.1±0.3", with an arrow or ">"; a precursor without a tolerance has that of its product.
func ParseProduct(words string) (Signal, error) {
	before, after, ok := strings.Cut(strings.ReplaceAll(strings.ReplaceAll(words, "->", ">"), "→", ">"), ">")
	if !ok {
		return Signal{}, fmt.Errorf("%q is no precursor and product, as 195.1 → 138.1±0.3", words)
	}
	both, err := ParseIons(before + "," + after)
	if err != nil {
		return Signal{}, err
	}
	both.Kind = Product
	return both, both.Validate()
}

func parsePlace(word string) (Place, error) {
	m := placeText.FindStringSubmatch(strings.ToLower(word))
	if m == nil {
		return Place{}, fmt.Errorf("%q is no place with a tolerance, as 71.05±0.3 or 71.05±10ppm, with a decimal point", word)
	}
	p := Place{PPM: m[3] == "ppm"}
	var err error
	if p.At, err = strconv.ParseFloat(m[1], 64); err == nil && m[2] != "" {
		p.Tolerance, err = strconv.ParseFloat(m[2], 64)
	}
	return p, err
}
