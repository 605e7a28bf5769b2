package main

import (
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"yugen/report"
	"yugen/report/layouts"
)

// exampleFiles are the arguments that process the example batch.
func exampleFiles(t *testing.T) []string {
	t.Helper()
	files, err := filepath.Glob("../../examples/*.cdf")
	if err != nil || len(files) == 0 {
		t.Fatal("there are no examples", err)
	}
	return append([]string{"--method", "../../examples/method.json", "--runlist", "../../examples/runlist.csv"}, files...)
}

// Reports by a layout of one's own and by one that ships, in every format: made again they are the same, the list of checksums is true, and they hold the
// numbers that processing gives.
func TestReportsByALayout(t *testing.T) {
	shipped, err := layouts.ShippedLayout("certificate")
	if err != nil {
		t.Fatal(err)
	}
	own := filepath.Join(t.TempDir(), "own.json")
	shipped.Name = "Ours"
	if err := os.WriteFile(own, shipped.JSON(), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		layout, each string
		names        []string
	}{
		{own, "sample", []string{"Sencha second flush"}},
		{"whole-batch", "batch", []string{"runlist.csv"}},
		{"one-page", "", []string{"1 Standard 1 mg-L", "7 Blank after 200 mg-L", "9 Sencha second flush"}},
	} {
		var first map[string][]byte
		for range 2 {
			dir := filepath.Join(t.TempDir(), "out")
			args := append([]string{"report", "--layout", c.layout, "--out", dir, "--as", "pdf,html,csv,xlsx,json"}, exampleFiles(t)...)
			if c.each != "" {
				args = append(args, "--each", c.each)
			}
			if _, errs, code := yugen(t, "", args...); code != 0 {
				t.Fatal(errs)
			}
			made := folder(t, dir)
			for _, name := range c.names {
				for _, as := range report.FileKinds {
					if len(made[name+"."+string(as)]) == 0 {
						t.Errorf("%s: %s.%s was not made", c.layout, name, as)
					}
				}
			}
			checkSums(t, made)
			if first == nil {
				first = made
				continue
			}
			for name, data := range made {
				if !bytes.Equal(first[name], data) {
					t.Errorf("%s: %s is not the same when it is made again", c.layout, name)
				}
			}
		}
		if c.layout != own {
			continue
		}
		var d report.Document
		if err := json.Unmarshal(first["Sencha second flush.json"], &d); err != nil {
			t.Fatal(err)
		}
		k := slices.IndexFunc(d.Samples[0].Results, func(m report.Mean) bool { return m.Name == "Caffeine" })
		if m := d.Samples[0].Results[k].Mean; d.Layout != "Ours" || m == nil || !strings.Contains(string(first["Sencha second flush.csv"]), fmt.Sprint(*m)) {
			t.Errorf("the document and the table do not agree on caffeine: %+v", d.Samples[0].Results[k])
		}
	}
}

func folder(t *testing.T, dir string) map[string][]byte {
	t.Helper()
	entries, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	for _, e := range entries {
		data, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			t.Fatal(err)
		}
		out[e.Name()] = data
	}
	return out
}

// checkSums holds the list against the files beside it.
func checkSums(t *testing.T, made map[string][]byte) {
	t.Helper()
	lines := strings.Split(strings.TrimSpace(string(made["checksums.txt"])), "\n")
	if len(lines) != len(made)-1 {
		t.Errorf("%d checksums of %d files", len(lines), len(made)-1)
	}
	for _, line := range lines {
		sum, name, _ := strings.Cut(line, "  ")
		if fmt.Sprintf("%x", sha256.Sum256(made[name])) != sum {
			t.Errorf("the checksum of %s is not its own", name)
		}
	}
}

func TestReportsThatCannotBeMade(t *testing.T) {
	bad := filepath.Join(t.TempDir(), "bad.json")
	if err := os.WriteFile(bad, []byte(`{"name":"A","each":"batch","rows":[[{"kind":"poem"}]]}`), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		layout string
		more   []string
		says   string
	}{
		{bad, nil, bad + `: rows[0][0].kind: there is no block "poem"`},
		{"nothing", nil, "layouts that ship are one-page"},
		{"one-page", []string{"--as", "docx"}, `"docx" is no format`},
		{"one-page", []string{"--each", "day"}, `not "day"`},
		{"one-page", []string{"--name", "{name"}, "not closed"},
	} {
		dir := filepath.Join(t.TempDir(), "out")
		args := append(append([]string{"report", "--layout", c.layout, "--out", dir}, c.more...), exampleFiles(t)...)
		_, errs, code := yugen(t, "", args...)
		if code != 1 || !strings.Contains(errs, c.says) {
			t.Errorf("%s %v: code %d, %s", c.layout, c.more, code, errs)
		}
		if _, err := os.Stat(dir); err == nil {
			t.Errorf("%s %v: a refused report leaves a folder", c.layout, c.more)
		}
	}
}

// Fields of a method are computed on the command line as in the application: columns of the table, values on the page, notices of limits; one that is not
// understood is told with its place.
func TestFieldsOnTheCommandLine(t *testing.T) {
	dir := t.TempDir()
	data, err := os.ReadFile("../../examples/method.json")
	if err != nil {
		t.Fatal(err)
	}
	method := func(formula string) string {
		t.Helper()
		var m map[string]any
		if err := json.Unmarshal(data, &m); err != nil {
			t.Fatal(err)
		}
		m["fields"] = []any{map[string]any{"name": "Caffeine share", "short": "caffeine_share", "lives": "injection", "formula": formula, "unit": "%", "decimals": 1, "high": 20}}
		out, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(dir, "method.json")
		if err := os.WriteFile(file, out, 0o644); err != nil {
			t.Fatal(err)
		}
		return file
	}
	args := func(file string) []string {
		return append([]string{"process", "--method", file, "--runlist", "../../examples/runlist.csv", "--out", filepath.Join(dir, "out")}, exampleFiles(t)[4:]...)
	}
	if _, errs, code := yugen(t, "", args(method("100 * compound(\"Caffeine\").aera_s"))...); code != 1 || !strings.Contains(errs, "field Caffeine share, letter 28: There is no aera_s here; area_s is near.") {
		t.Errorf("code %d, %s", code, errs)
	}
	if _, errs, code := yugen(t, "", args(method("100 * compound(\"Caffeine\").area_s / sum(peaks, .area_s)"))...); code != 0 {
		t.Fatal(errs)
	}
	made := folder(t, filepath.Join(dir, "out"))
	table, err := csv.NewReader(bytes.NewReader(made["results.csv"])).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	at := slices.Index(table[0], "caffeine_share")
	area := slices.Index(table[0], "area_s")
	if at < 0 {
		t.Fatalf("the table has %v", table[0])
	}
	var result struct {
		Injections []struct {
			Peaks []struct {
				AreaS float64 `json:"area_s"`
			} `json:"peaks"`
		} `json:"injections"`
		Notices []struct {
			Kind string `json:"kind"`
		} `json:"notices"`
	}
	if err := json.Unmarshal(made["results.json"], &result); err != nil {
		t.Fatal(err)
	}
	outside := 0
	for _, row := range table[1:] {
		if row[slices.Index(table[0], "compound")] != "Caffeine" || row[at] == "" {
			continue
		}
		number, _ := strconv.Atoi(row[0])
		own, _ := strconv.ParseFloat(row[area], 64)
		share, _ := strconv.ParseFloat(row[at], 64)
		all := 0.0
		for _, p := range result.Injections[number-1].Peaks {
			all += p.AreaS
		}
		if math.Abs(share-100*own/all) > 1e-9 {
			t.Errorf("injection %d: %g, by hand %g", number, share, 100*own/all)
		}
		if share > 20 {
			outside++
		}
	}
	told := 0
	for _, n := range result.Notices {
		if n.Kind == "field_caffeine_share" {
			told++
		}
	}
	if outside == 0 || told != outside {
		t.Errorf("%d are above 20 %%, %d notices", outside, told)
	}
}
