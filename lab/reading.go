package lab

import (
	"context"
	"strings"

	"yugen/formats"
	"yugen/formats/text"
	"yugen/lab/taking"
	"yugen/store"
)

// reading puts a delimited text together with the profile by which it is read: that which a person chose, else the first of the batch's study that fits. Other
// files, and texts that fit none, stay as they are; a text that does not fit a chosen profile is refused when it is read, never bent.
func (l *Lab) reading(ctx context.Context, batchID string, chosen *text.Profile, from taking.Source) (taking.Source, error) {
	kind, err := taking.KindOf(from)
	if err != nil || kind != formats.Text || from.Size > formats.MaxWhole { // what is of no known kind, or too large, is refused when it is read
		return from, err
	}
	data, err := taking.Whole(from)
	if err != nil {
		return from, err
	}
	if chosen != nil {
		return taking.Enclose(*chosen, data)
	}
	profiles, err := l.profilesOf(ctx, batchID)
	if err != nil {
		return from, err
	}
	for _, p := range profiles {
		if p.Profile.Fits(data) == nil {
			return taking.Enclose(p.Profile, data)
		}
	}
	return from, nil
}

func (l *Lab) profilesOf(ctx context.Context, batchID string) (list []store.Profile, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		list, err = t.ProfilesOf(batchID)
		return err
	})
	return list, err
}

// Profiles lists how delimited texts are read in the study of a batch.
func (l *Lab) Profiles(ctx context.Context, batchID string) ([]store.Profile, error) {
	return l.profilesOf(ctx, batchID)
}

// KeepProfile keeps a profile with the study of a batch, under its name.
func (l *Lab) KeepProfile(ctx context.Context, batchID string, p text.Profile, who string) ([]store.Profile, error) {
	if p.Name = strings.TrimSpace(p.Name); p.Name == "" {
		return nil, refuseAt("/profile/name", "a profile needs a name")
	}
	if err := p.Validate(); err != nil {
		return nil, refuseAt("/profile", "%s", err)
	}
	err := l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if _, err := t.PutProfile(b.StudyID, who, p); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: "profile", Subject: p.Name, Why: "how delimited text is read in " + b.StudyName, Before: "{}", After: "{}"})
		return err
	})
	if err != nil {
		return nil, err
	}
	l.looks.forget(batchID)
	return l.profilesOf(ctx, batchID)
}

// DropProfile takes a profile away from the study of a batch. What was read by it stays as it was read.
func (l *Lab) DropProfile(ctx context.Context, batchID, id, who string) ([]store.Profile, error) {
	err := l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if err := t.DropProfile(id); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: "profile", Subject: "a profile taken away", Why: "in " + b.StudyName, Before: "{}", After: "{}"})
		return err
	})
	if err != nil {
		return nil, err
	}
	l.looks.forget(batchID)
	return l.profilesOf(ctx, batchID)
}
