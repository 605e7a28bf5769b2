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
		{ID: "batch", Words: "Batch", Unit: "", Lives: OfBatch, Kind: Text, How: "The name of the batch.", of: func(r Row) Value { return words(r.Batch.Name) }},
		{ID: "injections", Words: "Injections", Unit: "", Lives: OfBatch, Kind: Count, How: "How many injections the batch has.", of: func(r Row) Value { return number(float64(len(r.Batch.Result.Injections))) }},
		{ID: "open_notices", Words: "Notices", Unit: "", Lives: OfBatch, Kind: Count, How: "How many notices the batch has.", of: func(r Row) Value { return number(float64(len(r.Batch.Result.Notices))) }},

		{ID: "injection", Words: "Injection", Unit: "", Lives: OfInjection, Kind: Count, How: "Its place in the run.", of: func(r Row) Value { return number(float64(r.Number)) }},
		{ID: "name", Words: "Name", Unit: "", Lives: OfInjection, Kind: Text, How: "The name in the run list.", of: entryText(func(e batch.Entry) string { return e.Name })},
		{ID: "replicate", Words: "Replicate", Unit: "", Lives: OfInjection, Kind: Text, How: "Which of the injections of its name and role it is.", of: func(r Row) Value { return words(r.Replicate) }},
		{ID: "role", Words: "Role", Unit: "", Lives: OfInjection, Kind: Text, How: "What it is for.", of: entryText(func(e batch.Entry) string { return string(e.Role) })},
		{ID: "file", Words: "File", Unit: "", Lives: OfInjection, Kind: Text, How: "The name of its file.", of: func(r Row) Value { return words(r.File) }},
		{ID: "acquired_at", Words: "Acquired", Unit: "", Lives: OfInjection, Kind: Moment, How: "When its file says it began.", of: func(r Row) Value { return Value{At: r.AcquiredAt} }},
		{ID: "level", Words: "Level", Unit: level, Lives: OfInjection, Kind: Given, How: "The nominal content of a standard or check.", of: entryNumber(func(e batch.Entry) *float64 { return e.Level })},
		{ID: "vial", Words: "Vial", Unit: "", Lives: OfInjection, Kind: Text, How: "Its vial.", of: entryText(func(e batch.Entry) string { return e.Vial })},
		{ID: "dilution", Words: "Dilution", Unit: "", Lives: OfInjection, Kind: Times, How: "How many times it was diluted.", of: entryNumber(func(e batch.Entry) *float64 { return &e.Dilution })},
		{ID: "volume", Words: "Extract", Unit: m.Amounts.VolumeUnit, Lives: OfInjection, Kind: Given, How: "The volume of the extract.", of: entryNumber(func(e batch.Entry) *float64 { return e.Volume })},
		{ID: "sample", Words: "Sample", Unit: m.Amounts.SampleUnit, Lives: OfInjection, Kind: Given, How: "How much sample was taken.", of: entryNumber(func(e batch.Entry) *float64 { return e.Sample })},
		{ID: "peaks_found", Words: "Peaks", Unit: "", Lives: OfTrace, Kind: Count, How: "How many peaks the first channel has.", of: func(r Row) Value {
			if r.Injected == nil {
				return Value{}
			}
			return number(float64(len(r.Injected.Peaks)))
		}},
		{ID: "peaks_named", Words: "Named peaks", Unit: "", Lives: OfTrace, Kind: Count, How: "How many of them have a name.", of: func(r Row) Value {
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
		{ID: "noise", Words: "Noise", Unit: traceUnit, Lives: OfTrace, Kind: Signal, How: "The standard deviation from point to point where nothing elutes.", of: func(r Row) Value {
			if r.Injected == nil {
				return Value{}
			}
			return number(r.Injected.NoiseSD)
		}},

		{ID: "compound", Words: "Compound", Unit: "", Lives: OfCompound, Kind: Text, How: "The name of the compound.", of: func(r Row) Value {
			if r.Compound == nil {
				return Value{}
			}
			return words(r.Compound.Name)
		}},
		{ID: "group", Words: "Group", Unit: "", Lives: OfCompound, Kind: Text, How: "The group whose sum is reported.", of: func(r Row) Value {
			if r.Compound == nil {
				return Value{}
			}
			return words(r.Compound.Group)
		}},
		{ID: "retention_min", Words: "Retention time", Unit: "min", Lives: OfPeak, Kind: Time, How: "The apex of its peak.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return &p.ApexMin })},
		{ID: "area_s", Words: "Area", Unit: traceUnit + "·s", Lives: OfPeak, Kind: Signal, Adds: true, How: "Between signal and baseline, from the start of the peak to its end.", of: func(r Row) Value {
			if r.Peak == nil {
				return Value{}
			}
			return Value{Number: &r.Peak.AreaS, Uncertainty: &r.Peak.AreaSE}
		}},
		{ID: "height", Words: "Height", Unit: traceUnit, Lives: OfPeak, Kind: Signal, How: "Of the apex over the baseline.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return &p.Height })},
		{ID: "area_percent", Words: "Area", Unit: "%", Lives: OfPeak, Kind: Percent, Adds: true, How: "Its share of the area of all peaks of the channel.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return &p.AreaPercent })},
		{ID: "width_half_min", Words: "Width ½", Unit: "min", Lives: OfPeak, Kind: Time, How: "At half the height.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.WidthHalfMin })},
		{ID: "tailing", Words: "Tailing", Unit: "", Lives: OfPeak, Kind: Ratio, How: "The symmetry factor of the pharmacopoeias, at a twentieth of the height.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.Tailing })},
		{ID: "asymmetry", Words: "Asymmetry", Unit: "", Lives: OfPeak, Kind: Ratio, How: "The halves of the width at a tenth of the height.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.Asymmetry })},
		{ID: "plates", Words: "Plates", Unit: "", Lives: OfPeak, Kind: Count, How: "5.54 times the square of retention over the width at half height.", of: func(r Row) Value {
			if r.Peak == nil || r.Peak.Plates == nil {
				return Value{}
			}
			rounded := float64(int64(*r.Peak.Plates + 0.5))
			return Value{Number: &rounded}
		}},
		{ID: "resolution", Words: "Resolution", Unit: "", Lives: OfPeak, Kind: Ratio, How: "To the peak before, by widths at half height.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.Resolution })},
		{ID: "signal_to_noise", Words: "S/N", Unit: "", Lives: OfPeak, Kind: Ratio, How: "Twice the height over the noise from peak to peak.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.SignalToNoise })},
		{ID: "retention_index", Words: "Retention index", Unit: "", Lives: OfPeak, Kind: Ratio, How: "Between the alkanes before and after it.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.RetentionIndex })},
		{ID: "relative_retention", Words: "Relative retention", Unit: "", Lives: OfPeak, Kind: Time, How: "To the reference.", of: peakNumber(func(p *batch.NamedPeak) *float64 { return p.RelativeRetention })},

		{ID: "response", Words: "Response", Unit: "", Lives: OfCompound, Kind: Signal, How: "Area or height, over that of the internal standard where there is one.", of: read(func(r batch.Reading) Value { return Value{Number: r.Response} })},
		{ID: "concentration", Words: "Concentration", Unit: level, Lives: OfCompound, Kind: Amount, Adds: true, How: "Read from the curve.", of: read(func(r batch.Reading) Value { return Value{Number: r.Concentration, Uncertainty: r.ConcentrationSE} })},
		{ID: "concentration_standard_error", Words: "Uncertainty of the concentration", Unit: level, Lives: OfCompound, Kind: Signal, How: "Its standard uncertainty, of scatter and curve.", of: read(func(r batch.Reading) Value { return Value{Number: r.ConcentrationSE} })},
		{ID: "amount", Words: "Amount", Unit: amount, Lives: OfCompound, Kind: Amount, Adds: true, How: "The concentration with dilution, volume and sample taken into account.", of: read(func(r batch.Reading) Value { return Value{Number: r.Amount, Uncertainty: r.AmountSE} })},
		{ID: "amount_standard_error", Words: "Uncertainty of the amount", Unit: amount, Lives: OfCompound, Kind: Signal, How: "Its standard uncertainty.", of: read(func(r batch.Reading) Value { return Value{Number: r.AmountSE} })},
		{ID: "recovery_percent", Words: "Recovery", Unit: "%", Lives: OfCompound, Kind: Percent, How: "What a check reads, of what it holds.", of: read(func(r batch.Reading) Value { return Value{Number: r.Recovery} })},
		{ID: "remarks", Words: "Remarks", Unit: "", Lives: OfCompound, Kind: Text, How: "What is to be known of the reading.", of: read(func(r batch.Reading) Value { return words(FlagWords(r.Flags)) })},

		{ID: "sample_mean", Words: "Mean", Unit: amount, Lives: OfSample, Kind: Amount, How: "Over the injections of the sample that could be read.", of: sample(func(v batch.SampleValue) Value { return Value{Number: v.Mean, Uncertainty: v.SE} })},
		{ID: "sample_rsd_percent", Words: "RSD", Unit: "%", Lives: OfSample, Kind: Percent, How: "The relative standard deviation over its injections.", of: sample(func(v batch.SampleValue) Value { return Value{Number: v.RSD} })},
		{ID: "sample_n", Words: "n", Unit: "", Lives: OfSample, Kind: Count, How: "How many of its injections could be read.", of: sample(func(v batch.SampleValue) Value { return number(float64(v.N)) })},
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

var flagWords = map[batch.Flag]string{batch.AboveRange: "above range", batch.BelowRange: "below LOQ", batch.NotDetected: "not detected", batch.NotFound: "not found", batch.CheckDrift: "check drift", batch.NoSampleAmount: "no sample amount", batch.Doubtful: "doubtful"}

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
