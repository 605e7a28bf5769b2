package store

import (
	"context"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yugen/core/batch"
)

var writeForm = flag.String("write-form", "", "write the present form of the database to this file, for the test of earlier forms")

// TestWriteForm writes testdata/form-N.sql when asked: run it once before a migration is added.
func TestWriteForm(t *testing.T) {
	if *writeForm == "" {
		t.Skip("only when asked with -write-form")
	}
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	write(t, s, func(tx *Tx) error {
		hash, err := tx.PutBlob([]byte("raw data of a leaf"))
		if err != nil {
			return err
		}
		if _, _, err := tx.AddInjection(id, Injection{Entry: batch.Entry{Name: "Leaf", Role: batch.Sample, Dilution: 1, Factor: 1}, RawHash: hash, FileName: "leaf.cdf"}); err != nil {
			return err
		}
		_, err = tx.Record(Change{Who: "A", BatchID: id, Action: "import", Subject: "leaf.cdf"})
		return err
	})
	var out strings.Builder
	schema, err := s.db.QueryContext(context.Background(), "SELECT name, type, sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' AND NOT (type = 'table' AND name LIKE '%_words_%') ORDER BY type != 'table', rowid")
	if err != nil {
		t.Fatal(err)
	}
	var tables, triggers, words []string
	for schema.Next() {
		var name, kind, text string
		if err := schema.Scan(&name, &kind, &text); err != nil {
			t.Fatal(err)
		}
		if kind == "trigger" {
			triggers = append(triggers, text)
			continue
		}
		fmt.Fprintln(&out, text+";")
		if strings.HasPrefix(text, "CREATE VIRTUAL TABLE") { // an index of words is made anew from what it is of
			words = append(words, name)
			continue
		}
		if kind == "table" {
			tables = append(tables, name)
		}
	}
	for _, table := range tables {
		rows, err := s.db.Query("SELECT * FROM " + table)
		if err != nil {
			t.Fatal(err)
		}
		columns, _ := rows.Columns()
		for rows.Next() {
			values, into := make([]any, len(columns)), make([]any, len(columns))
			for i := range values {
				into[i] = &values[i]
			}
			if err := rows.Scan(into...); err != nil {
				t.Fatal(err)
			}
			quoted := make([]string, len(values))
			for i, v := range values {
				switch v := v.(type) {
				case nil:
					quoted[i] = "NULL"
				case []byte:
					quoted[i] = fmt.Sprintf("x'%x'", v)
				case string:
					quoted[i] = "'" + strings.ReplaceAll(v, "'", "''") + "'"
				case bool:
					quoted[i] = map[bool]string{true: "1", false: "0"}[v]
				default:
					quoted[i] = fmt.Sprintf("'%v'", v)
				}
			}
			fmt.Fprintf(&out, "INSERT INTO %s VALUES (%s);\n", table, strings.Join(quoted, ", "))
		}
	}
	for _, text := range triggers {
		fmt.Fprintln(&out, text+";")
	}
	for _, name := range words {
		fmt.Fprintf(&out, "INSERT INTO %s(%s) VALUES ('rebuild');\n", name, name)
	}
	if err := os.WriteFile(*writeForm, []byte(out.String()), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := copyFile(filepath.Join(s.dir, headsFile), strings.TrimSuffix(*writeForm, ".sql")+".heads"); err != nil {
		t.Fatal(err)
	}
}
