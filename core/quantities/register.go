package quantities

import (
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
)

func number(v float64) Value { return Value{Number: &v} }

func words(text string) Value { return Value{Text: text} }

// peakNumber is a quantity of a peak, where there is one.
func peakNumber(of func(*batch.NamedPeak) *float64) func(Row) Value {
	return func(r Row) Value {
		if r.Peak == nil {
			return Value{}
		}
		return Value{Number: of(r.Peak)}
	}
}

// reading is the reading of the row's compound in its injection.
func (r Row) reading() (batch.Reading, bool) {
	if r.Injected == nil || r.Compound == nil {
		return batch.Reading{}, false
	}
	reading, ok := r.Injected.Readings[r.Compound.ID]
	return reading, ok
}

func read(of func(batch.Reading) Value) func(Row) Value {
	return func(r Row) Value {
		if reading, ok := r.reading(); ok {
			return of(reading)
		}
		return Value{}
	}
}

func entryText(of func(batch.Entry) string) func(Row) Value {
	return func(r Row) Value { return words(of(r.Entry)) }
}

func entryNumber(of func(batch.Entry) *float64) func(Row) Value {
	return func(r Row) Value { return Value{Number: of(r.Entry)} }
}

func sample(of func(batch.SampleValue) Value) func(Row) Value {
	return func(r Row) Value {
		if r.Sample == nil || r.Compound == nil {
			return Value{}
		}
		return of(r.Sample.Values[r.Compound.ID])
	}
}

// For is the register of a method and the columns that a study has added. traceUnit is that of the first channel's signal; "signal" where it is not known.
func For(m batch.Method, own []batch.OwnColumn, traceUnit string) Register {
	if traceUnit == "" {
		traceUnit = "signal"
	}
	level, amount := m.Curves.Unit, m.ReportedUnit()
	list := Register{
		{"batch", "Batch", "", OfBatch, Text, "The name of the batch.", func(r Row) Value { return words(r.Batch.Name) }},
		{"injections", "Injections", "", OfBatch, Count, "How many injections the batch has.", func(r Row) Value { return number(float64(len(r.Batch.Result.Injections))) }},
		{"open_notices", "Notices", "", OfBatch, Count, "How many notices the batch has.", func(r Row) Value { return number(float64(len(r.Batch.Result.Notices))) }},

		{"injection", "Injection", "", OfInjection, Count, "Its place in the run.", func(r Row) Value { return number(float64(r.Number)) }},
		{"name", "Name", "", OfInjection, Text, "The name in the run list.", entryText(func(e batch.Entry) string { return e.Name })},
		{"replicate", "Replicate", "", OfInjection, Text, "Which of the injections of its name and role it is.", func(r Row) Value { return words(r.Replicate) }},
		{"role", "Role", "", OfInjection, Text, "What it is for.", entryText(func(e batch.Entry) string { return string(e.Role) })},
		{"file", "File", "", OfInjection, Text, "The name of its file.", func(r Row) Value { return words(r.File) }},
		{"acquired_at", "Acquired", "", OfInjection, Moment, "When its file says it began.", func(r Row) Value { return Value{At: r.AcquiredAt} }},
		{"level", "Level", level, OfInjection, Given, "The nominal content of a standard or check.", entryNumber(func(e batch.Entry) *float64 { return e.Level })},
		{"vial", "Vial", "", OfInjection, Text, "Its vial.", entryText(func(e batch.Entry) string { return e.Vial })},
		{"dilution", "Dilution", "", OfInjection, Times, "How many times it was diluted.", entryNumber(func(e batch.Entry) *float64 { return &e.Dilution })},
		{"volume", "Extract", m.Amounts.VolumeUnit, OfInjection, Given, "The volume of the extract.", entryNumber(func(e batch.Entry) *float64 { return e.Volume })},
		{"sample", "Sample", m.Amounts.SampleUnit, OfInjection, Given, "How much sample was taken.", entryNumber(func(e batch.Entry) *float64 { return e.Sample })},
		{"peaks_found", "Peaks", "", OfTrace, Count, "How many peaks the first channel has.", func(r Row) Value {
			if r.Injected == nil {
				return Value{}
			}
			return number(float64(len(r.Injected.Peaks)))
		}},
		{"peaks_named", "Named peaks", "", OfTrace, Count, "How many of them have a name.", func(r Row) Value {
			if r.Injected == nil {
				return Value{}
			}
			n := 0
			for _, p := range r.Injected.Peaks {
				if p.CompoundID != "" {
					n++
				}
			}
			return number(float64(n))
		}},
		{"noise", "Noise", traceUnit, OfTrace, Signal, "The standard deviation from point to point where nothing elutes.", func(r Row) Value {
			if r.Injected == nil {
				return Value{}
			}
			return number(r.Injected.NoiseSD)
		}},

		{"compound", "Compound", "", OfCompound, Text, "The name of the compound.", func(r Row) Value {
			if r.Compound == nil {
				return Value{}
			}
			return words(r.Compound.Name)
		}},
		{"retention_min", "Retention time", "min", OfPeak, Time, "The apex of its peak.", peakNumber(func(p *batch.NamedPeak) *float64 { return &p.ApexMin })},
		{"area_s", "Area", traceUnit + "·s", OfPeak, Signal, "Between signal and baseline, from the start of the peak to its end.", func(r Row) Value {
			if r.Peak == nil {
				return Value{}
			}
			return Value{Number: &r.Peak.AreaS, Uncertainty: &r.Peak.AreaSE}
		}},
		{"height", "Height", traceUnit, OfPeak, Signal, "Of the apex over the baseline.", peakNumber(func(p *batch.NamedPeak) *float64 { return &p.Height })},
		{"area_percent", "Area", "%", OfPeak, Percent, "Its share of the area of all peaks of the channel.", peakNumber(func(p *batch.NamedPeak) *float64 { return &p.AreaPercent })},
		{"width_half_min", "Width ½", "min", OfPeak, Time, "At half the height.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.WidthHalfMin })},
		{"tailing", "Tailing", "", OfPeak, Ratio, "The symmetry factor of the pharmacopoeias, at a twentieth of the height.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.Tailing })},
		{"asymmetry", "Asymmetry", "", OfPeak, Ratio, "The halves of the width at a tenth of the height.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.Asymmetry })},
		{"plates", "Plates", "", OfPeak, Count, "5.54 times the square of retention over the width at half height.", func(r Row) Value {
			if r.Peak == nil || r.Peak.Plates == nil {
				return Value{}
			}
			rounded := float64(int64(*r.Peak.Plates + 0.5))
			return Value{Number: &rounded}
		}},
		{"resolution", "Resolution", "", OfPeak, Ratio, "To the peak before, by widths at half height.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.Resolution })},
		{"signal_to_noise", "S/N", "", OfPeak, Ratio, "Twice the height over the noise from peak to peak.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.SignalToNoise })},
		{"retention_index", "Retention index", "", OfPeak, Ratio, "Between the alkanes before and after it.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.RetentionIndex })},
		{"relative_retention", "Relative retention", "", OfPeak, Time, "To the reference.", peakNumber(func(p *batch.NamedPeak) *float64 { return p.RelativeRetention })},

		{"response", "Response", "", OfCompound, Signal, "Area or height, over that of the internal standard where there is one.", read(func(r batch.Reading) Value { return Value{Number: r.Response} })},
		{"concentration", "Concentration", level, OfCompound, Amount, "Read from the curve.", read(func(r batch.Reading) Value { return Value{Number: r.Concentration, Uncertainty: r.ConcentrationSE} })},
		{"concentration_standard_error", "Uncertainty of the concentration", level, OfCompound, Signal, "Its standard uncertainty, of scatter and curve.", read(func(r batch.Reading) Value { return Value{Number: r.ConcentrationSE} })},
		{"amount", "Amount", amount, OfCompound, Amount, "The concentration with dilution, volume and sample taken into account.", read(func(r batch.Reading) Value { return Value{Number: r.Amount, Uncertainty: r.AmountSE} })},
		{"amount_standard_error", "Uncertainty of the amount", amount, OfCompound, Signal, "Its standard uncertainty.", read(func(r batch.Reading) Value { return Value{Number: r.AmountSE} })},
		{"recovery_percent", "Recovery", "%", OfCompound, Percent, "What a check reads, of what it holds.", read(func(r batch.Reading) Value { return Value{Number: r.Recovery} })},
		{"remarks", "Remarks", "", OfCompound, Text, "What is to be known of the reading.", read(func(r batch.Reading) Value { return words(FlagWords(r.Flags)) })},

		{"sample_mean", "Mean", amount, OfSample, Amount, "Over the injections of the sample that could be read.", sample(func(v batch.SampleValue) Value { return Value{Number: v.Mean, Uncertainty: v.SE} })},
		{"sample_rsd_percent", "RSD", "%", OfSample, Percent, "The relative standard deviation over its injections.", sample(func(v batch.SampleValue) Value { return Value{Number: v.RSD} })},
		{"sample_n", "n", "", OfSample, Count, "How many of its injections could be read.", sample(func(v batch.SampleValue) Value { return number(float64(v.N)) })},
	}
	for _, c := range own {
		list = append(list, ownQuantity(c))
	}
	return list
}

// ownQuantity is a column that a study has added.
func ownQuantity(c batch.OwnColumn) Quantity {
	q := Quantity{ID: string(c.Field()), Words: c.Name, Unit: c.Unit, Lives: OfInjection, Kind: Text, How: "A column of the laboratory's own."}
	q.of = func(r Row) Value { return words(r.Entry.Own[c.ID]) }
	if c.Kind == batch.NumberColumn {
		q.Kind = Given
		q.of = func(r Row) Value {
			v, err := strconv.ParseFloat(r.Entry.Own[c.ID], 64)
			if err != nil { // it holds nothing
				return Value{}
			}
			return number(v)
		}
	}
	return q
}

// FlagWords are flags as people read them.
func FlagWords(flags []batch.Flag) string {
	var list []string
	for _, f := range flags {
		if word, known := flagWords[f]; known {
			list = append(list, word)
		}
	}
	return strings.Join(list, ", ")
}

var flagWords = map[batch.Flag]string{batch.AboveRange: "above range", batch.BelowRange: "below LOQ", batch.NotDetected: "not detected", batch.NotFound: "not found", batch.CheckDrift: "check drift", batch.NoSampleAmount: "no sample amount"}

// readings are the columns of the table of all readings, in their order; own columns follow them.
var readings = []string{"injection", "name", "replicate", "role", "file", "compound", "retention_min", "area_s", "height", "response", "concentration", "concentration_standard_error", "amount", "amount_standard_error", "recovery_percent", "remarks"}

// Readings are the quantities of the table of all readings.
func (r Register) Readings() Register {
	var list Register
	for _, id := range readings {
		q, _ := r.Find(id)
		list = append(list, q)
	}
	for _, q := range r {
		if strings.HasPrefix(q.ID, batch.OwnPrefix) && !slices.ContainsFunc(list, func(o Quantity) bool { return o.ID == q.ID }) {
			list = append(list, q)
		}
	}
	return list
}

// Heading is what a column of a file is called: the id, with its unit where that is the laboratory's choice.
func (q Quantity) Heading() string {
	switch {
	case strings.HasPrefix(q.ID, batch.OwnPrefix) && q.Unit != "":
		return q.Words + "_" + q.Unit
	case strings.HasPrefix(q.ID, batch.OwnPrefix):
		return q.Words
	case q.ID == "concentration" || q.ID == "amount":
		return q.ID + "_" + q.Unit
	}
	return q.ID
}
