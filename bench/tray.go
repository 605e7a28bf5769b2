package bench

import (
	"fmt"
	"maps"
	"math"

	"yugen/core/spectra"
)

// Solute is a compound in what is injected, as an instrument meets it: the shape and area of its peak under the usual programme, and what detectors see of it.
type Solute struct {
	Component
	// Second is its response at the second wavelength over that at the first.
	Second float64
	// BestNm is where it absorbs most, in nm, besides at the short end; 0 where nothing is known.
	BestNm float64
	// Lines are its spectrum, the largest of height 1; only where a mass detector looks. AreaS is then that of the largest line.
	Lines spectra.Lines
}

// Absorbs is how much it absorbs at a wavelength, 1 at 278 nm: a band, as wide as its response at 254 nm asks for, and the end of one far in the ultraviolet.
func (s Solute) Absorbs(nm float64) float64 {
	if s.BestNm == 0 || s.Second <= 0 || s.Second >= 1 {
		return 1
	}
	off := func(at float64) float64 { return (at - s.BestNm) * (at - s.BestNm) }
	twice := (off(254) - off(278)) / -math.Log(s.Second) // the square of the width, twice
	return math.Exp((off(278)-off(nm))/twice) + 2.5*math.Exp(-math.Pow((nm-205)/9, 2)/2)
}

// Solution is what a vial holds.
type Solution struct {
	Name    string
	Solutes []Solute
}

// Programme is the condition that a run changes while it lasts, as straight lines between points: minutes and value.
type Programme [][2]float64

// At is its value at a time; before the first point and behind the last it stands.
func (p Programme) At(tMin float64) float64 {
	if len(p) == 0 {
		return 0
	}
	for i := 1; i < len(p); i++ {
		if tMin < p[i][0] {
			if tMin <= p[i-1][0] {
				return p[i-1][1]
			}
			return p[i-1][1] + (p[i][1]-p[i-1][1])*(tMin-p[i-1][0])/(p[i][0]-p[i-1][0])
		}
	}
	return p[len(p)-1][1]
}

// The programmes that the demo studies were measured with: percent B of the tea assay, oven temperatures (°C) of oil and aroma.
var (
	TeaGradient = Programme{{0, 5}, {1, 5}, {14, 60}, {15.5, 60}, {16, 5}, {18, 5}}
	OilOven     = Programme{{0, 150}, {1, 150}, {11, 240}, {16, 240}}
	AromaOven   = Programme{{0, 40}, {2, 40}, {24, 216}, {27, 230}}
)

// TeaTray is the tray of the tea assay by place: a blank, standards, the check, and each tea twice.
func TeaTray() map[string]Solution {
	tray := map[string]Solution{"A1": {Name: "Blank"}, "A8": teaSolution("Check", equal(checkLevel))}
	for l, level := range levels {
		tray[fmt.Sprintf("A%d", l+2)] = teaSolution(fmt.Sprintf("Standard %g mg/L", level), equal(level))
	}
	for t, tea := range teas {
		for r := range 2 {
			contents := map[string]float64{}
			for i, a := range analytes {
				contents[a.id] = tea.contents[i] * 0.2 / (teaVolume / 1000) / teaDilution
			}
			s := teaSolution(tea.name, contents)
			for _, u := range unknowns {
				s.Solutes = append(s.Solutes, Solute{Component: Component{"", u.shape, u.area}, Second: secondWavelength[""], BestNm: bestNm[""]})
			}
			tray[fmt.Sprintf("%c%d", 'B'+(2*t+r)/8, (2*t+r)%8+1)] = s
		}
	}
	return tray
}

func teaSolution(name string, contents map[string]float64) Solution {
	s := Solution{Name: name}
	for _, a := range append(analytes[:len(analytes):len(analytes)], internal) {
		content := contents[a.id]
		if a.id == internal.id {
			content = internalContent
		}
		s.Solutes = append(s.Solutes, Solute{Component: Component{a.id, a.shape, a.response * content}, Second: secondWavelength[a.id], BestNm: bestNm[a.id]})
	}
	return s
}

// OilTray is the tray of the oil study: a blank, the standard, and each oil twice.
func OilTray() map[string]Solution {
	tray := map[string]Solution{"1": {Name: "Blank"}}
	of := func(name string, content func(k int) float64) Solution {
		s := Solution{Name: name}
		for k, e := range esters {
			s.Solutes = append(s.Solutes, Solute{Component: Component{e.id, e.shape, e.response * content(k)}})
		}
		return s
	}
	tray["2"] = of(fmt.Sprintf("Standard %g mg/L", oilLevel), func(int) float64 { return oilLevel })
	for k, o := range oils {
		for r := range 2 {
			tray[fmt.Sprint(3+2*k+r)] = of(o.name, func(k int) float64 { return o.shares[k] / 100 * oilTotal })
		}
	}
	return tray
}

// AromaTray is the tray of the aroma study: a blank, the ladder, the mix, and each tea twice.
func AromaTray() map[string]Solution {
	mix, ladder := map[string]float64{"is": mixLevel}, map[string]float64{}
	for _, v := range volatiles[:20] {
		mix[v.id] = mixLevel
	}
	for n := range ladderMin {
		ladder[alkane(n).id] = 12
	}
	tray := map[string]Solution{"1": {Name: "Blank"}, "2": aromaSolution("Alkanes C8 to C17", ladder), "3": aromaSolution(fmt.Sprintf("Aroma mix %g mg/L", mixLevel), mix)}
	for k, tea := range aromas {
		contents := map[string]float64{"is": mixLevel}
		for i, v := range tea.contents {
			contents[volatiles[i].id] = v
		}
		for r := range 2 {
			tray[fmt.Sprint(4+2*k+r)] = aromaSolution(tea.name, maps.Clone(contents))
		}
	}
	return tray
}

func aromaSolution(name string, contents map[string]float64) Solution {
	s := Solution{Name: name}
	for _, v := range aromaCompounds() {
		if contents[v.id] > 0 {
			s.Solutes = append(s.Solutes, Solute{Component: Component{v.id, Shape{at(v.index), 0.028 + 0.0004*at(v.index), 0.012}, aromaUnit * contents[v.id]}, Lines: v.spectrum().Normalised(1)})
		}
	}
	return s
}

// Bleed are the lines that a column gives off and those of air, in counts at a cool oven; the first two are air's.
func Bleed() spectra.Lines { return bleed }

// At is the shape of unit area at a time (min), per minute.
func (s Shape) At(tMin float64) float64 { return s.at(tMin) }
