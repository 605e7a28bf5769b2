// Package summary sets measures, compounds and injections against each other, with statistics over groups of injections.
package summary

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"yugen/core/quantities"
)

// Statistics are those of one measure of one compound over a group of injections. What too few values allow is absent: it is never told of a single value.
type Statistics struct {
	N      int      `json:"n"`  // how many injections gave a value
	Of     int      `json:"of"` // how many the group has
	Mean   *float64 `json:"mean"`
	SD     *float64 `json:"sd"`               // of the sample, n − 1
	RSD    *float64 `json:"rsd_percent"`      // of the mean's size
	Half   *float64 `json:"interval_95_half"` // of the mean's interval, by Student's t
	Least  *float64 `json:"least"`
	Most   *float64 `json:"most"`
	Median *float64 `json:"median"`
}

// Of are the statistics of values, of which absent ones count only among all. Sources: mean and standard deviation by their definitions; the interval of a
// mean is t(0.975, n − 1) s/√n (Student, Biometrika 6 (1908) 1).
func Of(values []*float64) Statistics {
	s := Statistics{Of: len(values)}
	var there []float64
	for _, v := range values {
		if v != nil && !math.IsNaN(*v) && !math.IsInf(*v, 0) {
			there = append(there, *v)
		}
	}
	s.N = len(there)
	if s.N == 0 {
		return s
	}
	sort.Float64s(there)
	mean, least, most, median := stat.Mean(there, nil), there[0], there[s.N-1], middle(there)
	s.Mean, s.Least, s.Most, s.Median = &mean, &least, &most, &median
	if s.N < 2 {
		return s
	}
	sd := stat.StdDev(there, nil)
	t := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(s.N - 1)}.Quantile(0.975)
	half := t * sd / math.Sqrt(float64(s.N))
	s.SD, s.Half = &sd, &half
	if mean != 0 {
		rsd := 100 * sd / math.Abs(mean)
		s.RSD = &rsd
	}
	return s
}

// middle is the median of sorted values.
func middle(sorted []float64) float64 {
	n := len(sorted)
	if n%2 == 1 {
		return sorted[n/2]
	}
	return (sorted[n/2-1] + sorted[n/2]) / 2
}

// Group is a set of injections, by their places among those that are looked at.
type Group struct {
	Name       string `json:"name"`
	Injections []int  `json:"injections"`
}

// All is the name of the group of all injections, which stands last where there are others.
const All = "All"

// Groups puts injections of one key together, in the order in which the keys first come. Where there are several, all together are the last one.
func Groups(n int, key func(int) string) []Group {
	var list []Group
	all := Group{Name: All, Injections: []int{}}
	for i := range n {
		all.Injections = append(all.Injections, i)
		k := key(i)
		at := slices.IndexFunc(list, func(g Group) bool { return g.Name == k })
		if at < 0 {
			at = len(list)
			list = append(list, Group{Name: k})
		}
		list[at].Injections = append(list[at].Injections, i)
	}
	if len(list) != 1 {
		list = append(list, all)
	}
	return list
}

// Cube are values of measures × compounds × injections with the statistics of each group.
type Cube struct {
	Values     [][][]*float64   `json:"values"`
	Statistics [][][]Statistics `json:"statistics"` // measures × compounds × groups
	// Decimals are how many a value of a measure of a compound is shown with.
	Decimals [][]int `json:"decimals"`
}

// Values are those of measures in rows, measures × columns × rows.
func Values(measures []quantities.Quantity, columns []Column, rows []quantities.Row) [][][]*float64 {
	out := make([][][]*float64, len(measures))
	for m, q := range measures {
		out[m] = make([][]*float64, len(columns))
		for c, column := range columns {
			out[m][c] = make([]*float64, len(rows))
			for i, r := range rows {
				out[m][c][i] = column.Of(q, r)
			}
		}
	}
	return out
}

// Build takes the statistics of values over groups of injections.
func Build(measures []quantities.Quantity, values [][][]*float64, groups []Group) Cube {
	c := Cube{Values: values, Statistics: [][][]Statistics{}, Decimals: [][]int{}}
	for m, q := range measures {
		statistics, decimals := [][]Statistics{}, []int{}
		for _, own := range values[m] {
			of := make([]Statistics, len(groups))
			for g, group := range groups {
				part := make([]*float64, len(group.Injections))
				for k, i := range group.Injections {
					part[k] = own[i]
				}
				of[g] = Of(part)
			}
			statistics, decimals = append(statistics, of), append(decimals, decimalsOf(q.Kind, own))
		}
		c.Statistics, c.Decimals = append(c.Statistics, statistics), append(c.Decimals, decimals)
	}
	return c
}

// decimalsOf are those with which all values of a column stand: fixed by their kind, or so many that the least of them keeps four significant digits.
func decimalsOf(kind quantities.Kind, values []*float64) int {
	switch kind {
	case quantities.Count:
		return 0
	case quantities.Time:
		return 3
	case quantities.Ratio, quantities.Percent:
		return 2
	}
	least := math.Inf(1)
	for _, v := range values {
		if v != nil && *v != 0 {
			least = math.Min(least, math.Abs(*v))
		}
	}
	if math.IsInf(least, 1) {
		return 2
	}
	return max(0, min(9, 3-int(math.Floor(math.Log10(least)))))
}
