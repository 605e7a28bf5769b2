package lab

import (
	"context"

	"yugen/report"
)

// FigureStyle is how a figure is drawn, by name.
type FigureStyle = report.FigureStyle

// FigureStyles are those that ship.
func FigureStyles() []FigureStyle { return report.FigureStyles }

// TrendsFigure draws trends for print: as a picture of its true size, or as PDF.
func (l *Lab) TrendsFigure(ctx context.Context, batchID string, asked TrendsAsked, style, as string) ([]byte, error) {
	how, err := report.Style(style)
	if err != nil {
		return nil, refuse("%s", err)
	}
	t, err := l.TrendsOf(ctx, batchID, asked)
	if err != nil {
		return nil, err
	}
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	f := figureOf(t)
	f.Title = b.Name + ", trends"
	for _, i := range b.Injections {
		if at := i.Header.AcquiredAt; at != nil && at.After(f.Made) {
			f.Made = *at
		}
	}
	r, err := f.Draw(how)
	if err != nil {
		return nil, refuse("%s", err)
	}
	if as == "pdf" {
		return r.PDF()
	}
	return r.WholeSVG(), nil
}

func figureOf(t Trends) report.Figure {
	f := report.Figure{Axis: t.Words, Days: t.Along == AlongTime, Whole: t.Along == AlongRun}
	if t.Unit != "" && !f.Days {
		f.Axis += " / " + t.Unit
	}
	ordered := t.Along == AlongRun || t.Along == AlongBatches
	for _, m := range t.Marks {
		f.Marks = append(f.Marks, report.FigureMark{X: m.X, Says: m.Says})
	}
	for k, c := range t.Charts {
		chart := report.FigureChart{Words: c.Quantity.Words, Unit: c.Quantity.Unit, Low: c.Low, High: c.High, Centre: c.Centre, Joined: ordered}
		if c.Line != nil && !ordered {
			chart.Line = &[2]float64{c.Line.Slope, c.Line.Intercept}
		}
		for n, p := range c.Points {
			chart.Points = append(chart.Points, report.FigurePoint{X: p.X, Value: p.Value, Series: p.BatchID, Filled: p.Here})
			if k == 0 && t.Along == AlongBatches && (n == 0 || c.Points[n-1].BatchID != p.BatchID) {
				f.Seams = append(f.Seams, report.FigureMark{X: p.X - 0.5, Says: p.Batch})
			}
		}
		f.Charts = append(f.Charts, chart)
	}
	return f
}
