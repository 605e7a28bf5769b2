package batch

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/peaks"
)

// judge gathers everything in the batch that wants a human eye.
func (p *process) judge() {
	p.result.Notices = []checks.Notice{}
	p.judgeRunList()
	p.judgePeaks()
	p.judgeInternalStandards()
	p.judgeNames()
	p.judgeDrift()
	p.judgeCurves()
	p.judgeBlanks()
	p.judgeChecks()
	p.judgeUnread()
	p.judgeSamples()
	p.judgeDoubts()
	p.outcomes()
	p.judgeQualifiers()
	p.judgeConditions()
}

func (p *process) notice(n checks.Notice) { p.result.Notices = append(p.result.Notices, n) }

func (p *process) judgeRunList() {
	for i, in := range p.injections {
		name := p.replicateName(i)
		switch {
		case in.Role == NoRole:
			p.notice(checks.New(checks.NoName, checks.Decide, checks.Batch, in.ID, "", name, "no role: is it a blank, a standard, a check or a sample?"))
		case (in.Role == Standard || in.Role == Check) && in.Level == nil:
			p.notice(checks.New(checks.NoLevel, checks.Decide, checks.Batch, in.ID, "", name, "no level"))
		case in.Role == Sample && !p.method.Amounts.Prepared(): // needs no preparation
		case in.Role == Sample && in.Sample == nil:
			p.notice(checks.New(checks.NoSampleAmount, checks.Decide, checks.Batch, in.ID, "", name, "no sample amount"))
		case in.Role == Sample && in.Volume == nil:
			p.notice(checks.New(checks.NoSampleAmount, checks.Decide, checks.Batch, in.ID, "", name, "no extract volume"))
		}
	}
}

func (p *process) judgePeaks() {
	for i := range p.result.Injections {
		in := &p.result.Injections[i]
		for _, channel := range in.EachChannel() {
			p.judgeChannel(i, channel)
		}
		for _, c := range p.method.Compounds {
			if d := p.droppedFor(in, c); d != nil {
				p.notice(checks.New(checks.Unmeasured, checks.Decide, checks.Peaks, in.ID, c.ID, p.replicateName(i), fmt.Sprintf("a peak for %s at %.2f min was found and not measured: %s", c.Name, d.ApexMin, d.Reason)))
			}
		}
	}
	for _, c := range p.method.Compounds {
		p.judgeResolution(c)
	}
}

// judgeChannel says what is wrong with the peaks of one channel of one injection.
func (p *process) judgeChannel(i int, in *Integrated) {
	id, name := p.injections[i].ID, p.replicateName(i)
	if in.Problem != "" {
		p.notice(checks.New(checks.Unmeasured, checks.Decide, checks.Peaks, id, "", name, "could not be integrated: "+in.Problem))
	}
	for _, e := range in.Unmatched {
		p.notice(checks.New(checks.LostEdit, checks.Decide, checks.Peaks, id, "", name, fmt.Sprintf("an edit at %.2f min no longer has its peak and is not applied", e.ApexMin)))
	}
	for _, peak := range in.Peaks {
		if peak.CompoundID != "" && slices.Contains(peak.Flags, peaks.FitFailed) {
			p.notice(checks.New(checks.NoFit, checks.Decide, checks.Peaks, id, peak.CompoundID, name, fmt.Sprintf("no fitted shape holds at %.2f min; it is parted by a drop", peak.ApexMin)))
		}
		if peak.CompoundID != "" && slices.Contains(peak.Flags, peaks.StraightSkim) {
			p.notice(checks.New(checks.NoFit, checks.Know, checks.Peaks, id, peak.CompoundID, name, fmt.Sprintf("the tail at %.2f min cannot be followed as a decay; it stands on a straight tangent", peak.ApexMin)))
		}
		if peak.CompoundID != "" && slices.Contains(peak.Flags, peaks.Saturated) {
			p.notice(checks.New(checks.CutOff, checks.Decide, checks.Peaks, id, peak.CompoundID, name, "the detector cut off the top at "+fmt.Sprintf("%.2f min", peak.ApexMin)))
		}
	}
}

// droppedFor is a dropped peak in a compound's window, where no other has its name.
func (p *process) droppedFor(in *Injected, c compounds.Compound) *peaks.Dropped {
	if in.PeakOf(c.ID) != nil {
		return nil
	}
	at, moved := in.Places[c.ID]
	if !moved {
		at = c.Place()
	}
	for _, channel := range in.EachChannel() {
		if channel.Channel != p.method.channelOf(c.Channel) {
			continue
		}
		for i, d := range channel.Dropped {
			if math.Abs(d.ApexMin-at.ExpectedMin) <= at.HalfMin {
				return &channel.Dropped[i]
			}
		}
	}
	return nil
}

// judgeResolution gives one notice a compound, on the sample in which it is parted worst.
func (p *process) judgeResolution(c compounds.Compound) {
	if c.MinResolution == 0 {
		return
	}
	worst, least, count, total := -1, math.Inf(1), 0, 0
	for i := range p.result.Injections {
		if r := p.result.Injections[i].resolution(c); r != nil {
			total++
			if *r < c.MinResolution {
				count++
				if *r < least {
					worst, least = i, *r
				}
			}
		}
	}
	if worst >= 0 {
		p.notice(checks.New(checks.LowResolution, checks.Know, checks.Peaks, p.injections[worst].ID, c.ID, c.Name,
			fmt.Sprintf("resolution down to %.2f, below %.2g in %d of %d injections", least, c.MinResolution, count, total)))
	}
}

// resolution is that to the previous peak, or to the one that the method names; nil where it cannot be had.
func (in *Injected) resolution(c compounds.Compound) *float64 {
	peak := in.PeakOf(c.ID)
	if peak == nil {
		return nil
	}
	if c.ResolutionTo == "" {
		return peak.Resolution
	}
	other := in.PeakOf(c.ResolutionTo)
	if other == nil {
		return nil
	}
	return peaks.Resolution(peak.Peak, other.Peak)
}

// judgeInternalStandards compares the response of each in every injection with its mean over the batch.
func (p *process) judgeInternalStandards() {
	standards := p.method.InternalStandards()
	for _, is := range standards {
		p.judgeInternalStandard(is)
	}
	for i, in := range p.injections {
		if text := in.strangeInternal(standards); text != "" && len(standards) > 0 {
			p.notice(checks.New(checks.InternalDrift, checks.Decide, checks.Batch, in.ID, "", p.replicateName(i), text))
		}
	}
}

func (p *process) judgeInternalStandard(is compounds.Compound) {
	sum, n := 0.0, 0.0
	for i := range p.result.Injections {
		if peak := p.result.Injections[i].PeakOf(is.ID); peak != nil && p.injections[i].Role != Blank {
			sum, n = sum+p.measure(peak), n+1
		}
	}
	called := "the internal standard"
	if p.internals > 1 {
		called = is.Name
	}
	for i := range p.result.Injections {
		in := &p.result.Injections[i]
		peak := in.PeakOf(is.ID)
		switch {
		case p.injections[i].Role == Blank:
		case peak == nil && n > 0:
			p.notice(checks.New(checks.InternalDrift, checks.Decide, checks.Peaks, in.ID, is.ID, p.replicateName(i), called+" was not found"))
		case peak != nil:
			percent, outside := p.method.Checks.ResponseOutside(p.measure(peak), sum/n)
			if in.InternalStandards == nil {
				in.InternalStandards = map[string]float64{}
			}
			in.InternalStandards[is.ID] = percent
			if outside {
				p.notice(checks.New(checks.InternalDrift, checks.Decide, checks.Peaks, in.ID, is.ID, p.replicateName(i), strings.TrimPrefix(called, "the ")+" "+lowOrHigh(percent)))
			}
		}
	}
}

// judgeNames finds standards and checks in which a compound is missing although others at that level have it.
func (p *process) judgeNames() {
	for _, c := range p.method.Targets() {
		held := map[float64]bool{}
		for i, in := range p.injections {
			if (in.Role == Standard || in.Role == Check) && in.Level != nil && p.result.Injections[i].PeakOf(c.ID) != nil {
				held[*in.Level] = true
			}
		}
		for i, in := range p.injections {
			if in.Role != Standard && in.Role != Check {
				continue
			}
			if _, holds := p.holds(in.Entry, c); holds && held[*in.Level] && p.result.Injections[i].PeakOf(c.ID) == nil {
				p.notice(checks.New(checks.NotFound, checks.Decide, checks.Compounds, in.ID, c.ID, c.Name, "not found in "+p.replicateName(i)))
			}
		}
	}
}

// nearEdge is how far into its window, as a share, a peak may stand before that is told: before it would have to be widened.
const nearEdge = 0.8

// judgeDrift gives one notice a compound, on the injection in which it stands nearest to the edge of its window.
func (p *process) judgeDrift() {
	for _, c := range p.method.Compounds {
		worst, share := -1, nearEdge
		for i := range p.result.Injections {
			in := &p.result.Injections[i]
			peak := in.PeakOf(c.ID)
			if peak == nil {
				continue
			}
			at, moved := in.Places[c.ID]
			if !moved {
				at = c.Place()
			}
			if s := math.Abs(peak.ApexMin-at.ExpectedMin) / at.HalfMin; s > share {
				worst, share = i, s
			}
		}
		if worst >= 0 {
			p.notice(checks.New(checks.NearEdge, checks.Know, checks.Compounds, p.injections[worst].ID, c.ID, c.Name,
				fmt.Sprintf("at %.0f %% of the way to the edge of its window in %s", 100*share, p.replicateName(worst))))
		}
	}
}

func (p *process) judgeCurves() {
	standards := slices.ContainsFunc(p.injections, func(in Injection) bool { return in.Role == Standard })
	for _, c := range p.result.Curves {
		name := p.compoundName(c.CompoundID)
		limit := p.method.Checks.Deviation
		switch {
		case c.Fit == nil && standards && p.method.Curves.Way != ByAddition:
			p.notice(checks.New(checks.NoCurve, checks.Decide, checks.Curves, "", c.CompoundID, name, "no curve: "+c.Problem))
		case c.Fit != nil && limit > 0 && c.Verdict.Largest != nil && math.Abs(*c.Verdict.Largest) > limit:
			p.notice(checks.New(checks.LevelOff, checks.Decide, checks.Curves, "", c.CompoundID, name, c.Verdict.Doubt))
		}
	}
}

// judgeUnread tells of checks that hold a compound and could not be read.
func (p *process) judgeUnread() {
	for i, in := range p.injections {
		for _, c := range p.result.Curves {
			if c.Fit == nil {
				continue
			}
			r := p.result.Injections[i].Readings[c.CompoundID]
			if _, held := p.checkContent(in.Entry, c.CompoundID); held && r.PeakNumber != nil && r.Concentration == nil {
				p.notice(checks.New(checks.Recovery, checks.Decide, checks.Results, in.ID, c.CompoundID, p.compoundName(c.CompoundID),
					fmt.Sprintf("%s cannot be read: %s", p.replicateName(i), r.Problem)))
			}
		}
	}
}

// judgeBlanks compares what blanks hold with the lowest level in use, and names the injection it may have come from.
func (p *process) judgeBlanks() {
	for _, c := range p.result.Curves {
		lowest, ok := p.lowestMeasure(c)
		if !ok {
			continue
		}
		for i, in := range p.injections {
			peak := p.result.Injections[i].PeakOf(c.CompoundID)
			if in.Role != Blank || peak == nil {
				continue
			}
			percent, outside := p.method.Checks.BlankOutside(p.measure(peak), lowest)
			if !outside {
				continue
			}
			text := fmt.Sprintf("%s at %.0f %% of the lowest level", p.compoundName(c.CompoundID), percent)
			if i > 0 && p.result.Injections[i-1].PeakOf(c.CompoundID) != nil {
				text += fmt.Sprintf(", carried over from %s", p.injections[i-1].Name)
			}
			p.notice(checks.New(checks.CarryOver, checks.Decide, checks.Peaks, in.ID, c.CompoundID, in.Name, text))
		}
	}
}

// lowestMeasure is the mean area or height of a compound in the standards of the lowest level in use.
func (p *process) lowestMeasure(c Curve) (mean float64, ok bool) {
	if c.Fit == nil {
		return 0, false
	}
	lowest, _ := c.lowestInUse()
	n := 0.0
	for _, q := range lowest {
		if q.Measure != 0 {
			mean, n = mean+q.Measure, n+1
		}
	}
	return mean / n, n > 0
}

func (p *process) judgeChecks() {
	for _, row := range p.result.Checks {
		if row.Outside {
			i := slices.IndexFunc(p.injections, func(in Injection) bool { return in.ID == row.InjectionID })
			p.notice(checks.New(checks.Recovery, checks.Decide, checks.Results, row.InjectionID, row.CompoundID,
				p.compoundName(row.CompoundID), fmt.Sprintf("%s reads %.1f %%", p.replicateName(i), row.Recovery)))
		}
	}
}

func (p *process) judgeSamples() {
	for _, s := range p.result.Samples {
		ids := make([]string, 0, len(s.Values))
		for id := range s.Values {
			ids = append(ids, id)
		}
		slices.SortFunc(ids, func(a, b string) int { return cmp.Compare(p.compoundName(a), p.compoundName(b)) })
		for _, id := range ids {
			v := s.Values[id]
			first := s.InjectionIDs[0]
			if slices.Contains(v.Flags, AboveRange) {
				p.notice(checks.New(checks.AboveRange, checks.Decide, checks.Results, first, id, p.compoundName(id), "above the range of its curve in "+s.Name+p.dilution(s, id)))
			}
			limit := p.method.Checks.ReplicateRSD
			if limit > 0 && v.RSD != nil && *v.RSD > limit && !slices.Contains(v.Flags, BelowRange) {
				p.notice(checks.New(checks.Spread, checks.Decide, checks.Results, first, id, p.compoundName(id), fmt.Sprintf("replicates of %s differ by %.1f %% RSD", s.Name, *v.RSD)))
			}
		}
	}
}

// dilution says which further dilution would bring a sample into the range.
func (p *process) dilution(s SampleRow, compoundID string) string {
	most := 0.0
	for i, in := range p.injections {
		if d := p.result.Injections[i].Readings[compoundID].Dilute; d != nil && slices.Contains(s.InjectionIDs, in.ID) {
			most = math.Max(most, *d)
		}
	}
	if most == 0 {
		return ""
	}
	return fmt.Sprintf("; diluted %.1f times more it would lie inside", most)
}

func (p *process) compoundName(id string) string {
	for _, c := range p.method.Compounds {
		if c.ID == id {
			return c.Name
		}
	}
	return id
}
