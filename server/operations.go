package server

import (
	"net/http"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/quantities"
	"yugen/formats/contents"
	"yugen/formats/readings"
	"yugen/lab"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/people"
	"yugen/store"
)

// View is a batch as the front end needs it.
type View struct {
	Batch   Batch       `json:"batch"`
	History lab.History `json:"history"`
}

// ResultView is a result with the hash of what it was made from.
type ResultView struct {
	InputsHash string       `json:"inputs_hash"`
	Result     batch.Result `json:"result"`
}

// NewBatch asks for a batch, with a method of its own, by a saved version of any study, or by a copy of one.
type NewBatch struct {
	Study     string `json:"study"`
	Name      string `json:"name"`
	VersionID string `json:"version_id,omitempty"`
	Copy      bool   `json:"copy,omitempty"`
	// Reason says why a version is used that is not the approved one.
	Reason string `json:"reason,omitempty"`
}

// Installation says who acts where nobody has said so, and whose paper reports are on.
type Installation struct {
	Analyst    string         `json:"analyst"`
	Laboratory lab.Laboratory `json:"laboratory"`
}

// MadeBatches are the ids of new batches.
type MadeBatches struct {
	IDs []string `json:"ids"`
}

// PastedTable is a table to be read.
type PastedTable struct {
	Text string `json:"text"`
}

// ChoicesChange sets what a batch decides about its curves.
type ChoicesChange struct {
	Choices batch.Choices `json:"choices"`
	Reason  string        `json:"reason"`
}

// EarlierChange reads a batch from the curves of another one; empty goes back to standards of its own.
type EarlierChange struct {
	BatchID string `json:"batch_id"`
	Reason  string `json:"reason"`
}

// Made is the id of something new.
type Made struct {
	ID string `json:"id"`
}

// EntryChanges sets fields of the run list.
type EntryChanges struct {
	Changes []lab.EntryChange `json:"changes"`
	Reason  string            `json:"reason,omitempty"`
}

// Move puts an injection elsewhere in run order.
type Move struct {
	InjectionID string `json:"injection_id"`
	Position    int    `json:"position"`
	Reason      string `json:"reason,omitempty"`
}

// Removal takes an injection out of a batch.
type Removal struct {
	InjectionID string `json:"injection_id"`
	Reason      string `json:"reason,omitempty"`
}

// MethodChange saves a new method version.
type MethodChange struct {
	Method batch.Method `json:"method"`
	Reason string       `json:"reason"`
}

// EditChange adds an edit by hand.
type EditChange struct {
	InjectionID string     `json:"injection_id"`
	Edit        peaks.Edit `json:"edit"`
	Reason      string     `json:"reason"`
}

// TakeBack takes back an edit; index -1 takes back all of an injection.
type TakeBack struct {
	InjectionID string `json:"injection_id"`
	Index       int    `json:"index"`
	Reason      string `json:"reason,omitempty"`
}

// Because is the reason of a step back or forth.
type Because struct {
	Reason string `json:"reason,omitempty"`
}

// SignalChoice processes the signal of this name and unit.
type SignalChoice struct {
	Name   string `json:"name"`
	Unit   string `json:"unit"`
	Reason string `json:"reason,omitempty"`
}

// WayKept keeps proposals of a small batch.
type WayKept struct {
	Ask  lab.WholeWayAsk `json:"ask"`
	Keys []string        `json:"keys"` // empty keeps all that stands without doubt
}

// Settlement deals with notices, for one reason.
type Settlement struct {
	Keys   []string `json:"keys"`
	Reason string   `json:"reason"`
}

// Ridge is the silhouette of an injection: heights over equal stretches of the run.
type Ridge struct {
	InjectionID string    `json:"injection_id"`
	Heights     []float64 `json:"heights"`
}

// Pages are the pages of a report as SVG.
type Pages struct {
	Pages []string `json:"pages"`
}

// ReportChoice says which report is wanted: of the batch, or of one injection.
type ReportChoice struct {
	Layout      string `json:"layout"`
	InjectionID string `json:"injection_id"`
}

// VersionView is a method version without its document.
type VersionView struct {
	ID      string    `json:"id"`
	Number  int       `json:"number"`
	Author  string    `json:"author"`
	Reason  string    `json:"reason"`
	SavedAt time.Time `json:"saved_at"`
}

func versionView(v store.Version) VersionView {
	return VersionView{v.ID, v.Number, v.Author, v.Reason, v.SavedAt}
}

func versionViews(list []store.Version) []VersionView {
	views := make([]VersionView, len(list))
	for i, v := range list {
		views[i] = versionView(v)
	}
	return views
}

// SinceView is what has changed since a version.
type SinceView struct {
	Version VersionView  `json:"version"`
	Effects []lab.Effect `json:"effects"`
	Same    int          `json:"same"`
}

// short is a result whose peaks have only the measures that are looked at most: the screen asks for it after every change.
func short(r batch.Result) batch.Result {
	injections := slices.Clone(r.Injections)
	for i := range injections {
		injections[i].Further = slices.Clone(injections[i].Further)
		for _, channel := range injections[i].EachChannel() {
			channel.Peaks = slices.Clone(channel.Peaks)
			for k := range channel.Peaks {
				channel.Peaks[k].MoreMeasures = nil
			}
		}
	}
	r.Injections = injections
	return r
}

func fresh(body any) any { return reflect.New(reflect.TypeOf(body).Elem()).Interface() }

// mayStep refuses to undo or redo a change of a method for somebody who may not change methods.
func (s *server) mayStep(c *call, title func(lab.History) string) error {
	h, err := s.lab.History(c.Request().Context(), c.Param("batch"))
	if err != nil {
		return err
	}
	if strings.HasPrefix(title(h), "method:") && !c.actor.May(people.Develop) {
		return problem{Status: http.StatusForbidden, Detail: c.actor.Name + " may not do this: it would save another version of the method."}
	}
	return nil
}

// operations is the table of all typed requests.
func (s *server) operations() []operation {
	const batchPath = "/batches/:batch"
	view := func(c *call, b store.Batch, err error) (any, error) {
		if err != nil {
			return nil, err
		}
		h, err := s.lab.History(c.Request().Context(), b.ID)
		return View{batchOf(b), h}, err
	}
	id := func(c *call) string { return c.Param("batch") }
	list := []operation{
		{http.MethodGet, "/studies", "studies", "All studies with their batches", nil, nil, []Study{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.Studies(c.Request().Context())
			return studiesOf(list), err
		}},
		{http.MethodPost, "/batches", "newBatch", "Start a batch, or find the one of that name", nil, &NewBatch{}, Made{}, func(c *call, body any) (any, error) {
			b := body.(*NewBatch)
			if b.VersionID != "" {
				made, err := s.lab.NewBatchBy(c.Request().Context(), b.Study, b.Name, b.VersionID, b.Copy, b.Reason, c.who)
				return Made{made}, err
			}
			m := batch.NewMethod()
			m.Amounts.AsMeasured = true // until somebody says what was weighed
			made, err := s.lab.NewBatch(c.Request().Context(), b.Study, b.Name, b.Study, m, c.who)
			return Made{made}, err
		}},
		{http.MethodGet, "/notices", "notices", "How many notices of each batch are open, where its results are kept", nil, nil, []lab.BatchNotices{}, func(c *call, _ any) (any, error) {
			return s.lab.Notices(c.Request().Context())
		}},
		{http.MethodGet, "/find", "find", "Injections, reported means and batches over all that is on the shelf", []string{"for"}, nil, lab.Found{}, func(c *call, _ any) (any, error) {
			return s.lab.FindOnShelf(c.Request().Context(), c.QueryParam("for"))
		}},
		{http.MethodPost, "/demo", "openDemo", "Bring the studies of the demo in where they are not there yet", nil, nil, Made{}, func(c *call, _ any) (any, error) {
			id, err := s.lab.OpenDemo(c.Request().Context())
			return Made{id}, err
		}},
		{http.MethodPatch, batchPath + "/shelf", "changeShelf", "Rename a batch, put it away or take it out again", nil, &lab.ShelfChange{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.ChangeShelf(c.Request().Context(), id(c), c.revision, *body.(*lab.ShelfChange), c.who)
			return view(c, b, err)
		}},
		{http.MethodGet, "/installation", "installation", "Whose installation this is", nil, nil, Installation{}, func(c *call, _ any) (any, error) {
			head, _, err := s.lab.Letterhead(c.Request().Context())
			return Installation{s.entrance.Analyst, head}, err
		}},
		{http.MethodGet, "/settings", "settings", "What the installation has decided: whose it is, and how its paper looks", nil, nil, lab.Settings{}, func(c *call, _ any) (any, error) {
			return s.lab.Settings(c.Request().Context())
		}},
		{http.MethodPut, "/settings", "changeSettings", "Decide it, all at once", nil, &lab.Settings{}, lab.Settings{}, func(c *call, body any) (any, error) {
			return s.lab.ChangeSettings(c.Request().Context(), *body.(*lab.Settings), c.who)
		}},
		{http.MethodPost, "/backups", "backup", "Write a checked copy of everything into a new folder", nil, nil, lab.Backup{}, func(c *call, _ any) (any, error) {
			return s.lab.Backup(c.Request().Context(), c.who)
		}},
		{http.MethodGet, "/methods", "methods", "The methods of all studies with their versions", nil, nil, []lab.MethodChoice{}, func(c *call, _ any) (any, error) {
			return s.lab.Methods(c.Request().Context())
		}},
		{http.MethodGet, "/compound-names", "compoundNames", "What compounds are called in all methods", nil, nil, []string{}, func(c *call, _ any) (any, error) {
			return s.lab.CompoundNames(c.Request().Context())
		}},
		{http.MethodPost, "/readings", "newTyped", "Make a batch of typed readings from a pasted table, or one for each day", nil, &lab.TypedBatch{}, MadeBatches{}, func(c *call, body any) (any, error) {
			ids, err := s.lab.NewTyped(c.Request().Context(), *body.(*lab.TypedBatch), c.who)
			return MadeBatches{ids}, err
		}},
		{http.MethodPost, "/readings/look", "readTable", "What a pasted table is taken for; nothing is written", nil, &PastedTable{}, readings.Table{}, func(_ *call, body any) (any, error) {
			return s.lab.ReadTable(body.(*PastedTable).Text)
		}},
		{http.MethodGet, batchPath, "batch", "A batch with its run list, method version and edits", nil, nil, View{}, func(c *call, _ any) (any, error) {
			b, err := s.lab.Batch(c.Request().Context(), id(c))
			return view(c, b, err)
		}},
		{http.MethodPatch, batchPath + "/entries", "changeEntries", "Set fields of the run list, all or none", nil, &EntryChanges{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*EntryChanges)
			b, err := s.lab.ChangeEntries(c.Request().Context(), id(c), c.revision, m.Changes, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/order", "reorder", "Put an injection elsewhere in run order", nil, &Move{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*Move)
			b, err := s.lab.Reorder(c.Request().Context(), id(c), c.revision, m.InjectionID, m.Position, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/removals/look", "tryRemoval", "What taking an injection out would do to the others; nothing is written", nil, &Removal{}, lab.Consequence{}, func(c *call, body any) (any, error) {
			return s.lab.TryRemoval(c.Request().Context(), id(c), body.(*Removal).InjectionID)
		}},
		{http.MethodPost, batchPath + "/removals", "remove", "Take an injection out of the batch", nil, &Removal{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*Removal)
			b, err := s.lab.Remove(c.Request().Context(), id(c), c.revision, m.InjectionID, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPut, batchPath + "/method", "saveMethod", "Save a new method version", nil, &MethodChange{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*MethodChange)
			b, err := s.lab.SaveMethod(c.Request().Context(), id(c), c.revision, m.Method, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/method-trials", "tryMethod", "What another method would make of the batch; nothing is written", nil, &lab.MethodTrial{}, lab.TriedMethod{}, func(c *call, body any) (any, error) {
			return s.lab.TryMethod(c.Request().Context(), id(c), *body.(*lab.MethodTrial))
		}},
		{http.MethodPost, batchPath + "/whole-way/look", "wholeWay", "What a batch of few files is likely to be, read from names and peaks; nothing is written", nil, &lab.WholeWayAsk{}, lab.WholeWay{}, func(c *call, body any) (any, error) {
			return s.lab.WholeWay(c.Request().Context(), id(c), *body.(*lab.WholeWayAsk))
		}},
		{http.MethodPost, batchPath + "/whole-way", "keepWay", "Keep what is proposed: what the keys name, or all that stands without doubt", nil, &WayKept{}, View{}, func(c *call, body any) (any, error) {
			k := body.(*WayKept)
			b, err := s.lab.KeepWay(c.Request().Context(), id(c), c.revision, k.Ask, k.Keys, c.who)
			return view(c, b, err)
		}},
		{http.MethodGet, batchPath + "/against", "against", "How much replicates of each target scatter against each internal standard", nil, nil, []batch.AgainstRow{}, func(c *call, _ any) (any, error) {
			return s.lab.Against(c.Request().Context(), id(c))
		}},
		{http.MethodPost, batchPath + "/contents/look", "readContents", "What a pasted table of what the standards hold is taken for; nothing is written", nil, &PastedTable{}, contents.Table{}, func(c *call, body any) (any, error) {
			return s.lab.ReadContents(c.Request().Context(), id(c), body.(*PastedTable).Text)
		}},
		{http.MethodPut, batchPath + "/choices", "saveChoices", "Set which points and levels of the batch's curves are left out or kept", nil, &ChoicesChange{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*ChoicesChange)
			b, err := s.lab.SaveChoices(c.Request().Context(), id(c), c.revision, m.Choices, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPut, batchPath + "/earlier", "useEarlier", "Read the batch from the curves of an earlier one, or from its own standards again", nil, &EarlierChange{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*EarlierChange)
			b, err := s.lab.UseEarlier(c.Request().Context(), id(c), c.revision, m.BatchID, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/edits", "addEdit", "Change one injection's integration by hand", nil, &EditChange{}, View{}, func(c *call, body any) (any, error) {
			e := body.(*EditChange)
			b, err := s.lab.AddEdit(c.Request().Context(), id(c), c.revision, e.InjectionID, e.Edit, e.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/edits/take-back", "takeBack", "Take back one edit, or all of an injection", nil, &TakeBack{}, View{}, func(c *call, body any) (any, error) {
			t := body.(*TakeBack)
			b, err := s.lab.TakeBack(c.Request().Context(), id(c), c.revision, t.InjectionID, t.Index, t.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodGet, batchPath + "/signals", "signals", "The signals that the batch's files hold", nil, nil, []lab.BatchSignal{}, func(c *call, _ any) (any, error) {
			return s.lab.Signals(c.Request().Context(), id(c))
		}},
		{http.MethodPut, batchPath + "/signal", "chooseSignal", "Process another signal in every injection that has it", nil, &SignalChoice{}, View{}, func(c *call, body any) (any, error) {
			m := body.(*SignalChoice)
			b, err := s.lab.ChooseSignal(c.Request().Context(), id(c), c.revision, m.Name, m.Unit, m.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/channels", "addChannel", "Process one more signal of every injection, as a channel of its own", nil, &lab.ChannelAsked{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.AddChannel(c.Request().Context(), id(c), c.revision, *body.(*lab.ChannelAsked), c.who)
			return view(c, b, err)
		}},
		{http.MethodDelete, batchPath + "/channels/:channel", "removeChannel", "No longer process a channel", nil, nil, View{}, func(c *call, _ any) (any, error) {
			b, err := s.lab.RemoveChannel(c.Request().Context(), id(c), c.revision, c.Param("channel"), c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/settled", "settle", "Deal with notices", nil, &Settlement{}, View{}, func(c *call, body any) (any, error) {
			n := body.(*Settlement)
			b, err := s.lab.Settle(c.Request().Context(), id(c), c.revision, n.Keys, n.Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/undo", "undo", "Take back the newest change", nil, &Because{}, View{}, func(c *call, body any) (any, error) {
			if err := s.mayStep(c, func(h lab.History) string { return h.Undo }); err != nil {
				return nil, err
			}
			b, err := s.lab.Undo(c.Request().Context(), id(c), c.revision, body.(*Because).Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/redo", "redo", "Bring back what was undone last", nil, &Because{}, View{}, func(c *call, body any) (any, error) {
			if err := s.mayStep(c, func(h lab.History) string { return h.Redo }); err != nil {
				return nil, err
			}
			b, err := s.lab.Redo(c.Request().Context(), id(c), c.revision, body.(*Because).Reason, c.who)
			return view(c, b, err)
		}},
		{http.MethodGet, batchPath + "/result", "result", "Peaks, curves, amounts, checks and notices", nil, nil, ResultView{}, func(c *call, _ any) (any, error) {
			p, err := s.lab.Process(c.Request().Context(), id(c))
			return ResultView{p.InputsHash, short(p.Result)}, err
		}},
		{http.MethodGet, batchPath + "/quantities", "quantities", "What the batch can show: every quantity with its words, unit and how it is got", nil, nil, []quantities.Quantity{}, func(c *call, _ any) (any, error) {
			return s.lab.Quantities(c.Request().Context(), id(c))
		}},
		{http.MethodGet, batchPath + "/matrix", "matrix", "One quantity over all injections and compounds", []string{"quantity"}, nil, lab.Matrix{}, func(c *call, _ any) (any, error) {
			return s.lab.MatrixOf(c.Request().Context(), id(c), c.QueryParam("quantity"))
		}},
		{http.MethodGet, batchPath + "/summary", "summary", "Measures over compounds and injections, with statistics over groups of injections", summaryQuery, nil, lab.Summary{}, func(c *call, _ any) (any, error) {
			return s.lab.SummaryOf(c.Request().Context(), id(c), summaryAsked(c.Context))
		}},
		{http.MethodGet, batchPath + "/above", "above", "The whole batch from above: a row for each injection, its signal in columns of time", []string{"channel", "columns", "less", "lined", "reference", "heights"}, nil, lab.Above{}, func(c *call, _ any) (any, error) {
			columns, err := strconv.Atoi(c.QueryParam("columns"))
			if err != nil {
				columns = 900
			}
			return s.lab.FromAbove(c.Request().Context(), id(c), c.QueryParam("channel"), columns, treatmentOf(c.Context))
		}},
		{http.MethodGet, batchPath + "/injections/:injection/peaks", "peaks", "The peaks of one injection with all their measures", []string{"channel"}, nil, []batch.NamedPeak{}, func(c *call, _ any) (any, error) {
			return s.lab.Peaks(c.Request().Context(), id(c), c.Param("injection"), c.QueryParam("channel"))
		}},
		{http.MethodGet, batchPath + "/injections/:injection/signals", "signalsOf", "The signals of one injection's file", nil, nil, []lab.InjectionSignal{}, func(c *call, _ any) (any, error) {
			return s.lab.SignalsOf(c.Request().Context(), id(c), c.Param("injection"))
		}},
		{http.MethodGet, batchPath + "/injections/:injection/spectrum", "spectrum", "The spectrum of an injection that was measured nearest to a moment", []string{"at_min"}, nil, lab.Spectrum{}, func(c *call, _ any) (any, error) {
			at, err := strconv.ParseFloat(c.QueryParam("at_min"), 64)
			if err != nil {
				return nil, problem{Status: http.StatusBadRequest, Detail: "at_min is not a number."}
			}
			return s.lab.SpectrumAt(c.Request().Context(), id(c), c.Param("injection"), at)
		}},
		{http.MethodGet, batchPath + "/injections/:injection/proposals", "proposals", "Other ways to part the peaks of one injection, where drops serve badly", []string{"channel"}, nil, []peaks.Proposal{}, func(c *call, _ any) (any, error) {
			return s.lab.Proposals(c.Request().Context(), id(c), c.Param("injection"), c.QueryParam("channel"))
		}},
		{http.MethodPost, batchPath + "/preview", "preview", "What other settings would give; nothing is written", nil, &lab.Trial{}, lab.Preview{}, func(c *call, body any) (any, error) {
			return s.lab.TryPeaks(c.Request().Context(), id(c), *body.(*lab.Trial))
		}},
		{http.MethodPost, batchPath + "/suggestions", "suggest", "Settings that find the peaks of examples; nothing is written", nil, &lab.Examples{}, peaks.Suggestion{}, func(c *call, body any) (any, error) {
			return s.lab.SuggestPeaks(c.Request().Context(), id(c), *body.(*lab.Examples))
		}},
		{http.MethodGet, batchPath + "/working", "working", "The derivation of one number", []string{"injection", "compound"}, nil, batch.Working{}, func(c *call, _ any) (any, error) {
			return s.lab.Working(c.Request().Context(), id(c), c.QueryParam("injection"), c.QueryParam("compound"))
		}},
		{http.MethodGet, batchPath + "/limits", "limits", "Detection and quantitation limits by every way, over all batches of the study", nil, nil, []lab.LimitTable{}, func(c *call, _ any) (any, error) {
			return s.lab.Limits(c.Request().Context(), id(c))
		}},
		{http.MethodPost, batchPath + "/curve-trials", "tryCurve", "What another curve of one compound would give; nothing is written", nil, &lab.CurveTrial{}, lab.TriedCurve{}, func(c *call, body any) (any, error) {
			return s.lab.TryCurve(c.Request().Context(), id(c), *body.(*lab.CurveTrial))
		}},
		{http.MethodGet, batchPath + "/versions", "versions", "The versions of the batch's method, the newest first", nil, nil, []VersionView{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.Versions(c.Request().Context(), id(c))
			return versionViews(list), err
		}},
		{http.MethodGet, batchPath + "/since", "since", "What has changed in the results since an earlier version of the method", []string{"version"}, nil, SinceView{}, func(c *call, _ any) (any, error) {
			since, err := s.lab.ChangedSince(c.Request().Context(), id(c), c.QueryParam("version"))
			return SinceView{versionView(since.Version), since.Effects, since.Same}, err
		}},
		{http.MethodGet, batchPath + "/control", "control", "The checks of one compound over all batches of the study", []string{"compound"}, nil, []lab.ControlPoint{}, func(c *call, _ any) (any, error) {
			return s.lab.Control(c.Request().Context(), id(c), c.QueryParam("compound"))
		}},
		{http.MethodGet, batchPath + "/record", "record", "The newest changes of a batch", nil, nil, []record.Row{}, func(c *call, _ any) (any, error) {
			return s.lab.Record(c.Request().Context(), id(c))
		}},
		{http.MethodGet, batchPath + "/ridges", "ridges", "Silhouettes of all injections", nil, nil, []Ridge{}, s.ridges},
		{http.MethodGet, batchPath + "/pages", "pages", "The pages of a report", []string{"layout", "injection"}, nil, Pages{}, func(c *call, _ any) (any, error) {
			pages, err := s.lab.Pages(c.Request().Context(), id(c), c.QueryParam("layout"), c.QueryParam("injection"))
			return Pages{pages}, err
		}},
		{http.MethodGet, batchPath + "/reports", "reports", "Kept reports", nil, nil, []KeptReport{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.Reports(c.Request().Context(), id(c))
			return each(list, err, reportOf)
		}},
		{http.MethodPost, batchPath + "/reports", "keepReport", "Keep a report as it is now", nil, &ReportChoice{}, KeptReport{}, func(c *call, body any) (any, error) {
			r := body.(*ReportChoice)
			kept, err := s.lab.KeepReport(c.Request().Context(), id(c), r.Layout, r.InjectionID, c.who)
			return reportOf(kept), err
		}},
		{http.MethodPost, "/checks", "check", "Check hashes, record and database", nil, nil, record.Verification{}, func(c *call, _ any) (any, error) {
			return s.lab.Check(c.Request().Context(), c.who)
		}},
		{http.MethodGet, batchPath + "/arrivals", "arrivals", "The files that were sent to a batch since the server started, with what became of them", nil, nil, []taking.Arrived{}, func(c *call, _ any) (any, error) {
			return s.lab.Arrivals(id(c)), nil
		}},
	}
	return slices.Concat(list, s.intakeOperations(view), s.reportOperations(), s.fieldOperations(), s.spectraOperations(view), s.peopleOperations(), s.reviewOperations(), s.benchOperations(view), s.jobOperations(view))
}

// ridges are drawn small: what matters is that they can be told apart at a glance.
func (s *server) ridges(c *call, _ any) (any, error) {
	list, err := s.lab.Silhouettes(c.Request().Context(), c.Param("batch"), 120)
	ridges := make([]Ridge, len(list))
	for i, r := range list {
		ridges[i] = Ridge{r.InjectionID, r.Heights}
	}
	return ridges, err
}
