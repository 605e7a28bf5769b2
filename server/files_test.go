package server

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"yugen/lab"
)

// whole is the body of an answer that succeeds.
func whole(t *testing.T, url string) []byte {
	t.Helper()
	r, data := request(t, "GET", url, "")
	if r.StatusCode != http.StatusOK {
		t.Fatalf("%s: %d %s", url, r.StatusCode, data)
	}
	return data
}

func lines(t *testing.T, data []byte) [][]string {
	t.Helper()
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\ufeff"))))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	return rows
}

// A file of an instrument comes back as it came: whole, by its hash, and in parts where parts are asked for.
func TestARawFileComesBackAsItCame(t *testing.T) {
	address, id := serve(t)
	batch := view(t, whole(t, address+"/api/batches/"+id)).Batch
	for _, k := range []int{0, 20, len(batch.Injections) - 1} {
		in := batch.Injections[k]
		at := address + "/api/batches/" + id + "/injections/" + in.ID + "/raw"
		r, data := request(t, "GET", at, "")
		sum := sha256.Sum256(data)
		if r.StatusCode != http.StatusOK || hex.EncodeToString(sum[:]) != in.RawHash || r.ContentLength != int64(len(data)) {
			t.Errorf("%s: %d, %d bytes", in.FileName, r.StatusCode, len(data))
		}
		if got := r.Header.Get("Content-Disposition"); !strings.Contains(got, in.FileName) {
			t.Errorf("%s is called %s", in.FileName, got)
		}
		r, part := request(t, "GET", at, "", "Range", "bytes=10-29")
		if r.StatusCode != http.StatusPartialContent || !bytes.Equal(part, data[10:30]) {
			t.Errorf("twenty bytes of %s: %d %q", in.FileName, r.StatusCode, part)
		}
		if r, _ := request(t, "GET", at, "", "Range", fmt.Sprintf("bytes=%d-", len(data))); r.StatusCode != http.StatusRequestedRangeNotSatisfiable {
			t.Errorf("what is behind the end of %s: %d", in.FileName, r.StatusCode)
		}
	}
	other := batchCalled(t, address, "Autumn lots")
	if r, _ := request(t, "GET", address+"/api/batches/"+other+"/injections/"+batch.Injections[0].ID+"/raw", ""); r.StatusCode != http.StatusNotFound {
		t.Errorf("an injection of another batch: %d", r.StatusCode)
	}
}

// What is asked for as a table is what the results hold, row for row.
func TestTablesHoldWhatTheResultsHold(t *testing.T) {
	address, id := serve(t)
	at := address + "/api/batches/" + id
	var computed struct {
		Result struct {
			Injections []struct {
				Readings map[string]struct {
					Amount *float64 `json:"amount"`
				} `json:"readings"`
			} `json:"injections"`
		} `json:"result"`
	}
	if err := json.Unmarshal(whole(t, at+"/result"), &computed); err != nil {
		t.Fatal(err)
	}
	amounts := 0
	for _, in := range computed.Result.Injections {
		for _, r := range in.Readings {
			if r.Amount != nil {
				amounts++
			}
		}
	}
	rows := lines(t, whole(t, at+"/table.csv?columns=name,compound,amount,area_s"))
	if len(rows[0]) != 4 || len(rows) != 1+47*9 {
		t.Errorf("%d rows of %v", len(rows), rows[0])
	}
	read := 0
	for _, row := range rows[1:] {
		if row[2] == "" {
			continue
		}
		if _, err := strconv.ParseFloat(row[2], 64); err != nil {
			t.Errorf("%v: %s", row, err)
		}
		read++
	}
	if read != amounts || read == 0 {
		t.Errorf("%d amounts stand in the table, %d in the results", read, amounts)
	}
	// One row for each injection where nothing of a compound is asked for.
	if rows := lines(t, whole(t, at+"/table.csv?columns=name,vial")); len(rows) != 48 {
		t.Errorf("%d rows of injections", len(rows))
	}
	if r, data := request(t, "GET", at+"/table.csv?columns=name,colour", ""); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(string(data), "colour") {
		t.Errorf("an unknown quantity: %d %s", r.StatusCode, data)
	}
}

// A summary is the same numbers as CSV and as a workbook, whose statistics are formulas.
func TestASummaryComesAsTwoKindsOfFile(t *testing.T) {
	address, id := serve(t)
	at := address + "/api/batches/" + id + "/summary"
	query := "?measures=amount&columns=egcg,caf&of=measured&by=replicates&each=measure&statistics=mean,rsd"
	text := lines(t, whole(t, at+".csv"+query))
	book, err := excelize.OpenReader(bytes.NewReader(whole(t, at+".xlsx"+query)))
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	numbers, formulas := 0, 0
	for _, sheet := range book.GetSheetList() {
		rows, err := book.GetRows(sheet)
		if err != nil {
			t.Fatal(err)
		}
		for r := range rows {
			for c := range rows[r] {
				cell, _ := excelize.CoordinatesToCellName(c+1, r+1)
				if f, _ := book.GetCellFormula(sheet, cell); f != "" {
					formulas++
				} else if _, err := strconv.ParseFloat(rows[r][c], 64); err == nil {
					numbers++
				}
			}
		}
	}
	said := 0
	for _, row := range text {
		for _, cell := range row[min(1, len(row)):] {
			if _, err := strconv.ParseFloat(cell, 64); err == nil {
				said++
			}
		}
	}
	if numbers == 0 || formulas < 10 || numbers+formulas < said {
		t.Errorf("%d numbers and %d formulas in the workbook, %d numbers in the text", numbers, formulas, said)
	}
	for query, says := range map[string]string{"?measures=colour": "colour", "?measures=amount&by=moon&each=measure": "moon", "?measures=amount&each=measure&statistics=magic": "magic"} {
		for _, as := range []string{".csv", ".xlsx"} {
			if r, data := request(t, "GET", at+as+query, ""); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(string(data), says) {
				t.Errorf("%s%s: %d %s", as, query, r.StatusCode, data)
			}
		}
	}
}

// Trends as a picture are well-formed and as large as their style says; what is not known is refused.
func TestTrendsComeAsPictures(t *testing.T) {
	address, id := serve(t)
	at := address + "/api/batches/" + id + "/trends"
	var styles []struct {
		ID string `json:"id"`
	}
	if err := json.Unmarshal(whole(t, address+"/api/figure-styles"), &styles); err != nil || len(styles) == 0 {
		t.Fatal(styles, err)
	}
	for _, style := range styles {
		query := "?quantities=retention_min,area_s&compound=egcg&of=checks&along=run&style=" + style.ID
		d := xml.NewDecoder(bytes.NewReader(whole(t, at+".svg"+query)))
		marks := 0
		for {
			token, err := d.Token()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				t.Fatalf("%s: %s", style.ID, err)
			}
			if e, is := token.(xml.StartElement); is && (e.Name.Local == "circle" || e.Name.Local == "path" || e.Name.Local == "rect") {
				marks++
			}
		}
		if pdf := whole(t, at+".pdf"+query); marks < 5 || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
			t.Errorf("%s: %d marks, %.8q", style.ID, marks, pdf)
		}
	}
	if r, data := request(t, "GET", at+".svg?quantities=area_s&compound=egcg&style=crayon", ""); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(string(data), "crayon") {
		t.Errorf("a style that is not there: %d %s", r.StatusCode, data)
	}
}

// Reports that were made together come back one by one and as an archive, whose checksums are true; what is not there is not found.
func TestReportsOfASetComeBack(t *testing.T) {
	address, id := serve(t)
	at := address + "/api/batches/" + id + "/sets"
	r, data := request(t, "POST", at, `{"layout": "certificate", "each": "", "all": false, "formats": ["pdf", "csv"], "names": "{batch} {subject}", "hold": [], "to": []}`)
	var set lab.ReportSet
	if err := json.Unmarshal(data, &set); r.StatusCode != http.StatusOK || err != nil {
		t.Fatalf("%d %s", r.StatusCode, data)
	}
	for k := 0; set.State != lab.Made; k++ {
		if k > 600 {
			t.Fatalf("the set is still %s", set.State)
		}
		time.Sleep(100 * time.Millisecond)
		var sets []lab.ReportSet
		if err := json.Unmarshal(whole(t, at), &sets); err != nil || len(sets) != 1 {
			t.Fatal(sets, err)
		}
		set = sets[0]
	}
	archive, err := zip.NewReader(bytes.NewReader(whole(t, at+"/"+set.ID+"/reports.zip")), int64(len(whole(t, at+"/"+set.ID+"/reports.zip"))))
	if err != nil {
		t.Fatal(err)
	}
	sums := map[string]string{}
	var checksums string
	for _, f := range archive.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(in)
		if err != nil {
			t.Fatal(err)
		}
		if f.Name == "checksums.txt" {
			checksums = string(data)
			continue
		}
		sum := sha256.Sum256(data)
		sums[f.Name] = hex.EncodeToString(sum[:])
	}
	if len(sums) != len(set.Files) || strings.Count(checksums, "\n") != len(sums) {
		t.Errorf("%d files in the archive, %d in the set; %s", len(sums), len(set.Files), checksums)
	}
	for name, sum := range sums {
		if !strings.Contains(checksums, sum+"  "+name+"\n") {
			t.Errorf("%s has no true checksum", name)
		}
	}
	for _, f := range set.Files[:4] {
		r, data := request(t, "GET", fmt.Sprintf("%s/%s/files/%d?open=1", at, set.ID, f.Position), "")
		sum := sha256.Sum256(data)
		if hex.EncodeToString(sum[:]) != f.Hash || sums[f.Name+"."+string(f.Format)] != f.Hash || strings.HasPrefix(r.Header.Get("Content-Disposition"), "attachment") == (f.Format == "pdf") {
			t.Errorf("%s.%s: %d, %d bytes, %s", f.Name, f.Format, r.StatusCode, len(data), r.Header.Get("Content-Disposition"))
		}
	}
	for _, path := range []string{set.ID + "/files/x", set.ID + "/files/-1", set.ID + "/files/99999", "none/files/0", "none/reports.zip"} {
		if r, data := request(t, "GET", at+"/"+path, ""); r.StatusCode != http.StatusNotFound {
			t.Errorf("%s: %d %.80s", path, r.StatusCode, data)
		}
	}
}
