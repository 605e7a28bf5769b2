package resolving

import "yugen/core/spectra"

// Of parting amounts.
const (
	partingRounds = 8
	littleMixed   = 0.002 // share of a component's amounts; what could still be taken off it is no more
)

// partings turns factors, as far as noise allows, towards amounts that leave each other alone: where one elutes without another, that other has nothing. Spectra of
// light are broad and nowhere nothing, so that factors which differ by a third in their amounts fit them equally well (rotational ambiguity; Lawton & Sylvestre,
// Technometrics 13 (1971) 617); of those the column makes these, since each compound begins and ends alone. Among masses, which compounds have to themselves, the
// spectra say it better: they are left as they are.
func (p *prepared) partings(f factors) factors {
	if p.stack.Kind != spectra.Wavelength {
		return f
	}
	w := newTable(p.x.n, p.x.p)
	for range partingRounds {
		p.weigh(f.amounts, f.spectra, w)
		known := newTable(p.x.n, f.k())
		multiplyBy(w, squared(f.spectra), known)
		if p.partOnce(f, known) < littleMixed {
			break
		}
		f = p.polish(f, 1)
	}
	return f
}

// partOnce takes off each component what it may have of each other one, and gives the largest share of its amounts that was.
func (p *prepared) partOnce(f factors, known table) (most float64) {
	for a := range f.k() {
		for b := range f.k() {
			if a == b || f.background[a] || f.background[b] {
				continue
			}
			t := furthest(f.amounts.column(b), f.amounts.column(a), known.column(b))
			if t == 0 || t == topT { // nothing, or they never elute together
				continue
			}
			for j := range f.spectra.n {
				row := f.spectra.row(j)
				row[a] += t * row[b]
			}
			taken, all := 0.0, 0.0
			for i := range f.amounts.n {
				row := f.amounts.row(i)
				all += row[b]
				less := min(row[b], t*row[a])
				row[b] -= less
				taken += less
			}
			most = max(most, taken/max(all, 1e-300))
		}
	}
	return most
}
