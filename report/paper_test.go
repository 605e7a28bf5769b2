package report

import (
	"strings"
	"testing"
	"time"

	"yugen/report/layouts"
)

// Decimal commas are set in numbers, and in nothing that is a name, a formula, a date or a hash.
func TestCommasAreSetInNumbersAlone(t *testing.T) {
	names := []string{"Lot 2.5", "run-1.cdf"}
	for text, want := range map[string]string{
		"1.25":                        "1,25",
		"< 0.50 mg/g":                 "< 0,50 mg/g",
		"±1.2":                        "±1,2",
		"90.0–110.5 %":                "90,0–110,5 %",
		"(0.1, 0.2)":                  "(0,1, 0,2)",
		"1.5 2.5 3.5":                 "1,5 2,5 3,5",
		"−12.40":                      "−12,40",
		"Lot 2.5":                     "Lot 2.5",
		"Lot 2.5 in the blank, 3.1 %": "Lot 2.5 in the blank, 3.1 %",
		"run-12.cdf":                  "run-12.cdf",
		"version 1.2.3":               "version 1.2.3",
		"ab12.34cd":                   "ab12.34cd",
		"4 Apr 2026, 20:14 UTC":       "4 Apr 2026, 20:14 UTC",
		"No. 5":                       "No. 5",
		"y = 1.2 x":                   "y = 1,2 x",
	} {
		if got := withCommas(text, names); got != want {
			t.Errorf("%q becomes %q, want %q", text, got, want)
		}
	}
}

// Paper is as the laboratory wants it: its size, the zone of its times, the mark in its numbers; and as it was where nothing is said.
func TestPaperIsAsTheLaboratoryWantsIt(t *testing.T) {
	in := input(t)
	in.MadeAt = time.Date(2026, 7, 1, 22, 30, 0, 0, time.UTC)
	text := func(in Input) (string, *Report) {
		r, err := New(WholeBatch, in, "")
		if err != nil {
			t.Fatal(err)
		}
		return strings.ReplaceAll(textsOf(r.Pages), "\n", " "), r
	}
	plain, r := text(in)
	if !strings.Contains(plain, "1 Jul 2026, 22:30 UTC") || r.Pages[0].Width != 210 {
		t.Errorf("%v mm wide", r.Pages[0].Width)
	}
	zone, err := time.LoadLocation("Asia/Tokyo")
	if err != nil {
		t.Fatal(err)
	}
	in.Paper = Paper{Size: layouts.Letter, Zone: zone, Comma: true}
	other, r := text(in)
	if !strings.Contains(other, "2 Jul 2026, 07:30 JST") || strings.Contains(other, "UTC") || r.Pages[0].Width == 210 {
		t.Errorf("%v mm wide: %s", r.Pages[0].Width, other)
	}
	points, commas := decimal.FindAllString(plain, -1), strings.Count(other, ",")
	if left := decimal.FindAllString(other, -1); len(points) < 2 || len(left) > 0 || commas < len(points) {
		t.Errorf("%d numbers had points, %v still have, %d commas", len(points), left, commas)
	}
}
