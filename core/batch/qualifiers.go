package batch

import (
	"fmt"
	"math"

	"yugen/core/amounts"
	"yugen/core/checks"
	"yugen/core/compounds"
)

// QualifierReading is what one qualifier of a compound says in one injection.
type QualifierReading struct {
	Channel string `json:"channel"`
	// Ratio is the qualifier's response over the compound's own; nil where the qualifier has no peak at its time.
	Ratio *float64 `json:"ratio"`
	// Expected is what the method says, or the mean of the standards; nil where there are none with both peaks.
	Expected *float64 `json:"expected"`
	Within   bool     `json:"within"`
	// PeakNumber is the peak in the qualifier's channel.
	PeakNumber *int `json:"peak_number"`
	// SignalToNoise is that of this peak, 2 H / h.
	SignalToNoise *float64 `json:"signal_to_noise"`
}

// qualify holds every compound's qualifiers against their ratios in every injection where the compound was found.
func (p *process) qualify() {
	for _, c := range p.method.Compounds {
		for _, q := range c.Qualifiers {
			expected := p.expectedRatio(c, q)
			for i := range p.result.Injections {
				in := &p.result.Injections[i]
				own := in.PeakOf(c.ID)
				if own == nil || p.injections[i].Typed != nil {
					continue
				}
				r := QualifierReading{Channel: p.method.channelOf(q.Channel), Expected: expected}
				if peak := in.at(r.Channel, own); peak != nil {
					ratio := p.measure(peak) / p.measure(own)
					r.Ratio, r.PeakNumber, r.SignalToNoise = &ratio, &peak.Number, peak.SignalToNoise
					r.Within = expected != nil && math.Abs(ratio / *expected - 1) <= q.Percent(*expected)/100
				}
				if in.Qualifiers == nil {
					in.Qualifiers = map[string][]QualifierReading{}
				}
				in.Qualifiers[c.ID] = append(in.Qualifiers[c.ID], r)
			}
		}
	}
}

// expectedRatio is the method's, or the mean over the standards that hold the compound and show both peaks.
func (p *process) expectedRatio(c compounds.Compound, q compounds.Qualifier) *float64 {
	if q.Ratio > 0 {
		return &q.Ratio
	}
	var ratios []float64
	for i := range p.result.Injections {
		in := &p.result.Injections[i]
		if p.injections[i].Role != Standard {
			continue
		}
		if own := in.PeakOf(c.ID); own != nil {
			if peak := in.at(p.method.channelOf(q.Channel), own); peak != nil {
				ratios = append(ratios, p.measure(peak)/p.measure(own))
			}
		}
	}
	return amounts.Summarise(ratios).Mean
}

// at is the peak of a channel that elutes with another one: its apex lies within half the other's width at half height, the nearest where there are several.
func (in *Injected) at(channelID string, own *NamedPeak) *NamedPeak {
	reach := (own.EndMin - own.StartMin) / 4
	if own.WidthHalfMin != nil {
		reach = *own.WidthHalfMin / 2
	}
	var nearest *NamedPeak
	for _, channel := range in.EachChannel() {
		if channel.Channel != channelID {
			continue
		}
		for i := range channel.Peaks {
			if d := math.Abs(channel.Peaks[i].ApexMin - own.ApexMin); d <= reach {
				nearest, reach = &channel.Peaks[i], d
			}
		}
	}
	return nearest
}

// judgeQualifiers gives a notice for each sample and check whose ratio is not what it must be.
func (p *process) judgeQualifiers() {
	for _, c := range p.method.Compounds {
		for k, q := range c.Qualifiers {
			name := p.method.ChannelTitle(q.Channel)
			kind := checks.QualifierRatio + "_" + checks.Kind(q.Channel) // each of a compound's qualifiers has notices of its own
			o := checks.Outcome{Kind: checks.QualifierRatio, Measure: "ratio of " + name, CompoundID: c.ID, Unit: "%", Low: ptrTo(-q.TolerancePercent), High: ptrTo(q.TolerancePercent)}
			for i := range p.result.Injections {
				in := p.result.Injections[i]
				role := p.injections[i].Role
				if len(in.Qualifiers[c.ID]) <= k || role != Sample && role != Check {
					continue
				}
				r := in.Qualifiers[c.ID][k]
				if r.Expected == nil {
					continue
				}
				if r.Ratio == nil {
					p.notice(checks.New(kind, checks.Decide, checks.Peaks, in.ID, c.ID, p.replicateName(i), fmt.Sprintf("%s has no peak in %s, where %.3g of its own is expected", c.Name, name, *r.Expected)))
					continue
				}
				percent := 100 * (*r.Ratio / *r.Expected - 1)
				o.Low, o.High = ptrTo(-q.Percent(*r.Expected)), ptrTo(q.Percent(*r.Expected))
				o.Worst(percent, in.ID)
				if !r.Within {
					p.notice(checks.New(kind, checks.Decide, checks.Peaks, in.ID, c.ID, p.replicateName(i), fmt.Sprintf("%s in %s is %.3g of its own peak, %.3g ± %g %% is expected", c.Name, name, *r.Ratio, *r.Expected, math.Round(10*q.Percent(*r.Expected))/10)))
				}
			}
			p.outcome(o)
		}
	}
}

func ptrTo(v float64) *float64 { return &v }
