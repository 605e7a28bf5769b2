package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/ladder"
	"yugen/formats/library"
)

// spectrumAnswer is what spectrum answers.
type spectrumAnswer struct {
	File    string       `json:"file"`
	Kind    spectra.Kind `json:"kind"`
	Level   int          `json:"level,omitempty"`
	Unit    string       `json:"unit,omitempty"`
	FromMin float64      `json:"from_min"` // of the first scan that is in it
	ToMin   float64      `json:"to_min"`
	Scans   int          `json:"scans"`
	// Background is how many scans were taken off as their mean.
	Background int          `json:"background_scans"`
	Peaks      [][2]float64 `json:"peaks"` // m/z or nm, and intensity
}

// spectrumAsked says which spectrum of a file is meant.
type spectrumAsked struct {
	at, from, to, apex float64
	background         []string
	level              int
	wavelengths        bool
	within, largest    float64
}

func spectrumCommand() *cobra.Command {
	var s selection
	asked := spectrumAsked{}
	c := &cobra.Command{
		Use: "spectrum FILE", Short: "One spectrum of a file: at a moment, over a stretch, or of a peak, less a background", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			f, err := s.open(files[0])
			if err != nil {
				return err
			}
			a, err := asked.of(f, c.Flags().Changed)
			if err != nil {
				return fmt.Errorf("%s: %w", files[0], err)
			}
			a.File = files[0]
			return writeJSON(c.OutOrStdout(), a)
		},
	}
	c.Flags().Float64Var(&asked.at, "at", 0, "the scan nearest to this time, min")
	c.Flags().Float64Var(&asked.from, "from", 0, "the mean from this time, min")
	c.Flags().Float64Var(&asked.to, "to", 0, "to this one")
	c.Flags().Float64Var(&asked.apex, "apex", 0, "the mean of the scans above half the height of the highest peak with its apex within 0.2 min of this time")
	c.Flags().StringArrayVar(&asked.background, "background", nil, "a stretch whose mean is taken off, as 4.1-4.3 min; once or twice")
	c.Flags().IntVar(&asked.level, "level", 1, "of mass spectra: 1 for full scans, 2 for fragments")
	c.Flags().BoolVar(&asked.wavelengths, "wavelengths", false, "the spectra of wavelengths, where a file has masses too")
	c.Flags().Float64Var(&asked.within, "within", 0, "m/z within which lines of several scans are one; found from the scans without")
	c.Flags().Float64Var(&asked.largest, "largest", 0, "set the largest intensity to this")
	c.Flags().StringVar(&s.axis, "axis", "", "what bare numbers as heads of a table are: mz, nm or channels; a guess without")
	return c
}

// run is the spectra that are meant.
func (a spectrumAsked) run(f formats.File) (spectra.Run, error) {
	for _, r := range f.Spectra {
		if r.Kind == spectra.Wavelength && (a.wavelengths || len(f.Spectra) == 1) || r.Kind == spectra.Mass && !a.wavelengths && max(1, r.Level) == a.level {
			return r, nil
		}
	}
	if len(f.Spectra) == 0 {
		return spectra.Run{}, errors.New("there are no spectra in it, only signals against time")
	}
	return spectra.Run{}, errors.New("there are no spectra of this kind or level in it")
}

func (a spectrumAsked) of(f formats.File, given func(string) bool) (spectrumAnswer, error) {
	r, err := a.run(f)
	if err != nil {
		return spectrumAnswer{}, err
	}
	if !(a.within >= 0) {
		return spectrumAnswer{}, fmt.Errorf("lines of several scans are one within %g m/z, which is no distance", a.within)
	}
	scans, err := a.scans(r, given)
	if err != nil {
		return spectrumAnswer{}, err
	}
	var background [2][]spectra.Scan
	taken := 0
	if len(a.background) > 2 {
		return spectrumAnswer{}, errors.New("a background is of one or two stretches")
	}
	for k, words := range a.background {
		from, to, err := stretch(words)
		if err != nil {
			return spectrumAnswer{}, err
		}
		part := spectra.Between(r.Scans, 60*from, 60*to)
		if len(part) == 0 {
			return spectrumAnswer{}, fmt.Errorf("no scan lies between %g and %g min, where the background is asked for; there are scans from %.4g to %.4g min", from, to, r.Scans[0].TimeS/60, r.Scans[len(r.Scans)-1].TimeS/60)
		}
		background[k] = part
		taken += len(part)
	}
	within := a.within
	if within == 0 {
		within = spectra.Apart(slices.Concat(scans, background[0], background[1]))
	}
	lines := spectra.Mean(r.Kind, scans, within)
	if taken > 0 {
		middle := (scans[0].TimeS + scans[len(scans)-1].TimeS) / 2
		lines = lines.Less(r.Kind, spectra.Background(r.Kind, background[0], background[1], middle, within), within)
	}
	if r.Kind == spectra.Mass && r.Profile {
		lines = lines.Centroids(0)
	}
	if a.largest > 0 {
		lines = lines.Normalised(a.largest)
	}
	answer := spectrumAnswer{Kind: r.Kind, Level: r.Level, Unit: r.Unit, FromMin: scans[0].TimeS / 60, ToMin: scans[len(scans)-1].TimeS / 60, Scans: len(scans), Background: taken, Peaks: lines.Pairs()}
	if r.Kind == spectra.Mass { // a line of no height is none
		list, err := spectra.LinesOf(answer.Peaks)
		if err == nil {
			answer.Peaks = list.Pairs()
		}
	}
	return answer, nil
}

// scans are those that the spectrum is of.
func (a spectrumAsked) scans(r spectra.Run, given func(string) bool) ([]spectra.Scan, error) {
	if len(r.Scans) == 0 {
		return nil, errors.New("there is no scan in it")
	}
	first, last := r.Scans[0].TimeS/60, r.Scans[len(r.Scans)-1].TimeS/60
	switch {
	case given("at") && (given("from") || given("to") || given("apex")) || given("apex") && (given("from") || given("to")):
		return nil, errors.New("a spectrum is at a moment, over a stretch, or of a peak: say one of --at, --from with --to, and --apex")
	case given("at") && !(a.at >= first-apexNear && a.at <= last+apexNear):
		return nil, fmt.Errorf("nothing was measured at %g min; there are scans from %.4g to %.4g min", a.at, first, last)
	case given("at"):
		return []spectra.Scan{r.Scans[nearestScan(r, 60*a.at)]}, nil
	case given("apex"):
		return aroundApex(r, a.apex)
	case given("from") && given("to"):
		if !(a.from <= a.to) {
			return nil, fmt.Errorf("the stretch from %g to %g min is none", a.from, a.to)
		}
		part := spectra.Between(r.Scans, 60*a.from, 60*a.to)
		if len(part) == 0 {
			return nil, fmt.Errorf("no scan lies between %g and %g min; there are scans from %.4g to %.4g min", a.from, a.to, first, last)
		}
		return part, nil
	}
	return nil, errors.New("say which spectrum: --at MIN, --from MIN --to MIN, or --apex MIN")
}

func nearestScan(r spectra.Run, atS float64) int {
	best := 0
	for k, s := range r.Scans {
		if math.Abs(s.TimeS-atS) < math.Abs(r.Scans[best].TimeS-atS) {
			best = k
		}
	}
	return best
}

// apexNear is how far from a time that somebody gives the apex is looked for, min.
const apexNear = 0.2

// aroundApex are the scans above half the height of a peak of the total signal, over its baseline.
func aroundApex(r spectra.Run, atMin float64) ([]spectra.Scan, error) {
	total := r.Total()
	tr, err := signal.New(r.Times(), total)
	if err != nil {
		return nil, err
	}
	found, err := peaks.Find(tr, peaks.Settings{}, nil)
	if err != nil {
		return nil, err
	}
	var best *peaks.Peak
	for k := range found.Peaks {
		if p := &found.Peaks[k]; math.Abs(p.ApexMin-atMin) <= apexNear && (best == nil || p.Height > best.Height) {
			best = p
		}
	}
	if best == nil {
		return nil, fmt.Errorf("no peak has its apex within %g min of %g min", apexNear, atMin)
	}
	apex := nearestScan(r, 60*best.ApexMin)
	from, to := spectra.AboveHalf(total, apex, total[apex]-best.Height)
	return r.Scans[from : to+1], nil
}

// stretch reads two times with a dash between them.
func stretch(words string) (from, to float64, err error) {
	for k := 1; k < len(words); k++ {
		if words[k] != '-' && !strings.HasPrefix(words[k:], "–") {
			continue
		}
		a, errA := strconv.ParseFloat(strings.TrimSpace(words[:k]), 64)
		b, errB := strconv.ParseFloat(strings.TrimSpace(strings.TrimLeft(words[k:], "-–")), 64)
		if errA == nil && errB == nil && a <= b {
			return a, b, nil
		}
	}
	return 0, 0, fmt.Errorf("%q is no stretch; write two times in minutes with a dash between, as 4.1-4.3", words)
}

// hit is an entry that is like a spectrum.
type hit struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Forward float64  `json:"forward"`
	Reverse float64  `json:"reverse"`
	Matched int      `json:"matched"`
	Index   *float64 `json:"retention_index,omitempty"`
}

func matchCommand() *cobra.Command {
	var file string
	weights := spectra.Usual
	hits, within := 10, spectra.UsualWithin
	c := &cobra.Command{
		Use: "match SPECTRUM.json", Short: "Find a spectrum in a library; - reads standard input", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			if err := weights.Validate(); err != nil {
				return err
			}
			if hits < 1 || !(within >= 0) {
				return fmt.Errorf("%d hits within %g m/z cannot be looked for; give at least one hit, and a distance not below 0", hits, within)
			}
			data, err := readFile(files[0])
			if err != nil {
				return err
			}
			var asked struct {
				Peaks [][]float64 `json:"peaks"`
			}
			if err := json.Unmarshal(data, &asked); err != nil {
				return fmt.Errorf("%s: it is no spectrum of the form {\"peaks\": [[mz, intensity], …]}: %w", files[0], err)
			}
			query, err := library.Lines(asked.Peaks)
			if err != nil {
				return fmt.Errorf("%s: %w", files[0], err)
			}
			data, err = readFile(file)
			if err != nil {
				return err
			}
			entries, err := library.Read(data)
			if err != nil {
				return fmt.Errorf("%s: %w", file, err)
			}
			found := []hit{}
			for _, h := range spectra.NewLibrary(entries, weights).Search(query, within, hits) {
				e := entries[h.Place]
				found = append(found, hit{e.ID, e.Name, h.Forward, h.Reverse, h.Matched, e.Index})
			}
			return writeJSON(c.OutOrStdout(), map[string][]hit{"hits": found})
		},
	}
	c.Flags().StringVar(&file, "library", "", "the library: JSON, JCAMP-DX or CSV")
	c.Flags().Float64Var(&weights.Mass, "a", weights.Mass, "lines count as m^a I^b: the power of m/z")
	c.Flags().Float64Var(&weights.Height, "b", weights.Height, "and that of the intensity")
	c.Flags().IntVar(&hits, "hits", hits, "how many are told")
	c.Flags().Float64Var(&within, "tolerance", within, "m/z within which lines pair")
	_ = c.MarkFlagRequired("library") // a flag of this name is there
	return c
}

// indexed is a time with its retention index; none outside the ladder.
type indexed struct {
	TimeMin float64  `json:"time_min"`
	Index   *float64 `json:"index"`
}

func indexCommand() *cobra.Command {
	var file string
	var isothermal bool
	var holdUp float64
	c := &cobra.Command{
		Use: "index TIMES...", Short: "Retention indices of times in minutes, against a ladder of alkanes", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, times []string) error {
			data, err := readFile(file)
			if err != nil {
				return err
			}
			rungs, err := ladder.Read(string(data))
			if err != nil {
				return fmt.Errorf("%s: %w", file, err)
			}
			l := compounds.Ladder{Scale: compounds.LinearScale, Rungs: rungs}
			switch {
			case isothermal && !c.Flags().Changed("hold-up"):
				return errors.New("indices of an isothermal run need the hold-up time: --hold-up MIN")
			case isothermal:
				l.Scale, l.HoldUpMin = compounds.LogarithmicScale, holdUp
			case c.Flags().Changed("hold-up"):
				return errors.New("a hold-up time counts only with --kovats")
			}
			if err := l.Validate(); err != nil {
				return fmt.Errorf("%s: %w", file, err)
			}
			list := []indexed{}
			for _, word := range times {
				v, err := strconv.ParseFloat(strings.TrimSpace(word), 64)
				if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
					return fmt.Errorf("%q is no time in minutes", word)
				}
				one := indexed{TimeMin: v}
				if index, ok := l.Index(v); ok {
					one.Index = &index
				}
				list = append(list, one)
			}
			return writeJSON(c.OutOrStdout(), map[string][]indexed{"indices": list})
		},
	}
	c.Flags().StringVar(&file, "ladder", "", "the ladder: a table of carbons,retention_min")
	c.Flags().BoolVar(&isothermal, "kovats", false, "the run was isothermal: indices run with the logarithm of the adjusted time")
	c.Flags().Float64Var(&holdUp, "hold-up", 0, "the hold-up time, min")
	_ = c.MarkFlagRequired("ladder") // a flag of this name is there
	return c
}
