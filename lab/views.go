package lab

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"yugen/lab/change"
	"yugen/store"
)

// KeptView is a way of looking at traces, kept with a study.
type KeptView struct {
	ID   string      `json:"id"`
	Name string      `json:"name"`
	View LookingView `json:"view"`
}

// LookingView is what is shown, and how. Injections are named by name and role, so that a view serves every batch of its study.
type LookingView struct {
	Looked map[string]string `json:"looked"`
	Shown  []NamedInjection  `json:"shown"`
	Less   *NamedInjection   `json:"less"`
}

// NamedInjection names an injection in any batch.
type NamedInjection struct {
	Name string `json:"name"`
	Role string `json:"role"`
}

// The parts of a view are bounded.
const (
	maxViewShown = 100
	maxViewWords = 20
)

// Views lists the views of a batch's study.
func (l *Lab) Views(ctx context.Context, batchID string) (list []KeptView, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		list, err = viewsOf(t, batchID)
		return err
	})
	return list, err
}

func viewsOf(t *store.Tx, batchID string) ([]KeptView, error) {
	b, err := t.Batch(batchID)
	if err != nil {
		return nil, err
	}
	kept, err := t.Views(b.StudyID)
	if err != nil {
		return nil, err
	}
	list := []KeptView{}
	for _, k := range kept {
		v := KeptView{ID: k.ID, Name: k.Name}
		if err := json.Unmarshal([]byte(k.Document), &v.View); err != nil {
			return nil, err
		}
		list = append(list, v)
	}
	return list, nil
}

// KeepView keeps a view with the study of a batch. It changes nothing that is measured, and so is no row of the record.
func (l *Lab) KeepView(ctx context.Context, batchID, name string, v LookingView) (list []KeptView, err error) {
	if name = strings.TrimSpace(name); name == "" || len(name) > maxReason {
		return nil, refuseAt("/name", "a view needs a name of at most %d characters", maxReason)
	}
	long := len(v.Shown) > maxViewShown || len(v.Looked) > maxViewWords
	for k, w := range v.Looked {
		long = long || len(k) > 200 || len(w) > 200
	}
	named := v.Shown
	if v.Less != nil {
		named = append(slices.Clone(named), *v.Less)
	}
	for _, n := range named {
		long = long || len(n.Name) > 200 || len(n.Role) > 200
	}
	if long {
		return nil, refuseAt("/view", "a view shows at most %d injections", maxViewShown)
	}
	if v.Looked == nil {
		v.Looked = map[string]string{}
	}
	if v.Shown == nil {
		v.Shown = []NamedInjection{}
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if err := t.PutView(b.StudyID, name, change.JSON(v)); err != nil {
			return err
		}
		list, err = viewsOf(t, batchID)
		return err
	})
	return list, err
}

// DropView takes a view of a batch's study away.
func (l *Lab) DropView(ctx context.Context, batchID, id string) (list []KeptView, err error) {
	err = l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if err := t.DropView(b.StudyID, id); err != nil {
			return err
		}
		list, err = viewsOf(t, batchID)
		return err
	})
	return list, err
}
