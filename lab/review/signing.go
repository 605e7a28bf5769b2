package review

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/store"
)

// Meaning is what a signature says.
type Meaning string

// The meanings, in the order in which they are given.
const (
	Prepared Meaning = "prepared"
	Reviewed Meaning = "reviewed"
	Approved Meaning = "approved"
)

// Meanings are all of them.
var Meanings = []Meaning{Prepared, Reviewed, Approved}

// Locks tells whether a signature of this meaning keeps everything as it is.
func (m Meaning) Locks() bool { return m != Prepared }

// Verdict is what somebody who reviews says of an item.
type Verdict string

// The verdicts.
const (
	Accepted Verdict = "accepted"
	SentBack Verdict = "sent back"
)

// Judged is a verdict as it was given.
type Judged struct {
	Verdict Verdict   `json:"verdict"`
	Remark  string    `json:"remark"`
	Who     string    `json:"who"`
	At      time.Time `json:"at"`
}

// Seal is what a signature is over, each part by its hash, and all of them together.
type Seal struct {
	Results string `json:"results"` // the reported numbers
	Method  string `json:"method"`
	ByHand  string `json:"by_hand"` // run list, edits, points and levels, notices settled
	Raw     string `json:"raw"`
	Reports string `json:"reports"` // that were kept by then
	All     string `json:"all"`
}

// Signature is one as it was given.
type Signature struct {
	Meaning Meaning   `json:"meaning"`
	Words   string    `json:"words"` // what it means, in the laboratory's own words
	Name    string    `json:"name"`
	Seal    Seal      `json:"seal"`
	Locks   bool      `json:"locks"`
	Proven  bool      `json:"proven"`          // by a password, just then
	Alone   bool      `json:"alone"`           // by somebody who also prepared: not independent
	At      time.Time `json:"-"`               // as the record has it
	Gone    *Gone     `json:"-"`               // where it was withdrawn since
	Counts  Counts    `json:"counts,omitzero"` // what it was over, in numbers
}

// Counts are what a signature is over, in numbers.
type Counts struct {
	Results    int `json:"results"`
	Injections int `json:"injections"`
	ByHand     int `json:"by_hand"`
	Version    int `json:"version"`
	Reports    int `json:"reports"`
}

// Gone says who took a signature off, when and why.
type Gone struct {
	Who string    `json:"who"`
	At  time.Time `json:"at"`
	Why string    `json:"why"`
}

// State is where the review of a batch stands.
type State struct {
	Verdicts   map[string]Judged // the newest of each item
	SentBack   []SentItem        // every time that something was sent back
	Signatures []Signature       // in their order, withdrawn ones, too
	Locked     bool
	Withdrawn  int64 // the row that unlocked it last; 0 where none did
}

// SentItem is what was sent back once.
type SentItem struct {
	Key, What string
	Judged
}

// judgement is what the record says of items that were looked at.
type judgement struct {
	Verdict Verdict      `json:"verdict"`
	Remark  string       `json:"remark"`
	Items   []judgedItem `json:"items"`
}

type judgedItem struct {
	Key  string `json:"key"`
	What string `json:"what"`
}

// Judgement is a row's text for items that were looked at.
func Judgement(v Verdict, remark string, items []Item) string {
	j := judgement{v, remark, []judgedItem{}}
	for _, i := range items {
		j.Items = append(j.Items, judgedItem{i.Key, strings.TrimSpace(i.What + " " + i.Where)})
	}
	return change.JSON(j)
}

// StateOf reads it from the rows about reviewing and signing.
func StateOf(rows []store.Change) (State, error) {
	s := State{Verdicts: map[string]Judged{}, SentBack: []SentItem{}, Signatures: []Signature{}}
	for _, c := range rows {
		switch c.Action {
		case store.ReviewAction:
			var j judgement
			if err := json.Unmarshal([]byte(c.After), &j); err != nil {
				return s, err
			}
			for _, i := range j.Items {
				said := Judged{j.Verdict, j.Remark, c.Who, c.At}
				if s.Verdicts[i.Key] = said; j.Verdict == SentBack {
					s.SentBack = append(s.SentBack, SentItem{i.Key, i.What, said})
				}
			}
		case store.SignatureAction:
			var g Signature
			if err := json.Unmarshal([]byte(c.After), &g); err != nil {
				return s, err
			}
			g.At = c.At
			s.Signatures = append(s.Signatures, g)
		case store.UnlockAction:
			s.Withdrawn = c.Seq
			for k := range s.Signatures {
				if s.Signatures[k].Gone == nil {
					s.Signatures[k].Gone = &Gone{c.Who, c.At, c.Why}
				}
			}
		}
		s.Locked = store.Locks(c, s.Locked)
	}
	return s, nil
}

// Standing is the last signature of a meaning that was not withdrawn; nil where there is none.
func (s State) Standing(m Meaning) *Signature {
	for k := range slices.Backward(s.Signatures) {
		if g := &s.Signatures[k]; g.Meaning == m && g.Gone == nil {
			return g
		}
	}
	return nil
}

// SealOf is over a batch as it stands: its results, method, what was done by hand, raw data, and the reports that were kept.
func SealOf(b store.Batch, r batch.Result, reports []store.Report) Seal {
	s := Seal{Results: store.Hash([]byte(change.JSON(values(Reported(b, r)))))}
	s.Method, s.ByHand, s.Raw = inputs(b)
	hashes := []string{}
	for _, k := range reports {
		hashes = append(hashes, k.PDFHash)
	}
	s.Reports = store.Hash([]byte(change.JSON(hashes)))
	s.All = s.together()
	return s
}

func (s Seal) together() string {
	return store.Hash([]byte(strings.Join([]string{s.Results, s.Method, s.ByHand, s.Raw, s.Reports}, " ")))
}

// inputs are the hashes of all that results are made from.
func inputs(b store.Batch) (method, byHand, raw string) {
	type line struct {
		Entry batch.Entry
		Edits []peaks.Edit
		Trace int
	}
	lines, files := []line{}, [][]string{}
	for _, in := range b.Injections {
		edits := in.Edits
		if edits == nil {
			edits = []peaks.Edit{}
		}
		lines, files = append(lines, line{in.Entry, edits, in.Trace}), append(files, in.Hashes())
	}
	hash := func(v any) string { return store.Hash([]byte(change.JSON(v))) }
	return b.Version.Hash, hash([]any{b.Name, lines, b.Choices, b.Settled}), hash(files)
}

// Holds tells whether the inputs of a batch are still those of a seal, whose parts are those of the whole.
func (s Seal) Holds(b store.Batch) bool {
	method, byHand, raw := inputs(b)
	return s.All == s.together() && s.Method == method && s.ByHand == byHand && s.Raw == raw
}

func values(numbers map[string]Number) map[string]*float64 {
	out := map[string]*float64{}
	for key, n := range numbers {
		out[key] = n.Value
	}
	return out
}
