package curves

// Spread is what one way of finding limits gave over several days.
type Spread struct {
	Way     LimitWay `json:"way"`
	Days    int      `json:"days"` // on which it gave a limit
	MeanLOD *float64 `json:"mean_lod"`
	MeanLOQ *float64 `json:"mean_loq"`
	SDLOQ   *float64 `json:"sd_loq"`
	LOD     *float64 `json:"lod"` // the largest
	LOQ     *float64 `json:"loq"`
}

// OverDays gathers the limits of several days by each way, and proposes the most cautious: of the ways that measure something the one
// whose largest quantitation limit is the largest. nil where no way gave any.
func OverDays(days [][]Limit) (ways []Spread, proposed *Spread) {
	for _, way := range LimitWays {
		var lods, loqs []float64
		for _, day := range days {
			for _, l := range day {
				if l.Way != way {
					continue
				}
				if l.LOD != nil {
					lods = append(lods, *l.LOD)
				}
				if l.LOQ != nil {
					loqs = append(loqs, *l.LOQ)
				}
			}
		}
		s := Spread{Way: way, Days: len(loqs), LOD: greatest(lods), LOQ: greatest(loqs)}
		if len(lods) > 0 {
			mean, _ := meanSD(lods)
			s.MeanLOD = &mean
		}
		if len(loqs) > 0 {
			mean, sd := meanSD(loqs)
			s.MeanLOQ = &mean
			if len(loqs) > 1 {
				s.SDLOQ = &sd
			}
		}
		ways = append(ways, s)
	}
	for i := range ways {
		s := &ways[i]
		if s.Way != ByLowestLevel && s.LOQ != nil && s.LOD != nil && (proposed == nil || *s.LOQ > *proposed.LOQ) {
			proposed = s
		}
	}
	return ways, proposed
}

func greatest(values []float64) *float64 {
	if len(values) == 0 {
		return nil
	}
	most := values[0]
	for _, v := range values {
		most = max(most, v)
	}
	return &most
}
