package lab

import (
	"context"
	"strings"
	"time"

	"yugen/store"
)

// troubleMark stands in the record between an instrument and the trouble that it had.
const troubleMark = ": trouble: "

// PastTrouble is trouble that an instrument had.
type PastTrouble struct {
	At         time.Time `json:"at"`
	Instrument string    `json:"instrument"`
	Says       string    `json:"says"`
	BatchID    string    `json:"batch_id"` // of the list that it came into; empty where that is gone
}

// mostTroubles bounds how many are told.
const mostTroubles = 12

// Troubles are those that instruments had, the newest first, as the record has them.
func (l *Lab) Troubles(ctx context.Context) ([]PastTrouble, error) {
	list := []PastTrouble{}
	page, err := l.FindRecord(ctx, store.Wanted{Action: store.BenchAction, Words: "trouble"}, 0)
	if err != nil {
		return nil, err
	}
	for _, row := range page.Rows {
		name, says, is := strings.Cut(row.Subject, troubleMark)
		if is && len(list) < mostTroubles {
			list = append(list, PastTrouble{row.At, name, says, row.BatchID})
		}
	}
	return list, nil
}
