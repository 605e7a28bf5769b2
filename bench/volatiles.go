package bench

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"yugen/core/spectra"
)

// volatile is a compound of tea's aroma, with its retention index and a spectrum of our own making.
type volatile struct {
	id, name, formula string
	mass              float64
	index             float64
	family            string
}

// volatiles are those of the demo; what stands after the twentieth is in the library alone.
var volatiles = []volatile{
	{"hexanal", "Hexanal", "C6H12O", 100, 801, "aldehyde"},
	{"hexenal", "(E)-2-Hexenal", "C6H10O", 98, 854, "enal"},
	{"hexenol", "(Z)-3-Hexen-1-ol", "C6H12O", 100, 857.5, "alkenol"},
	{"benzaldehyde", "Benzaldehyde", "C7H6O", 106, 962, "aromatic aldehyde"},
	{"heptadienal", "(E,E)-2,4-Heptadienal", "C7H10O", 110, 1012, "enal"},
	{"benzylalcohol", "Benzyl alcohol", "C7H8O", 108, 1036, "aromatic alcohol"},
	{"phenylacetaldehyde", "Phenylacetaldehyde", "C8H8O", 120, 1045, "aromatic"},
	{"linalooloxide", "Linalool oxide", "C10H18O2", 170, 1074, "terpene oxide"},
	{"linalool", "Linalool", "C10H18O", 154, 1100, "terpene alcohol"},
	{"nonanal", "Nonanal", "C9H18O", 142, 1104, "aldehyde"},
	{"phenylethanol", "2-Phenylethanol", "C8H10O", 122, 1116, "aromatic"},
	{"salicylate", "Methyl salicylate", "C8H8O3", 152, 1192, "phenolic ester"},
	{"terpineol", "α-Terpineol", "C10H18O", 154, 1189.5, "terpene alcohol"},
	{"cyclocitral", "β-Cyclocitral", "C10H16O", 152, 1220, "ionone"},
	{"nerol", "Nerol", "C10H18O", 154, 1228, "terpene alcohol, open"},
	{"geraniol", "Geraniol", "C10H18O", 154, 1255, "terpene alcohol, open"},
	{"indole", "Indole", "C8H7N", 117, 1290, "indole"},
	{"jasmone", "cis-Jasmone", "C11H16O", 164, 1396, "jasmone"},
	{"ionone", "β-Ionone", "C13H20O", 192, 1486, "ionone"},
	{"nerolidol", "(E)-Nerolidol", "C15H26O", 222, 1565, "terpene alcohol"},
	{"geranylacetate", "Geranyl acetate", "C12H20O2", 196, 1381, "terpene alcohol, open"},
	{"citronellol", "Citronellol", "C10H20O", 156, 1227, "terpene alcohol, open"},
	{"limonene", "Limonene", "C10H16", 136, 1031, "terpene"},
	{"myrcene", "Myrcene", "C10H16", 136, 991, "terpene"},
	{"pinene", "α-Pinene", "C10H16", 136, 938, "terpene"},
	{"safranal", "Safranal", "C10H14O", 150, 1198, "ionone"},
	{"damascenone", "β-Damascenone", "C13H18O", 190, 1385, "ionone"},
	{"acetophenone", "Acetophenone", "C8H8O", 120, 1067, "aromatic aldehyde"},
}

// internalVolatile is the internal standard.
var internalVolatile = volatile{"is", "Ethyl nonanoate", "C11H22O2", 186, 1297, "ester"}

// fragments are the lines that compounds of a family have in common: m/z and height of 100. They are made up near what such compounds show; they are no
// reference data.
var fragments = map[string][]spectra.Line{
	"aldehyde":              {{At: 41, Height: 72}, {At: 43, Height: 60}, {At: 44, Height: 100}, {At: 55, Height: 44}, {At: 56, Height: 70}, {At: 57, Height: 64}, {At: 67, Height: 16}, {At: 70, Height: 22}, {At: 82, Height: 24}},
	"enal":                  {{At: 39, Height: 55}, {At: 41, Height: 100}, {At: 42, Height: 48}, {At: 55, Height: 90}, {At: 57, Height: 60}, {At: 69, Height: 66}, {At: 81, Height: 40}, {At: 83, Height: 58}},
	"alkenol":               {{At: 39, Height: 28}, {At: 41, Height: 95}, {At: 42, Height: 30}, {At: 55, Height: 42}, {At: 67, Height: 100}, {At: 69, Height: 22}, {At: 82, Height: 34}},
	"aromatic aldehyde":     {{At: 39, Height: 12}, {At: 50, Height: 20}, {At: 51, Height: 38}, {At: 74, Height: 8}, {At: 77, Height: 100}, {At: 78, Height: 16}, {At: 105, Height: 92}},
	"aromatic alcohol":      {{At: 39, Height: 16}, {At: 51, Height: 22}, {At: 77, Height: 62}, {At: 79, Height: 100}, {At: 80, Height: 12}, {At: 91, Height: 18}, {At: 107, Height: 60}},
	"aromatic":              {{At: 39, Height: 12}, {At: 51, Height: 9}, {At: 65, Height: 24}, {At: 91, Height: 100}, {At: 92, Height: 34}},
	"phenolic ester":        {{At: 39, Height: 18}, {At: 53, Height: 8}, {At: 63, Height: 14}, {At: 65, Height: 24}, {At: 92, Height: 66}, {At: 93, Height: 20}, {At: 120, Height: 100}, {At: 121, Height: 34}},
	"terpene":               {{At: 39, Height: 24}, {At: 41, Height: 40}, {At: 53, Height: 18}, {At: 67, Height: 38}, {At: 68, Height: 50}, {At: 77, Height: 26}, {At: 79, Height: 34}, {At: 91, Height: 30}, {At: 93, Height: 100}, {At: 121, Height: 22}},
	"terpene alcohol":       {{At: 41, Height: 62}, {At: 43, Height: 74}, {At: 55, Height: 56}, {At: 67, Height: 24}, {At: 69, Height: 60}, {At: 71, Height: 100}, {At: 80, Height: 34}, {At: 93, Height: 84}, {At: 121, Height: 26}, {At: 136, Height: 14}},
	"terpene alcohol, open": {{At: 39, Height: 20}, {At: 41, Height: 68}, {At: 53, Height: 12}, {At: 55, Height: 14}, {At: 67, Height: 18}, {At: 68, Height: 22}, {At: 69, Height: 100}, {At: 84, Height: 14}, {At: 93, Height: 22}, {At: 111, Height: 9}, {At: 121, Height: 10}, {At: 123, Height: 13}, {At: 139, Height: 6}},
	"terpene oxide":         {{At: 41, Height: 40}, {At: 43, Height: 72}, {At: 55, Height: 38}, {At: 59, Height: 100}, {At: 68, Height: 30}, {At: 81, Height: 26}, {At: 93, Height: 42}, {At: 94, Height: 46}, {At: 111, Height: 32}},
	"ionone":                {{At: 39, Height: 20}, {At: 41, Height: 48}, {At: 43, Height: 66}, {At: 67, Height: 30}, {At: 77, Height: 24}, {At: 91, Height: 32}, {At: 107, Height: 36}, {At: 109, Height: 30}, {At: 123, Height: 34}, {At: 137, Height: 38}},
	"indole":                {{At: 39, Height: 9}, {At: 58, Height: 11}, {At: 63, Height: 12}, {At: 89, Height: 30}, {At: 90, Height: 38}, {At: 116, Height: 9}},
	"jasmone":               {{At: 39, Height: 34}, {At: 41, Height: 50}, {At: 55, Height: 52}, {At: 79, Height: 82}, {At: 91, Height: 62}, {At: 93, Height: 40}, {At: 107, Height: 44}, {At: 110, Height: 60}, {At: 122, Height: 46}, {At: 135, Height: 42}, {At: 149, Height: 56}},
	"ester":                 {{At: 41, Height: 38}, {At: 43, Height: 44}, {At: 55, Height: 30}, {At: 60, Height: 26}, {At: 61, Height: 20}, {At: 70, Height: 28}, {At: 73, Height: 36}, {At: 88, Height: 100}, {At: 101, Height: 54}, {At: 141, Height: 16}},
	"alkane":                {{At: 41, Height: 32}, {At: 43, Height: 86}, {At: 55, Height: 18}, {At: 56, Height: 22}, {At: 57, Height: 100}, {At: 70, Height: 18}, {At: 71, Height: 62}, {At: 84, Height: 12}, {At: 85, Height: 44}, {At: 99, Height: 16}, {At: 113, Height: 9}},
	"ketone":                {{At: 41, Height: 22}, {At: 43, Height: 100}, {At: 55, Height: 12}, {At: 58, Height: 64}, {At: 59, Height: 16}, {At: 71, Height: 20}, {At: 85, Height: 10}},
	"alcohol":               {{At: 41, Height: 60}, {At: 42, Height: 38}, {At: 43, Height: 66}, {At: 55, Height: 84}, {At: 56, Height: 92}, {At: 69, Height: 58}, {At: 70, Height: 60}, {At: 83, Height: 36}},
}

// molecular is how high the molecule itself stands, in percent of the largest, where it is seen at all.
var molecular = map[string]float64{"aldehyde": 2, "enal": 14, "alkenol": 6, "aromatic aldehyde": 86, "aromatic alcohol": 78, "aromatic": 30, "phenolic ester": 52, "terpene": 20, "terpene alcohol, open": 2, "ionone": 22, "indole": 100, "jasmone": 66, "ester": 3, "alkane": 5, "ketone": 8}

// spectrum is that of a compound: the lines of its family, each as high as this compound makes it, with losses from the molecule and small lines of its own. The
// same compound always gives the same.
func (v volatile) spectrum() spectra.Lines {
	seed := uint64(14695981039346656037)
	for _, b := range []byte(v.name) {
		seed = (seed ^ uint64(b)) * 1099511628211
	}
	r := rand.New(rand.NewPCG(seed, 0xa20))
	heights := map[float64]float64{}
	for _, l := range fragments[v.family] {
		if l.At < v.mass {
			heights[l.At] += l.Height * math.Exp(0.32*r.NormFloat64())
		}
	}
	heights[v.mass] += molecular[v.family] * math.Exp(0.2*r.NormFloat64())
	if v.mass > 90 {
		heights[v.mass-15] += 4 + 26*r.Float64()*r.Float64()
		heights[v.mass-18] += 2 + 14*r.Float64()*r.Float64()
		heights[v.mass-29] += 1 + 20*r.Float64()*r.Float64()
	}
	for range 10 {
		m := 37 + math.Floor((v.mass-40)*r.Float64())
		heights[m] += 1 + 11*r.Float64()*r.Float64()
	}
	heights[v.mass+1] += heights[v.mass] * 0.011 * v.mass / 14
	var list spectra.Lines
	for m, h := range heights {
		if m >= 35 && h >= 0.4 {
			list = append(list, spectra.Line{At: m, Height: h})
		}
	}
	slices.SortFunc(list, func(a, b spectra.Line) int { return int(a.At - b.At) })
	list = list.Normalised(999)
	for k := range list {
		list[k].Height = math.Round(list[k].Height)
	}
	return slices.DeleteFunc(list, func(l spectra.Line) bool { return l.Height < 3 })
}

// Volatiles is the open library of the demo: the compounds of tea's aroma, and rows of plain compounds beside them. All of it is made up.
func Volatiles() []spectra.Entry {
	list := append(slices.Clone(volatiles), internalVolatile)
	for n := 5; n <= 12; n++ {
		c := float64(n)
		list = append(list,
			volatile{fmt.Sprintf("ol-%d", n), alkyl[n] + "an-1-ol", fmt.Sprintf("C%dH%dO", n, 2*n+2), 14*c + 18, 100*c + 169, "alcohol"},
			volatile{fmt.Sprintf("one-%d", n), alkyl[n] + "an-2-one", fmt.Sprintf("C%dH%dO", n, 2*n), 14*c + 16, 100*c + 191, "ketone"},
			volatile{fmt.Sprintf("ester-%d", n), "Ethyl " + alkyl[n] + "anoate", fmt.Sprintf("C%dH%dO2", n+2, 2*n+4), 14*c + 60, 100*c + 397, "ester"})
		if n != 6 && n != 9 {
			list = append(list, volatile{fmt.Sprintf("al-%d", n), alkyl[n] + "anal", fmt.Sprintf("C%dH%dO", n, 2*n), 14*c + 16, 100*c + 203, "aldehyde"})
		}
	}
	for n := 7; n <= 18; n++ {
		list = append(list, alkane(n))
	}
	entries := make([]spectra.Entry, len(list))
	for k, v := range list {
		index := v.index
		entries[k] = spectra.Entry{ID: v.id, Name: v.name, Kind: spectra.Mass, Lines: v.spectrum(), Index: &index, Formula: v.formula, Mass: v.mass, Source: "made up for the tea laboratory", Conditions: "70 eV, simulated"}
	}
	return entries
}

var alkyl = map[int]string{5: "Pent", 6: "Hex", 7: "Hept", 8: "Oct", 9: "Non", 10: "Dec", 11: "Undec", 12: "Dodec", 13: "Tridec", 14: "Tetradec", 15: "Pentadec", 16: "Hexadec", 17: "Heptadec", 18: "Octadec"}

func alkane(n int) volatile {
	return volatile{fmt.Sprintf("c%d", n), alkyl[n] + "ane", fmt.Sprintf("C%dH%d", n, 2*n+2), 14*float64(n) + 2, 100 * float64(n), "alkane"}
}
