package lab

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/report"
	"yugen/report/layouts"
)

// Bounds of reports that are made together.
const (
	maxSetFiles = 10_000
	maxJoined   = 2000 // in one PDF
)

// planned is a set that can be made: its layout, what it is made of, and its files.
type planned struct {
	layout   KeptLayout
	one      layouts.Layout
	base     report.Input
	subjects []report.Subject
	set      ReportSet
}

// PlanSet says what would be made, under which names, and what would be held back.
func (l *Lab) PlanSet(ctx context.Context, batchID string, asked SetAsked) (ReportSet, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return ReportSet{}, err
	}
	plan, err := l.plan(ctx, p, asked)
	return plan.set, err
}

func (l *Lab) plan(ctx context.Context, p Processed, asked SetAsked) (planned, error) {
	var plan planned
	kept, err := l.layout(ctx, p.Batch.ID, asked.Layout)
	if err != nil {
		return plan, err
	}
	one := kept.Layout
	if asked.Each != "" {
		one.Each = asked.Each
	}
	if err := one.Validate(); err != nil {
		return plan, refuse("%s", err)
	}
	if asked.Formats, err = l.formatsFor(asked); err != nil {
		return plan, err
	}
	base, err := l.reportOf(ctx, p, "", "")
	if err != nil {
		return plan, err
	}
	subjects := base.Subjects(one.Each)
	if one.Each == layouts.EachInjection && !asked.All {
		subjects = base.OnlySamples(subjects)
	}
	if n := len(subjects) * len(asked.Formats); n > maxSetFiles {
		return plan, refuse("these would be %d files; at most %d are made together", n, maxSetFiles)
	}
	names, err := report.FileNames(one, base, subjects, asked.Names)
	if err != nil {
		return plan, refuseAt("/names", "%s", err)
	}
	plan = planned{layout: kept, one: one, base: base, subjects: subjects, set: ReportSet{State: Waits, LayoutName: kept.Layout.Name, LayoutVersion: kept.Version, InputsHash: p.InputsHash, Asked: asked, Files: []ReportFile{}}}
	for k, s := range subjects {
		says, err := l.heldBack(ctx, p, plan, s)
		if err != nil {
			return plan, err
		}
		for _, as := range asked.Formats {
			f := ReportFile{Position: len(plan.set.Files), InjectionID: s.InjectionID, Sample: s.Sample, Injections: injectionsOf(p, s), Name: names[k], Format: as, State: Waits, Sent: []DeliveryState{}}
			if says != "" && !slices.Contains(asked.Despite, s.InjectionID+s.Sample) {
				f.State, f.Says = Held, says
			}
			plan.set.Files = append(plan.set.Files, f)
		}
	}
	if asked.Joined && len(subjects) > maxJoined {
		return plan, refuseAt("/joined", "one PDF holds %d reports at most, and these are %d", maxJoined, len(subjects))
	}
	if asked.Joined && one.Each != layouts.EachBatch && slices.Contains(asked.Formats, report.AsPDF) && len(subjects) > 0 {
		all := ReportFile{Position: len(plan.set.Files), Injections: []string{}, Name: joinedName(p.Batch.Name, names), Format: report.AsPDF, State: Waits, Joined: true, Sent: []DeliveryState{}}
		if !slices.ContainsFunc(plan.set.Files, func(f ReportFile) bool { return f.State == Waits }) {
			all.State, all.Says = Held, "none is made that could stand in it"
		}
		plan.set.Files = append(plan.set.Files, all)
	}
	return plan, nil
}

// joinedName is that of the file that holds all reports: of the batch, unless one of them has it already.
func joinedName(batch string, names []string) string {
	name := report.FileName(batch + ", all")
	for slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
		name += " together"
	}
	return name
}

// formatsFor are the formats that are made: what is sent to a receiver has its numbers as JSON beside it.
func (l *Lab) formatsFor(asked SetAsked) ([]report.FileKind, error) {
	var list []report.FileKind
	for _, f := range asked.Formats {
		if !slices.Contains(report.FileKinds, f) {
			return nil, refuseAt("/formats", "%q is no format of a report", f)
		}
		if !slices.Contains(list, f) {
			list = append(list, f)
		}
	}
	for _, to := range asked.To {
		switch {
		case to == ToFolder && l.Folder == "":
			return nil, refuseAt("/to", "no folder for reports is named; start with --reports")
		case to == ToReceiver && l.Receiver == "":
			return nil, refuseAt("/to", "no receiver is named; start with --receiver")
		case to != ToFolder && to != ToReceiver:
			return nil, refuseAt("/to", "reports go to a folder or a receiver, not to %q", to)
		}
	}
	if slices.Contains(asked.To, ToReceiver) && !slices.Contains(list, report.AsJSON) {
		list = append(list, report.AsJSON)
	}
	if len(list) == 0 {
		return nil, refuseAt("/formats", "choose a format")
	}
	return list, nil
}

// injectionsOf are the injections of a subject; none are those of the whole batch.
func injectionsOf(p Processed, s report.Subject) []string {
	if s.InjectionID != "" {
		return []string{s.InjectionID}
	}
	for _, r := range p.Result.Samples {
		if s.Sample != "" && r.Name == s.Sample {
			return r.InjectionIDs
		}
	}
	return []string{}
}

// unread names a replicate whose amount could not be computed although its peak was found, as where a weight was never written down: a mean leaves it out.
func unread(p Processed, injections []string) string {
	for k, in := range p.Result.Injections {
		if !slices.Contains(injections, in.ID) || p.Batch.Injections[k].Role != batch.Sample {
			continue
		}
		for _, c := range p.Batch.Version.Method.Targets() {
			if r := in.Readings[c.ID]; r.Concentration != nil && r.Amount == nil {
				return fmt.Sprintf("%s has no amount in injection %d", c.Name, k+1)
			}
		}
	}
	return ""
}

// heldBack says why a report is not made, or nothing.
func (l *Lab) heldBack(ctx context.Context, p Processed, plan planned, s report.Subject) (string, error) {
	own := injectionsOf(p, s)
	of := func(id string) bool { return len(own) == 0 || slices.Contains(own, id) }
	for _, why := range plan.set.Asked.Hold {
		switch why {
		case HeldByNotices:
			for _, n := range p.Result.Notices {
				if n.InjectionID != "" && of(n.InjectionID) && !slices.Contains(p.Batch.Settled, n.Key) {
					return n.Subject + ": " + n.Text, nil
				}
			}
		case HeldByRange:
			for _, in := range p.Result.Injections {
				for _, c := range p.Batch.Version.Method.Compounds {
					if of(in.ID) && slices.Contains(in.Readings[c.ID].Flags, batch.AboveRange) {
						return c.Name + " is above the range of its curve", nil
					}
				}
			}
		case HeldByMissing:
			in := plan.base
			r, err := report.Make(plan.one, in, s)
			if err != nil {
				return "", refuse("%s", err)
			}
			if len(r.Missing) > 0 {
				return "it shows what is not there: " + strings.ToLower(r.Missing[0].Words), nil
			}
			if says := unread(p, own); says != "" {
				return says, nil
			}
		default:
			return "", refuseAt("/hold", "reports are held back for notices, missing or range, not for %q", why)
		}
	}
	return "", nil
}
