package taking

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/formats"
	"yugen/store"
)

// Looked is a file that has come and is looked at before anything is kept.
type Looked struct {
	ID   string `json:"id"`
	File string `json:"file"`
	Size int64  `json:"size"`
	// Status is Coming for one that can be taken in, Already or Refused.
	Status      Status      `json:"status"`
	Message     string      `json:"message,omitempty"`
	Unsupported bool        `json:"unsupported,omitempty"`
	Kind        string      `json:"kind"` // the format in words
	Text        bool        `json:"text"` // it is delimited text, whose reading can be changed
	Profile     string      `json:"profile,omitempty"`
	SampleName  string      `json:"sample_name"`
	Vial        string      `json:"vial"`
	AcquiredAt  *time.Time  `json:"acquired_at"`
	Signals     []SeenThere `json:"signals"`
	// Silhouette is the first detector in little: heights from 0 to 1.
	Silhouette []float64 `json:"silhouette"`
	// Missing is what the file does not say of its injection.
	Missing []string `json:"missing"`
	// With is the file that it belongs to: one that is looked at, or one that is in the batch. Empty where it stands alone.
	With   string `json:"with,omitempty"`
	WithID string `json:"with_id,omitempty"` // of the looked-at file
	Doubt  string `json:"doubt,omitempty"`   // why it is not joined, where it could be

	header formats.Header
	hash   string
}

// SeenThere is a signal of a file that is looked at.
type SeenThere struct {
	Name   string              `json:"name"`
	Unit   string              `json:"unit"`
	Kind   formats.ChannelKind `json:"kind"`
	Points int                 `json:"points"`
}

// silhouettePoints are the columns of a silhouette.
const silhouettePoints = 90

// See fills what a file holds and what it does not say.
func (k *Looked) See(d File) {
	h := d.Header
	k.header, k.hash = h, d.Hash
	k.SampleName, k.Vial, k.AcquiredAt = h.SampleName, h.Vial, h.AcquiredAt
	k.Message = strings.Join(h.Doubts, " ")
	for _, tr := range d.Decoded.Traces {
		k.Signals = append(k.Signals, SeenThere{tr.Name, tr.Unit, formats.KindOfChannel(tr.Name, tr.Unit), tr.Len()})
	}
	k.Silhouette = SilhouetteOf(d.Decoded.Traces[max(0, d.Detector)])
	if strings.TrimSpace(h.SampleName) == "" {
		k.Missing = append(k.Missing, "sample name")
	}
	if h.AcquiredAt == nil {
		k.Missing = append(k.Missing, "time of acquisition")
	}
	if d.Detector < 0 {
		k.Missing = append(k.Missing, "detector")
	}
}

// flatBelow is how many times its noise a signal must rise to fill its silhouette: what is only noise lies low in it.
const flatBelow = 30

func SilhouetteOf(t signal.Trace) []float64 {
	low, high := slices.Min(t.Values), slices.Max(t.Values)
	high = max(high, low+flatBelow*t.WhiteNoise())
	out := make([]float64, silhouettePoints)
	for i := range out {
		most := math.Inf(-1)
		for j := i * t.Len() / silhouettePoints; j < max((i+1)*t.Len()/silhouettePoints, i*t.Len()/silhouettePoints+1); j++ {
			most = max(most, t.Values[j])
		}
		if high > low {
			out[i] = math.Round(1000*(most-low)/(high-low)) / 1000
		}
	}
	return out
}

// Lead lets the file with a detector lead those that belong together: the injection bears its name.
func Lead(list []Looked) {
	for h := range list {
		if !slices.Contains(list[h].Missing, "detector") || list[h].With != "" {
			continue
		}
		k := slices.IndexFunc(list, func(o Looked) bool { return o.WithID == list[h].ID && !slices.Contains(o.Missing, "detector") })
		if k < 0 {
			continue
		}
		for i := range list {
			if i == h || i != k && list[i].WithID == list[h].ID {
				list[i].WithID, list[i].With = list[k].ID, list[k].File
			}
		}
		list[k].WithID, list[k].With = "", ""
	}
}

// Belong says which files are here already, and which are of one injection.
func Belong(list []Looked, b store.Batch) {
	for i := range list {
		one := &list[i]
		if one.Status != Coming {
			continue
		}
		var with []string
		for _, in := range b.Injections {
			if slices.Contains(in.Hashes(), one.hash) {
				one.Status, one.Message = Already, "This file is in the batch already."
			}
			own := slices.ContainsFunc(one.Signals, func(s SeenThere) bool { return s.Name == in.Signal && s.Unit == in.Unit }) // the same measurement again
			if in.Typed == nil && !own && formats.OneInjection(in.FileName, in.Header, one.File, one.header) {
				with = append(with, in.FileName)
			}
		}
		for k := range list[:i] {
			other := list[k]
			if other.Status == Coming && other.WithID == "" && formats.OneInjection(other.File, other.header, one.File, one.header) && !sameSignal(other, *one) {
				with = append(with, other.File)
				one.WithID = other.ID
			}
		}
		switch {
		case one.Status == Already || len(with) == 0:
			one.WithID = ""
		case len(with) == 1:
			one.With = with[0]
		default:
			one.WithID, one.Doubt = "", fmt.Sprintf("It could belong to %s or to %s; it stands alone until it is joined by hand.", with[0], with[1])
		}
	}
}

func sameSignal(a, b Looked) bool {
	return slices.ContainsFunc(a.Signals, func(x SeenThere) bool {
		return slices.ContainsFunc(b.Signals, func(y SeenThere) bool { return x.Name == y.Name && x.Unit == y.Unit })
	})
}
