package lab

import (
	"context"
	"errors"
	"time"

	"yugen/core/compounds"
	"yugen/formats"
	"yugen/formats/ladder"
	"yugen/lab/change"
	"yugen/store"
)

// KeptLadder is a ladder of alkanes that a study keeps by name, for any method.
type KeptLadder struct {
	Name    string           `json:"name"`
	SavedBy string           `json:"saved_by"`
	SavedAt time.Time        `json:"saved_at"`
	Ladder  compounds.Ladder `json:"ladder"`
}

// ReadLadder takes a table of carbons and times, as it was pasted or as a file has it, for a ladder whose times rise. Nothing is written.
func (l *Lab) ReadLadder(text string) (compounds.Ladder, error) {
	rungs, err := ladder.Read(text)
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		return compounds.Ladder{}, refuse("%s", unreadable)
	}
	if err != nil {
		return compounds.Ladder{}, err
	}
	out := compounds.Ladder{Scale: compounds.LinearScale, Rungs: rungs}
	if err := out.Validate(); err != nil {
		return out, refuse("%s", err)
	}
	return out, nil
}

// Ladders are those that the study of a batch keeps.
func (l *Lab) Ladders(ctx context.Context, batchID string) ([]KeptLadder, error) {
	list, ladders, err := documents[compounds.Ladder](ctx, l, batchID, store.Ladder)
	out := []KeptLadder{}
	for k, d := range list {
		out = append(out, KeptLadder{d.Name, d.Author, d.SavedAt, ladders[k]})
	}
	return out, err
}

// KeepLadder keeps a ladder by name in the study of a batch, in place of one of that name.
func (l *Lab) KeepLadder(ctx context.Context, batchID, name string, one compounds.Ladder, who string) ([]KeptLadder, error) {
	if err := one.Validate(); err != nil {
		return nil, refuseAt("/ladder", "%s", err)
	}
	if err := l.putDocument(ctx, batchID, store.Document{Kind: store.Ladder, Name: name, Author: who, Text: change.JSON(one)}, true, "a ladder"); err != nil {
		return nil, err
	}
	return l.Ladders(ctx, batchID)
}

// PutLadderAway takes a ladder out of the study of a batch; methods that took it up keep it.
func (l *Lab) PutLadderAway(ctx context.Context, batchID, name, who string) ([]KeptLadder, error) {
	if err := l.putDocument(ctx, batchID, store.Document{Kind: store.Ladder, Name: name, Author: who}, true, "a ladder"); err != nil {
		return nil, err
	}
	return l.Ladders(ctx, batchID)
}

// maxApexes bounds the peaks that a ladder is held against.
const maxApexes = 5000

// CheckLadder says what speaks against a ladder, by itself and by the peaks of an injection of its alkanes. Nothing is written.
func (l *Lab) CheckLadder(one compounds.Ladder, apexesMin []float64) (compounds.LadderCheck, error) {
	if err := one.Validate(); err != nil {
		return compounds.LadderCheck{}, refuseAt("/ladder", "%s", err)
	}
	if len(apexesMin) > maxApexes {
		return compounds.LadderCheck{}, refuseAt("/apexes_min", "a ladder is held against at most %d peaks", maxApexes)
	}
	return one.Check(apexesMin), nil
}
