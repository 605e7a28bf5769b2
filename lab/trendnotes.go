package lab

import (
	"context"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"yugen/store"
)

// TrendNotes are what people set down about the trends of a study: when something was changed, and limits of their own.
type TrendNotes struct {
	Marks  []TrendMark  `json:"marks"`
	Limits []TrendLimit `json:"limits"`
}

// TrendMark says that something was changed before an injection, as a new column.
type TrendMark struct {
	ID          string `json:"id"`
	InjectionID string `json:"injection_id"`
	Says        string `json:"says"`
	By          string `json:"by"`
}

// TrendLimit are limits that a person set for a quantity of a compound in injections of a role; the compound by its name, since batches have methods of their own.
type TrendLimit struct {
	Quantity string   `json:"quantity"`
	Compound string   `json:"compound"`
	Of       string   `json:"of"`
	Low      *float64 `json:"low"`
	High     *float64 `json:"high"`
	By       string   `json:"by"`
}

// Bounds of notes.
const (
	maxMarks     = 500
	maxLimits    = 500
	maxMarkWords = 120
	trendNotes   = "trends" // the one document of its kind in a study
)

func (n TrendNotes) limitOf(quantity, compound, of string) (TrendLimit, bool) {
	for _, l := range n.Limits {
		if l.Quantity == quantity && l.Compound == compound && l.Of == of {
			return l, true
		}
	}
	return TrendLimit{}, false
}

// TrendNotesOf are those of the study of a batch.
func (l *Lab) TrendNotesOf(ctx context.Context, batchID string) (TrendNotes, error) {
	_, notes, err := documents[TrendNotes](ctx, l, batchID, store.TrendNotes)
	if err != nil || len(notes) == 0 {
		return TrendNotes{Marks: []TrendMark{}, Limits: []TrendLimit{}}, err
	}
	return notes[0], nil
}

// MarkTrends sets a mark before an injection of the study.
func (l *Lab) MarkTrends(ctx context.Context, batchID, injectionID, says, who string) (TrendNotes, error) {
	says = strings.TrimSpace(says)
	if says == "" || utf8.RuneCountInString(says) > maxMarkWords {
		return TrendNotes{}, refuseAt("/says", "say in 1 to %d letters what was changed", maxMarkWords)
	}
	return l.changeNotes(ctx, batchID, "mark: "+says, who, func(n *TrendNotes) error {
		if len(n.Marks) >= maxMarks {
			return refuse("a study has at most %d marks", maxMarks)
		}
		n.Marks = append(n.Marks, TrendMark{ID: store.NewID(), InjectionID: injectionID, Says: says, By: who})
		return nil
	})
}

// UnmarkTrends takes a mark away.
func (l *Lab) UnmarkTrends(ctx context.Context, batchID, id, who string) (TrendNotes, error) {
	return l.changeNotes(ctx, batchID, "a mark taken away", who, func(n *TrendNotes) error {
		k := slices.IndexFunc(n.Marks, func(m TrendMark) bool { return m.ID == id })
		if k < 0 {
			return store.ErrNotFound
		}
		n.Marks = slices.Delete(n.Marks, k, k+1)
		return nil
	})
}

// LimitTrends sets limits for a quantity; without any they are those of the method again, or computed ones.
func (l *Lab) LimitTrends(ctx context.Context, batchID string, limit TrendLimit, who string) (TrendNotes, error) {
	for _, v := range []*float64{limit.Low, limit.High} {
		if v != nil && (math.IsNaN(*v) || math.IsInf(*v, 0)) {
			return TrendNotes{}, refuse("a limit is a finite number")
		}
	}
	if limit.Low != nil && limit.High != nil && *limit.Low > *limit.High {
		return TrendNotes{}, refuseAt("/low", "the lower limit is above the upper one")
	}
	if len(limit.Quantity) > maxDocumentName || len(limit.Compound) > 200 || len(limit.Of) > maxDocumentName {
		return TrendNotes{}, refuse("the names of a limit are too long")
	}
	limit.By = who
	return l.changeNotes(ctx, batchID, "limits of "+limit.Quantity, who, func(n *TrendNotes) error {
		n.Limits = slices.DeleteFunc(n.Limits, func(o TrendLimit) bool {
			return o.Quantity == limit.Quantity && o.Compound == limit.Compound && o.Of == limit.Of
		})
		if limit.Low != nil || limit.High != nil {
			n.Limits = append(n.Limits, limit)
		}
		if len(n.Limits) > maxLimits {
			return refuse("a study has at most %d limits of trends", maxLimits)
		}
		return nil
	})
}

// changeNotes changes the notes of a study as they are at that moment, so that two people at once lose nothing.
func (l *Lab) changeNotes(ctx context.Context, batchID, what, who string, f func(*TrendNotes) error) (TrendNotes, error) {
	now := TrendNotes{Marks: []TrendMark{}, Limits: []TrendLimit{}}
	err := changeDocument(ctx, l, batchID, store.Document{Kind: store.TrendNotes, Name: trendNotes, Author: who}, "trends, "+what, &now, f)
	return now, err
}
