package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func parsed[T any](t *testing.T, stdin string, args ...string) (v T) {
	t.Helper()
	out, errs, code := yugen(t, stdin, args...)
	if code != 0 {
		t.Fatalf("%v: %s", args, errs)
	}
	if err := json.Unmarshal([]byte(out), &v); err != nil {
		t.Fatalf("%v: %v in %s", args, err, out)
	}
	return v
}

func inFile(t *testing.T, name, text string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return file
}

// The references of matches and indices, by the command line.
func TestMatchAndIndexAnswerTheReference(t *testing.T) {
	const data = "../../core/spectra/testdata/"
	queries := fromFile[[]struct {
		ID    string          `json:"id"`
		Peaks json.RawMessage `json:"peaks"`
	}](t, data+"queries.json")
	truth := fromFile[struct {
		Queries []struct {
			Query   string
			Results map[string]struct {
				Scores map[string]float64
				Order  []string
			}
		}
	}](t, data+"search.truth.json")
	for k, q := range queries {
		want := truth.Queries[k].Results
		for name, flags := range map[string][]string{"mz1_i05": nil, "plain": {"--a", "0", "--b", "1"}, "mz3_i06": {"--a", "3", "--b", "0.6"}} {
			spectrum := inFile(t, "spectrum.json", fmt.Sprintf(`{"peaks": %s, "made": "here"}`, q.Peaks))
			got := parsed[struct{ Hits []hit }](t, "", append([]string{"match", spectrum, "--library", data + "library.json", "--hits", "40"}, flags...)...)
			if len(got.Hits) != 40 {
				t.Fatalf("%d hits", len(got.Hits))
			}
			for n, h := range got.Hits {
				if math.Abs(h.Forward-want[name+"_forward"].Scores[h.ID]) > 1e-9 || math.Abs(h.Reverse-want[name+"_reverse"].Scores[h.ID]) > 1e-9 || n < 5 && h.ID != want[name+"_forward"].Order[n] {
					t.Errorf("%s, %s, hit %d: %+v", q.ID, name, n+1, h)
				}
			}
		}
	}
	index := fromFile[map[string]json.RawMessage](t, data+"retention_index.truth.json")
	for way, flags := range map[string][]string{"linear": nil, "kovats": {"--kovats", "--hold-up", "1.152"}} {
		var c struct {
			Ladder map[string]float64 `json:"ladder_min"`
			Cases  []struct {
				Min float64  `json:"t_min"`
				RI  *float64 `json:"ri"`
			}
		}
		if err := json.Unmarshal(index[way], &c); err != nil {
			t.Fatal(err)
		}
		text := "carbons,retention_min\n"
		for n, min := range c.Ladder {
			text += fmt.Sprintf("%s,%g\n", n, min)
		}
		args := append([]string{"index", "--ladder", inFile(t, "ladder.csv", text)}, flags...)
		for _, one := range c.Cases {
			args = append(args, fmt.Sprint(one.Min))
		}
		got := parsed[struct{ Indices []indexed }](t, "", args...)
		for k, one := range c.Cases {
			if i := got.Indices[k]; i.TimeMin != one.Min || (i.Index == nil) != (one.RI == nil) || i.Index != nil && math.Abs(*i.Index-*one.RI) > 1e-6 {
				t.Errorf("%s at %g min: %v, want %v", way, one.Min, i.Index, one.RI)
			}
		}
	}
}

func fromFile[T any](t *testing.T, name string) (v T) {
	t.Helper()
	data, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(data, &v); err != nil {
		t.Fatal(err)
	}
	return v
}

// Spectra of a run whose lines are known: at a moment, over a stretch, of a peak, less backgrounds, of masses and of wavelengths.
func TestSpectraOfARun(t *testing.T) {
	text := "time_s,50,60,70.2,207\n"
	for i := range 200 {
		s := float64(i)
		peak := 1000 * math.Exp(-(s-100)*(s-100)/200)
		text += fmt.Sprintf("%g,%.6f,%.6f,%.6f,%.6f\n", s, 5+peak, 0.5*peak, 2*peak, 40+0.1*s)
	}
	file := inFile(t, "run.csv", text)
	spectrum := func(args ...string) spectrumAnswer {
		t.Helper()
		return parsed[spectrumAnswer](t, "", append([]string{"spectrum", file, "--axis", "mz"}, args...)...)
	}
	near := func(what string, a spectrumAnswer, want ...[2]float64) {
		t.Helper()
		if len(a.Peaks) != len(want) {
			t.Errorf("%s: %v, want %v", what, a.Peaks, want)
			return
		}
		for k, p := range a.Peaks {
			if p[0] != want[k][0] || math.Abs(p[1]-want[k][1]) > 1e-4*math.Max(1, want[k][1]) {
				t.Errorf("%s: %v, want %v", what, a.Peaks, want)
			}
		}
	}
	at := spectrum("--at", "1.6667")
	near("at the apex", at, [2]float64{50, 1005}, [2]float64{60, 500}, [2]float64{70.2, 2000}, [2]float64{207, 50})
	near("less the background, running straight", spectrum("--from", "1.66666", "--to", "1.66667", "--background", "0-0.5", "--background", "2.8334–3.3001"), [2]float64{50, 1000}, [2]float64{60, 500}, [2]float64{70.2, 2000})
	near("the largest at 999", spectrum("--at", "1.6667", "--background", "2.8-3.3", "--largest", "999"), [2]float64{50, 499.5}, [2]float64{60, 249.75}, [2]float64{70.2, 999})
	mean := spectrum("--from", "0", "--to", "0.1")
	near("a mean", mean, [2]float64{50, 5}, [2]float64{207, 40.3})
	if mean.Scans != 7 || mean.FromMin != 0 || mean.ToMin != 0.1 {
		t.Errorf("%+v", mean)
	}
	apex := spectrum("--apex", "1.6")
	if first, last := apex.FromMin*60, apex.ToMin*60; apex.Scans != 23 || math.Abs(first+last-200) > 1e-6 { // half of the height is reached 11.8 s from the apex
		t.Errorf("the scans above half height are %d, from %g to %g s", apex.Scans, first, last)
	}
	for says, args := range map[string][]string{
		"say which spectrum":                  nil,
		"say one of":                          {"--at", "1", "--from", "1"},
		"no scan lies between 50 and 51 min":  {"--from", "50", "--to", "51"},
		"nothing was measured at 9 min":       {"--at", "9"},
		"is no stretch":                       {"--at", "1", "--background", "x"},
		"where the background is asked for":   {"--at", "1", "--background", "7-8"},
		"one or two stretches":                {"--at", "1", "--background", "0-1", "--background", "2-3", "--background", "2-3"},
		"no spectra of this kind":             {"--at", "1", "--level", "2"},
		"the stretch from 2 to 1 min is none": {"--from", "2", "--to", "1"},
	} {
		if _, errs, code := yugen(t, "", append([]string{"spectrum", file, "--axis", "mz"}, args...)...); code != 1 || !strings.Contains(strings.ToLower(errs), strings.ToLower(says)) {
			t.Errorf("%v: %d %q", args, code, errs)
		}
	}
	if _, errs, code := yugen(t, "", "spectrum", inFile(t, "uv.csv", "time_min,UV 278 nm [mAU]\n"+"0,1\n1,2\n2,1\n3,1\n4,1\n5,1\n6,1\n7,1\n8,1\n9,1\n"), "--at", "1"); code != 1 || !strings.Contains(errs, "no spectra") {
		t.Errorf("of a file without spectra: %d %q", code, errs)
	}
}

// What cannot be matched or indexed is refused in a sentence that says where.
func TestMatchesThatCannotBe(t *testing.T) {
	good, library := inFile(t, "q.json", `{"peaks": [[50, 1], [60, 2]]}`), inFile(t, "l.json", `[{"id": 7, "name": "A", "peaks": [[50, 1]], "whatever": {"x": []}}]`)
	got := parsed[struct{ Hits []hit }](t, "", "match", good, "--library", library)
	if len(got.Hits) != 1 || got.Hits[0].ID != "7" || got.Hits[0].Matched != 1 {
		t.Errorf("%+v", got)
	}
	if got := parsed[struct{ Hits []hit }](t, `{"peaks": []}`, "match", "-", "--library", library); len(got.Hits) != 1 || got.Hits[0].Forward != 0 {
		t.Errorf("of an empty spectrum: %+v", got)
	}
	for says, args := range map[string][]string{
		"no spectrum of the form":   {"match", inFile(t, "a", "hello"), "--library", library},
		"line 2 has 3 numbers":      {"match", inFile(t, "a", `{"peaks": [[1,2],[1,2,3]]}`), "--library", library},
		"the height -2":             {"match", inFile(t, "a", `{"peaks": [[1,-2]]}`), "--library", library},
		"spectrum 1, B: line 1":     {"match", good, "--library", inFile(t, "l", `[{"name": "B", "peaks": [[0,1]]}]`)},
		"neither JSON":              {"match", good, "--library", inFile(t, "l", "a,b\n1,2\n")},
		"the library is empty":      {"match", good, "--library", inFile(t, "l", " \n")},
		"above 0, up to 10":         {"match", good, "--library", library, "--b", "0"},
		"at least one hit":          {"match", good, "--library", library, "--hits", "0"},
		"does not come after":       {"index", "1", "--ladder", inFile(t, "c", "carbons,retention_min\n8,4\n9,4\n")},
		"from 2 to 100 are taken":   {"index", "1", "--ladder", inFile(t, "c", "8,4\n")},
		"the ladder is empty":       {"index", "1", "--ladder", inFile(t, "c", "carbons,retention_min\n")},
		`"x" is no time`:            {"index", "1", "--ladder", inFile(t, "c", "carbons,retention_min\n8,x\n")},
		`"1.5" is no number of`:     {"index", "1", "--ladder", inFile(t, "c", "carbons,retention_min\n1.5,2\n")},
		`"soon" is no time`:         {"index", "soon", "--ladder", inFile(t, "c", "8,4\n9,5\n")},
		"need the hold-up time":     {"index", "5", "--kovats", "--ladder", inFile(t, "c", "8,4\n9,5\n")},
		"not after the hold-up":     {"index", "5", "--kovats", "--hold-up", "4.5", "--ladder", inFile(t, "c", "8,4\n9,5\n")},
		"counts only with --kovats": {"index", "5", "--hold-up", "1", "--ladder", inFile(t, "c", "8,4\n9,5\n")},
	} {
		if _, errs, code := yugen(t, "", args...); code != 1 || !strings.Contains(strings.ToLower(errs), strings.ToLower(says)) {
			t.Errorf("%v: %d %q", args, code, errs)
		}
	}
	// As a spreadsheet of another country writes it, in seconds, and with the names of the alkanes.
	got2 := parsed[struct{ Indices []indexed }](t, "", "index", "4.5", "--ladder", inFile(t, "c", "Alkane\tRetention time (s)\nn-C8\t240,0\nn-C9\t300,0\n"))
	if got2.Indices == nil || math.Abs(*got2.Indices[0].Index-850) > 1e-9 {
		t.Errorf("%+v", got2)
	}
}
