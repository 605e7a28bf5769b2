package store

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// headsFile lies beside the database. A line is added to it after every change: the newest row of the record, its hash, and the signature of both. The
// record can be cut off or written anew only together with it, and then contradicts backups and reports.
const headsFile = "record.heads"

// head is the end of the record at some moment.
type head struct {
	seq  int64
	hash string
}

func (h head) text() string { return fmt.Sprintf("%d %s", h.seq, h.hash) }

// addHead writes the end of the record down. The row is committed already; a head that is missing is made up by the next one.
func (s *Store) addHead(h head) error {
	seal := "-"
	if s.signer != nil {
		seal = s.signer.sign(h.text())
	}
	file, err := os.OpenFile(filepath.Join(s.dir, headsFile), os.O_WRONLY|os.O_APPEND|os.O_CREATE, 0o644)
	if err != nil {
		return fmt.Errorf("the end of the record cannot be written down: %w", err)
	}
	_, err = fmt.Fprintf(file, "%s %s\n", h.text(), seal)
	return errors.Join(err, file.Close())
}

// checkHeads compares what was written down with the record. It returns what is wrong, one sentence each.
func (s *Store) checkHeads(hashes []string, keys map[string]bool) (wrong []string, err error) {
	file, err := os.Open(filepath.Join(s.dir, headsFile))
	if errors.Is(err, os.ErrNotExist) {
		if len(keys) > 0 { // the record has been signed, so its ends were written down
			return []string{"The file of the record's ends, " + headsFile + ", is missing."}, nil
		}
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer file.Close()
	most := 20 // sentences; one wrong line is usually followed by all others
	last := int64(0)
	lines := bufio.NewReader(file)
	for n := 1; ; n++ {
		line, err := lines.ReadString('\n')
		if errors.Is(err, io.EOF) {
			break // a line without its end was being written when the power went
		}
		if err != nil {
			return nil, err
		}
		if len(wrong) >= most {
			return append(wrong, "More lines of "+headsFile+" are wrong."), nil
		}
		parts := strings.Fields(line)
		if len(parts) != 3 {
			wrong = append(wrong, fmt.Sprintf("Line %d of %s cannot be read.", n, headsFile))
			continue
		}
		seq, err := strconv.ParseInt(parts[0], 10, 64)
		h := head{seq, parts[1]}
		_, signed := signedBy(h.text(), parts[2], keys)
		switch {
		case err != nil || seq < 1:
			wrong = append(wrong, fmt.Sprintf("Line %d of %s cannot be read.", n, headsFile))
		case !signed && parts[2] != "-":
			wrong = append(wrong, fmt.Sprintf("Line %d of %s is not signed by a key of this record.", n, headsFile))
		case seq > int64(len(hashes)):
			wrong = append(wrong, fmt.Sprintf("The record ends at row %d, but row %d was written: its end was cut off.", len(hashes), seq))
		case hashes[seq-1] != h.hash:
			wrong = append(wrong, fmt.Sprintf("Row %d of the record is another one than was written.", seq))
		case seq <= last:
			wrong = append(wrong, fmt.Sprintf("Line %d of %s goes back to row %d.", n, headsFile, seq))
		}
		last = max(last, seq)
	}
	// Only a change that was committed at the very moment of a power cut may lack its line.
	if lag := int64(len(hashes)) - last; len(wrong) == 0 && len(keys) > 0 && lag > 1 {
		wrong = append(wrong, fmt.Sprintf("The last %d rows of the record were never written down in %s.", lag, headsFile))
	}
	return wrong, nil
}
