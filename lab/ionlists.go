package lab

import (
	"context"
	"strings"
	"time"
	"unicode/utf8"

	"yugen/core/channels"
	"yugen/lab/change"
	"yugen/store"
)

// KeptIons is a list of ions that a study keeps by the name of a compound or a class of compounds.
type KeptIons struct {
	Name    string    `json:"name"`
	Class   string    `json:"class,omitempty"` // that it is found by, too
	Ions    []string  `json:"ions"`            // as a person writes them, 93.07±0.3
	SavedBy string    `json:"saved_by"`
	SavedAt time.Time `json:"saved_at"`
}

type ionList struct {
	Class string   `json:"class,omitempty"`
	Ions  []string `json:"ions"`
}

// maxIonsKept bounds a list.
const maxIonsKept = 60

// IonLists are those that the study of a batch keeps.
func (l *Lab) IonLists(ctx context.Context, batchID string) ([]KeptIons, error) {
	list, ions, err := documents[ionList](ctx, l, batchID, store.IonList)
	out := []KeptIons{}
	for k, d := range list {
		out = append(out, KeptIons{d.Name, ions[k].Class, ions[k].Ions, d.Author, d.SavedAt})
	}
	return out, err
}

// KeepIonList keeps ions by name in the study of a batch, in place of a list of that name; without ions the list is taken away. The same ion twice is one.
func (l *Lab) KeepIonList(ctx context.Context, batchID string, k KeptIons, who string) ([]KeptIons, error) {
	one := ionList{Class: strings.TrimSpace(k.Class), Ions: []string{}}
	if utf8.RuneCountInString(one.Class) > maxDocumentName {
		return nil, refuseAt("/class", "a class has at most %d letters", maxDocumentName)
	}
	if len(k.Ions) > maxIonsKept {
		return nil, refuseAt("/ions", "a list holds at most %d ions, not %d", maxIonsKept, len(k.Ions))
	}
	seen := map[string]bool{}
	for _, words := range k.Ions {
		s, err := channels.ParseIons(words)
		if err != nil {
			return nil, refuseAt("/ions", "%s", err)
		}
		if !seen[s.Key()] {
			seen[s.Key()] = true
			one.Ions = append(one.Ions, strings.ReplaceAll(strings.TrimPrefix(s.Title(), "m/z "), " ± ", "±"))
		}
	}
	d := store.Document{Kind: store.IonList, Name: k.Name, Author: who}
	if len(one.Ions) > 0 {
		d.Text = change.JSON(one)
	}
	if err := l.putDocument(ctx, batchID, d, true, "ions of"); err != nil {
		return nil, err
	}
	return l.IonLists(ctx, batchID)
}
