package server

import (
	"fmt"
	"io"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/resolving"
	"yugen/lab"
	"yugen/store"
)

// LadderText is a table of alkanes as it was pasted.
type LadderText struct {
	Text string `json:"text"`
}

// LadderChecked is a ladder that is held against the peaks of an injection.
type LadderChecked struct {
	Ladder    compounds.Ladder `json:"ladder"`
	ApexesMin []float64        `json:"apexes_min"`
}

// IonsKept is a list of ions that is to be kept.
type IonsKept struct {
	Name  string   `json:"name"`
	Class string   `json:"class,omitempty"`
	Ions  []string `json:"ions"`
}

// NumberGiven is how many compounds a person says that a stretch holds.
type NumberGiven struct {
	Stretch   int `json:"stretch"`
	Compounds int `json:"compounds"`
}

// StretchesSet says where a run is cut.
type StretchesSet struct {
	Stretches []resolving.Stretch `json:"stretches"`
}

// ComponentAside leaves a component out, or has it back.
type ComponentAside struct {
	Stretch   int  `json:"stretch"`
	Component int  `json:"component"`
	Aside     bool `json:"aside"`
}

// ScreenDecisions are what a person says of compounds in samples.
type ScreenDecisions struct {
	Decisions []batch.ScreenDecision `json:"decisions"`
}

// LadderKept is a ladder that is to be kept by name; without rungs the one of that name is taken away.
type LadderKept struct {
	Name   string            `json:"name"`
	Ladder *compounds.Ladder `json:"ladder"`
}

// spectraOperations are those of spectra and of the libraries that they are looked for in.
func (s *server) spectraOperations(view func(*call, store.Batch, error) (any, error)) []operation {
	return []operation{
		{http.MethodPost, "/batches/:batch/injections/:injection/identify", "identify", "The mass spectrum of a peak, less its background, with what it is like in the libraries", nil, &lab.IdentifyAsked{}, lab.Identified{}, func(c *call, body any) (any, error) {
			return s.lab.Identify(c.Request().Context(), c.Param("batch"), c.Param("injection"), *body.(*lab.IdentifyAsked))
		}},
		{http.MethodPost, "/batches/:batch/rejections", "rejectName", "Say that the peak at a time is not what a library proposes; without a reason the rejection is taken back", nil, &lab.Rejection{}, []lab.Rejection{}, func(c *call, body any) (any, error) {
			return s.lab.RejectName(c.Request().Context(), c.Param("batch"), *body.(*lab.Rejection), c.who)
		}},
		{http.MethodGet, "/batches/:batch/injections/:injection/purity", "purity", "Whether the peak at a moment is one compound, by its spectra of wavelengths", []string{"at", "channel"}, nil, lab.PeakPurity{}, func(c *call, _ any) (any, error) {
			at, err := strconv.ParseFloat(c.QueryParam("at"), 64)
			if err != nil {
				return nil, problem{Status: http.StatusBadRequest, Detail: "at is a moment in minutes."}
			}
			return s.lab.PurityAt(c.Request().Context(), c.Param("batch"), c.Param("injection"), c.QueryParam("channel"), at)
		}},
		{http.MethodGet, "/batches/:batch/injections/:injection/map", "spectraMap", "The signal of an injection over time and wavelength, or m/z", nil, nil, lab.SpectraMap{}, func(c *call, _ any) (any, error) {
			return s.lab.MapOf(c.Request().Context(), c.Param("batch"), c.Param("injection"))
		}},
		{http.MethodGet, "/batches/:batch/screening", "screening", "Every target in every sample with the evidence, and what persons said", nil, nil, batch.Screened{}, func(c *call, _ any) (any, error) {
			return s.lab.Screening(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodGet, "/batches/:batch/injections/:injection/screening", "screenEvidence", "What speaks for and against a compound in an injection: traces, spectra, numbers", []string{"compound"}, nil, lab.ScreenEvidence{}, func(c *call, _ any) (any, error) {
			return s.lab.ScreenEvidenceOf(c.Request().Context(), c.Param("batch"), c.Param("injection"), c.QueryParam("compound"))
		}},
		{http.MethodPost, "/batches/:batch/screening", "decideScreening", "Say that compounds are present in samples, or not, all of it or nothing; an empty word takes back", nil, &ScreenDecisions{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.DecideScreening(c.Request().Context(), c.Param("batch"), c.revision, body.(*ScreenDecisions).Decisions, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, "/ladders/read", "readLadder", "What a pasted table of alkanes is taken for; nothing is written", nil, &LadderText{}, compounds.Ladder{}, func(_ *call, body any) (any, error) {
			return s.lab.ReadLadder(body.(*LadderText).Text)
		}},
		{http.MethodGet, "/batches/:batch/ladders", "ladders", "Ladders of alkanes that the study keeps by name", nil, nil, []lab.KeptLadder{}, func(c *call, _ any) (any, error) {
			return s.lab.Ladders(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, "/batches/:batch/ladders", "keepLadder", "Keep a ladder by name in the study, or take one away", nil, &LadderKept{}, []lab.KeptLadder{}, func(c *call, body any) (any, error) {
			k := body.(*LadderKept)
			if k.Ladder == nil {
				return s.lab.PutLadderAway(c.Request().Context(), c.Param("batch"), k.Name, c.who)
			}
			return s.lab.KeepLadder(c.Request().Context(), c.Param("batch"), k.Name, *k.Ladder, c.who)
		}},
		{http.MethodPost, "/ladders/check", "checkLadder", "What speaks against a ladder: rungs out of line, and how far the alkanes of an injection stand from it", nil, &LadderChecked{}, compounds.LadderCheck{}, func(_ *call, body any) (any, error) {
			c := body.(*LadderChecked)
			return s.lab.CheckLadder(c.Ladder, c.ApexesMin)
		}},
		{http.MethodGet, "/batches/:batch/ions", "ionLists", "Lists of ions that the study keeps by name", nil, nil, []lab.KeptIons{}, func(c *call, _ any) (any, error) {
			return s.lab.IonLists(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, "/batches/:batch/ions", "keepIonList", "Keep ions by the name of a compound or class; without ions the list is taken away", nil, &IonsKept{}, []lab.KeptIons{}, func(c *call, body any) (any, error) {
			k := body.(*IonsKept)
			return s.lab.KeepIonList(c.Request().Context(), c.Param("batch"), lab.KeptIons{Name: k.Name, Class: k.Class, Ions: k.Ions}, c.who)
		}},
		{http.MethodGet, "/batches/:batch/resolving", "resolving", "How far the whole batch is resolved: stretches of the run, and compounds against samples, with so many hits of each", []string{"hits"}, nil, lab.WholeBatch{}, func(c *call, _ any) (any, error) {
			hits := 1
			if asked := c.QueryParam("hits"); asked != "" {
				var err error
				if hits, err = strconv.Atoi(asked); err != nil || hits < 1 || hits > lab.MostHits {
					return nil, problem{Status: http.StatusBadRequest, Detail: fmt.Sprintf("hits is a number from 1 to %d.", lab.MostHits)}
				}
			}
			return s.lab.Resolving(c.Request().Context(), c.Param("batch"), hits)
		}},
		{http.MethodPost, "/batches/:batch/resolving", "resolveBatch", "Resolve all stretches of the run over all samples, as a job that can be stopped", nil, nil, lab.WholeBatch{}, func(c *call, _ any) (any, error) {
			if err := s.lab.ResolveBatch(c.Request().Context(), c.Param("batch"), c.who); err != nil {
				return nil, err
			}
			return s.lab.Resolving(c.Request().Context(), c.Param("batch"), 1)
		}},
		{http.MethodGet, "/batches/:batch/resolving/stretch", "resolvedStretch", "One stretch resolved: profiles, spectra, what they are like", []string{"stretch"}, nil, lab.ResolvedDetail{}, func(c *call, _ any) (any, error) {
			at, err := strconv.Atoi(c.QueryParam("stretch"))
			if err != nil {
				return nil, problem{Status: http.StatusBadRequest, Detail: "stretch is the place of a stretch, from 0."}
			}
			return s.lab.ResolvedStretchOf(c.Request().Context(), c.Param("batch"), at)
		}},
		{http.MethodGet, "/batches/:batch/resolving/second", "secondOpinion", "One stretch resolved by the shift-tolerant model, held against what is shown", []string{"stretch"}, nil, lab.SecondOpinion{}, func(c *call, _ any) (any, error) {
			at, err := strconv.Atoi(c.QueryParam("stretch"))
			if err != nil {
				return nil, problem{Status: http.StatusBadRequest, Detail: "stretch is the place of a stretch, from 0."}
			}
			return s.lab.SecondOpinionOf(c.Request().Context(), c.Param("batch"), at)
		}},
		{http.MethodPost, "/batches/:batch/resolving/number", "giveNumber", "Say how many compounds a stretch holds; 0 lets it be found", nil, &NumberGiven{}, lab.ResolvedDetail{}, func(c *call, body any) (any, error) {
			n := body.(*NumberGiven)
			return s.lab.GiveNumber(c.Request().Context(), c.Param("batch"), n.Stretch, n.Compounds, c.who)
		}},
		{http.MethodPost, "/batches/:batch/resolving/stretches", "setStretches", "Say where the run is cut; none at all go back to those that are proposed", nil, &StretchesSet{}, lab.WholeBatch{}, func(c *call, body any) (any, error) {
			return s.lab.SetStretches(c.Request().Context(), c.Param("batch"), body.(*StretchesSet).Stretches, c.who)
		}},
		{http.MethodPost, "/batches/:batch/resolving/aside", "putComponentAside", "Leave a component out of the table, or have it back", nil, &ComponentAside{}, lab.WholeBatch{}, func(c *call, body any) (any, error) {
			a := body.(*ComponentAside)
			return s.lab.PutComponentAside(c.Request().Context(), c.Param("batch"), a.Stretch, a.Component, a.Aside, c.who)
		}},
		{http.MethodPost, "/batches/:batch/resolving/names", "nameComponent", "Make a component a compound of the method, looked for by the ion that is most its own", nil, &lab.ComponentNamed{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.NameComponent(c.Request().Context(), c.Param("batch"), c.revision, *body.(*lab.ComponentNamed), c.who)
			return view(c, b, err)
		}},
		{http.MethodGet, "/libraries", "libraries", "The libraries of spectra of the laboratory", nil, nil, []lab.KeptLibrary{}, func(c *call, _ any) (any, error) {
			return s.lab.Libraries(c.Request().Context())
		}},
		{http.MethodPost, "/libraries/spectra", "addSpectrum", "Keep a spectrum in a library", nil, &lab.LibraryEntry{}, lab.LibraryTaken{}, func(c *call, body any) (any, error) {
			return s.lab.AddSpectrum(c.Request().Context(), *body.(*lab.LibraryEntry), c.who)
		}},
		{http.MethodDelete, "/libraries/spectra/:spectrum", "putSpectrumAway", "Take a spectrum out of its library", nil, nil, []lab.KeptLibrary{}, func(c *call, _ any) (any, error) {
			if err := s.lab.PutSpectrumAway(c.Request().Context(), c.Param("spectrum"), c.who); err != nil {
				return nil, err
			}
			return s.lab.Libraries(c.Request().Context())
		}},
	}
}

// maxLibrary bounds the file of a library.
const maxLibrary = 1 << 30

// takeLibrary takes a file into a library.
func (s *server) takeLibrary(c *echo.Context) error {
	data, err := io.ReadAll(http.MaxBytesReader(c.Response(), c.Request().Body, maxLibrary))
	if err != nil {
		return problem{Status: http.StatusRequestEntityTooLarge, Detail: "A library is a file of at most 1 GB."}
	}
	taken, err := s.lab.TakeLibrary(c.Request().Context(), c.QueryParam("name"), data, who(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, taken)
}

// libraryFile hands a library out.
func (s *server) libraryFile(c *echo.Context) error {
	as := c.QueryParam("as")
	data, err := s.lab.LibraryFile(c.Request().Context(), c.QueryParam("name"), as)
	if err != nil {
		return err
	}
	attach(c, c.QueryParam("name")+"."+as)
	return c.Blob(http.StatusOK, "application/octet-stream", data)
}
