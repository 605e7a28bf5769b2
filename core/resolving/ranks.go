package resolving

import (
	"slices"
)

// median is 0 of an empty list.
func median(values []float64) float64 {
	if len(values) == 0 {
		return 0
	}
	list, n := slices.Clone(values), len(values)
	upper := ranked(list, n/2)
	if n%2 == 1 {
		return upper
	}
	return (slices.Max(list[:n/2]) + upper) / 2 // below the rank stands nothing greater
}

// ranked is the value of a rank, from 0, of a list that it reorders: what is less stands before it, what is greater after (Hoare, Commun. ACM 4 (1961) 321).
func ranked(list []float64, rank int) float64 {
	low, high := 0, len(list)-1
	for low < high {
		pivot := list[low+(high-low)/2]
		i, j := low, high
		for i <= j {
			for list[i] < pivot {
				i++
			}
			for list[j] > pivot {
				j--
			}
			if i <= j {
				list[i], list[j] = list[j], list[i]
				i, j = i+1, j-1
			}
		}
		switch {
		case rank <= j:
			high = j
		case rank >= i:
			low = i
		default:
			return list[rank]
		}
	}
	return list[rank]
}

func weightedMedian(values, weights []float64) float64 {
	order := make([]int, len(values))
	total := 0.0
	for k := range order {
		order[k] = k
		total += weights[k]
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case values[a] < values[b]:
			return -1
		case values[a] > values[b]:
			return 1
		}
		return 0
	})
	sum := 0.0
	for _, k := range order {
		if sum += weights[k]; sum >= total/2 {
			return values[k]
		}
	}
	return 0
}
