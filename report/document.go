package report

import (
	"encoding/json"
	"slices"
	"time"

	"yugen/core/batch"
	"yugen/report/layouts"
)

// DocumentForm is the version of the JSON form of results; docs/results.md has its schema.
const DocumentForm = 1

// Document is what was found, as a laboratory's information system takes it up. Absent numbers are null.
type Document struct {
	Form       int          `json:"form"`
	Laboratory string       `json:"laboratory"`
	Study      string       `json:"study"`
	Batch      string       `json:"batch"`
	Method     string       `json:"method"`
	Version    int          `json:"method_version"`
	Inputs     string       `json:"inputs_sha256"` // of all that the numbers were made from
	InputsAt   time.Time    `json:"inputs_at"`     // of the newest input
	Layout     string       `json:"layout,omitempty"`
	Each       layouts.Each `json:"each"`
	Subject    string       `json:"subject"`
	Unit       string       `json:"unit"` // of amounts
	Injections []Injection  `json:"injections"`
	Samples    []Sampled    `json:"samples"`
	Remarks    []string     `json:"remarks"`
	Signatures []Signed     `json:"signatures,omitempty"`
}

// Signed is a signature of a document.
type Signed struct {
	Meaning     string     `json:"meaning"`
	Name        string     `json:"name"`
	At          time.Time  `json:"at"`
	Seal        string     `json:"seal_sha256"`
	Independent bool       `json:"independent"`
	WithdrawnAt *time.Time `json:"withdrawn_at"`
	Why         string     `json:"withdrawn_why,omitempty"`
}

// Injection is one of a document.
type Injection struct {
	Number     int               `json:"number"`
	Name       string            `json:"name"`
	Role       string            `json:"role"`
	File       string            `json:"file"`
	Vial       string            `json:"vial"`
	AcquiredAt *time.Time        `json:"acquired_at"`
	Own        map[string]string `json:"own,omitempty"` // by the names of the columns
	Compounds  []Found           `json:"compounds"`
}

// Found is one compound in one injection.
type Found struct {
	Name          string   `json:"name"`
	RetentionMin  *float64 `json:"retention_min"`
	AreaS         *float64 `json:"area_s"`
	Response      *float64 `json:"response"`
	Concentration *float64 `json:"concentration"`
	Amount        *float64 `json:"amount"`
	AmountSE      *float64 `json:"amount_standard_error"`
	Recovery      *float64 `json:"recovery_percent"`
	Remarks       string   `json:"remarks,omitempty"`
}

// Sampled is one sample of a document.
type Sampled struct {
	Name    string `json:"name"`
	Results []Mean `json:"results"`
}

// Mean is one compound or group of a sample.
type Mean struct {
	Name    string      `json:"name"`
	Group   bool        `json:"group,omitempty"`
	Mean    *float64    `json:"mean"`
	SE      *float64    `json:"standard_error"`
	CI95    *[2]float64 `json:"interval_95"`
	RSD     *float64    `json:"rsd_percent"`
	N       int         `json:"n"`
	Of      int         `json:"of"`
	Remarks string      `json:"remarks,omitempty"`
}

// JSON is the document of a subject. The same inputs give the same bytes.
func JSON(in Input, each layouts.Each, of Subject, layout string) ([]byte, error) {
	s, err := in.subject(each, of)
	if err != nil {
		return nil, err
	}
	d := Document{Form: DocumentForm, Laboratory: in.Laboratory, Study: in.Study, Batch: in.Batch, Method: in.MethodName, Version: in.Version, Inputs: in.InputsHash, InputsAt: in.MadeAt.UTC(),
		Layout: layout, Each: s.Each, Subject: s.name, Unit: in.Method.ReportedUnit(), Injections: []Injection{}, Samples: []Sampled{}, Remarks: []string{}}
	for _, k := range s.lines {
		d.Injections = append(d.Injections, in.injection(k))
	}
	for _, r := range in.Result.Samples {
		if slices.ContainsFunc(s.lines, func(k int) bool { return slices.Contains(r.InjectionIDs, in.Lines[k].ID) }) {
			d.Samples = append(d.Samples, in.sampled(r))
		}
	}
	for _, n := range in.open() {
		if s.Each == layouts.EachBatch || slices.ContainsFunc(s.lines, func(k int) bool { return in.Lines[k].ID == n.InjectionID }) {
			d.Remarks = append(d.Remarks, n.Subject+": "+n.Text)
		}
	}
	for _, g := range in.Signed {
		one := Signed{Meaning: g.Meaning, Name: g.Name, At: g.At.UTC(), Seal: g.Seal, Independent: !g.Alone}
		if g.Gone != nil {
			at := g.Gone.At.UTC()
			one.WithdrawnAt, one.Why = &at, g.Gone.Why
		}
		d.Signatures = append(d.Signatures, one)
	}
	out, err := json.MarshalIndent(d, "", "  ")
	return append(out, '\n'), err
}

func (in Input) injection(k int) Injection {
	l, injected := in.Lines[k], in.Result.Injections[k]
	one := Injection{Number: k + 1, Name: l.Name, Role: string(l.Role), File: l.File, Vial: l.Vial, AcquiredAt: l.AcquiredAt, Compounds: []Found{}}
	for _, c := range in.OwnColumns {
		if v := l.Own[c.ID]; v != "" {
			if one.Own == nil {
				one.Own = map[string]string{}
			}
			one.Own[c.Name] = v
		}
	}
	for _, c := range in.Method.Compounds {
		r := injected.Readings[c.ID]
		f := Found{Name: c.Name, Response: r.Response, Concentration: r.Concentration, Amount: r.Amount, AmountSE: r.AmountSE, Recovery: r.Recovery, Remarks: flagWords(r)}
		if p := injected.PeakOf(c.ID); p != nil {
			f.RetentionMin, f.AreaS = &p.ApexMin, &p.AreaS
		}
		one.Compounds = append(one.Compounds, f)
	}
	return one
}

func (in Input) sampled(r batch.SampleRow) Sampled {
	mean := func(name string, group bool, v batch.SampleValue) Mean {
		return Mean{name, group, v.Mean, v.SE, v.CI95, v.RSD, v.N, v.Of, remarks(v)}
	}
	one := Sampled{Name: r.Name, Results: []Mean{}}
	for _, c := range in.targets() {
		one.Results = append(one.Results, mean(c.Name, false, r.Values[c.ID]))
	}
	for _, g := range in.Method.Groups() {
		one.Results = append(one.Results, mean(g, true, r.Groups[g]))
	}
	return one
}

// Only is what is left of an input for a subject: its injections and its sample. Curves and checks stay as they are, since the amounts stand on them.
func (in Input) Only(each layouts.Each, of Subject) (Input, error) {
	s, err := in.subject(each, of)
	if err != nil || s.Each == layouts.EachBatch {
		return in, err
	}
	lines, injections := in.Lines, in.Result.Injections
	in.Lines, in.Result.Injections = nil, nil
	for _, k := range s.lines {
		in.Lines = append(in.Lines, lines[k])
		in.Result.Injections = append(in.Result.Injections, injections[k])
	}
	samples := in.Result.Samples
	in.Result.Samples = nil
	for _, r := range samples {
		if s.Each == layouts.EachSample && r.Name == of.Sample {
			in.Result.Samples = append(in.Result.Samples, r)
		}
	}
	return in, nil
}
