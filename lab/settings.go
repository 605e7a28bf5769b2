package lab

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"time"
	"unicode/utf8"

	"yugen/lab/change"
	"yugen/lab/review"
	"yugen/report"
	"yugen/report/layouts"
	"yugen/store"
)

// Settings are what an installation has decided: whose it is, and how its paper looks. Empty fields leave what the program was started with.
type Settings struct {
	Name    string        `json:"name"`
	Address string        `json:"address"`
	Mark    []byte        `json:"mark"` // a PNG before the name
	Zone    string        `json:"zone"` // of times on paper, as Europe/Paris; empty is UTC
	Paper   layouts.Paper `json:"paper"`
	Comma   bool          `json:"decimal_comma"`
	// Meanings are what signatures mean, in the laboratory's words; empty ones are the usual.
	Meanings map[review.Meaning]string `json:"meanings"`
}

// Bounds of settings.
const (
	maxAddress = 300
	maxWords   = 200
	maxMark    = 200 << 10
)

// Settings are those of the installation.
func (l *Lab) Settings(ctx context.Context) (s Settings, err error) {
	s.Meanings, s.Mark = map[review.Meaning]string{}, []byte{}
	err = l.setting(ctx, store.InstallationSetting, &s)
	return s, err
}

// ChangeSettings sets them, all at once; the record tells what they were.
func (l *Lab) ChangeSettings(ctx context.Context, s Settings, who string) (Settings, error) {
	s.Name, s.Address, s.Zone = strings.TrimSpace(s.Name), strings.TrimSpace(s.Address), strings.TrimSpace(s.Zone)
	if s.Mark == nil {
		s.Mark = []byte{}
	}
	if s.Meanings == nil {
		s.Meanings = map[review.Meaning]string{}
	}
	switch {
	case utf8.RuneCountInString(s.Name) > maxName:
		return s, refuseAt("/name", "the name of a laboratory has at most %d letters", maxName)
	case utf8.RuneCountInString(s.Address) > maxAddress:
		return s, refuseAt("/address", "an address has at most %d letters", maxAddress)
	case len(s.Mark) > maxMark:
		return s, refuseAt("/mark", "a mark has at most %d kB", maxMark>>10)
	case s.Paper != "" && s.Paper != layouts.A4 && s.Paper != layouts.Letter:
		return s, refuseAt("/paper", "paper is A4 or Letter, not %q", s.Paper)
	}
	if _, err := zoneOf(s.Zone); err != nil {
		return s, refuseAt("/zone", "there is no time zone %q; write it as Europe/Paris", s.Zone)
	}
	if len(s.Mark) > 0 {
		if err := ReadMark(s.Mark); err != nil {
			return s, refuseAt("/mark", "%s", err)
		}
	}
	for m, words := range s.Meanings {
		if usualWords[m] == "" || utf8.RuneCountInString(words) > maxWords {
			return s, refuseAt("/meanings", "what prepared, reviewed and approved mean is said in at most %d letters each", maxWords)
		}
	}
	text := change.JSON(s)
	err := l.store.Write(ctx, func(t *store.Tx) error {
		before, err := t.Setting(store.InstallationSetting)
		if err != nil && !errors.Is(err, store.ErrNotFound) || before == text {
			return err
		}
		if err := t.PutSetting(store.InstallationSetting, text); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, Action: store.SettingsAction, Subject: "of the installation", Before: before, After: text})
		return err
	})
	return s, err
}

func zoneOf(name string) (*time.Location, error) {
	if name == "" {
		return nil, nil
	}
	return time.LoadLocation(name)
}

// Letterhead is whose paper reports are on, and how it is: what the installation has decided, else what the program was started with.
func (l *Lab) Letterhead(ctx context.Context) (Laboratory, report.Paper, error) {
	s, err := l.Settings(ctx)
	if err != nil {
		return l.Laboratory, report.Paper{}, err
	}
	head := l.Laboratory
	if s.Name != "" {
		head.Name = s.Name
	}
	if s.Address != "" {
		head.Address = s.Address
	}
	if len(s.Mark) > 0 {
		head.Mark = s.Mark
	}
	zone, err := zoneOf(s.Zone)
	return head, report.Paper{Size: s.Paper, Zone: zone, Comma: s.Comma}, err
}

// setting reads a setting of the installation that is kept as JSON; one that was never set leaves what is there.
func (l *Lab) setting(ctx context.Context, name string, into any) error {
	return l.store.Read(ctx, func(t *store.Tx) error {
		text, err := t.Setting(name)
		if err != nil || strings.TrimSpace(text) == "" {
			return err
		}
		return json.Unmarshal([]byte(text), into)
	})
}
