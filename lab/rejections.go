package lab

import (
	"context"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"yugen/store"
)

// Rejection says that the peak at a time is not what a library proposes.
type Rejection struct {
	Name  string  `json:"name"`
	AtMin float64 `json:"at_min"`
	Why   string  `json:"why"`
	By    string  `json:"by"`
}

// rejectedNear is how far from its time a rejection holds, min: the drift of a batch.
const rejectedNear = 0.08

const maxRejections = 2000

// rejections are those of the study of a batch.
func (l *Lab) rejections(ctx context.Context, batchID string) ([]Rejection, error) {
	_, lists, err := documents[[]Rejection](ctx, l, batchID, store.Rejections)
	if err != nil || len(lists) == 0 {
		return nil, err
	}
	return lists[0], nil
}

func (r Rejection) holds(name string, atMin float64) bool {
	return r.Name == name && math.Abs(r.AtMin-atMin) <= rejectedNear+1e-9 // 3.08 is within 0.08 of 3 in binary, too
}

// RejectName says that the peak at a time is not what is proposed; without a reason the rejection is taken back.
func (l *Lab) RejectName(ctx context.Context, batchID string, r Rejection, who string) ([]Rejection, error) {
	r.Name, r.Why, r.By = strings.TrimSpace(r.Name), strings.TrimSpace(r.Why), who
	if r.Name == "" || utf8.RuneCountInString(r.Name) > 200 || utf8.RuneCountInString(r.Why) > 500 || math.IsNaN(r.AtMin) || math.IsInf(r.AtMin, 0) {
		return nil, refuse("a rejection names a compound, a time, and why in at most 500 letters")
	}
	now := []Rejection{}
	what := r.Name + " is rejected"
	if r.Why == "" {
		what = r.Name + " is no longer rejected"
	}
	err := changeDocument(ctx, l, batchID, store.Document{Kind: store.Rejections, Name: store.Rejections, Author: who}, what, &now, func(list *[]Rejection) error {
		*list = slices.DeleteFunc(*list, func(o Rejection) bool { return o.holds(r.Name, r.AtMin) })
		if r.Why != "" {
			*list = append(*list, r)
		}
		if len(*list) > maxRejections {
			return refuse("a study has at most %d rejections", maxRejections)
		}
		return nil
	})
	return now, err
}
