package lab

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"yugen/store"
)

// sendWithin bounds one attempt to reach a receiver.
const sendWithin = 20 * time.Second

// Deliver sends what waits to be sent. What cannot be reached keeps waiting, visibly, and is tried again later; the others go on.
func (l *Lab) Deliver(ctx context.Context) {
	l.sender.Lock()
	defer l.sender.Unlock()
	var waiting []store.Delivery
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		waiting, err = t.Deliveries("", Waits)
		return err
	})
	if err != nil {
		slog.Error("what waits to be sent cannot be read", "error", err)
		return
	}
	out := map[string]error{} // of reach, by target
	touched := map[string]bool{}
	for _, d := range waiting {
		if ctx.Err() != nil {
			return
		}
		err := out[d.Target]
		if err == nil {
			err = l.send(ctx, d)
		}
		if d.State, d.Says = Sent, ""; err != nil {
			d.State, d.Says = Waits, Reason(err)
			out[d.Target] = err
		}
		d.Tries++
		if err := l.store.Write(ctx, func(t *store.Tx) error { return t.PutDelivery(d) }); err != nil {
			slog.Error("what was sent is not noted, and will be sent again", "error", err)
			return
		}
		if d.State == Sent {
			touched[d.SetID+" "+d.Target] = true
		}
	}
	for key := range touched {
		id, target, _ := strings.Cut(key, " ")
		if err := l.sendSums(ctx, id, target); err != nil {
			slog.Error("the checksums of reports are not written", "error", err)
		}
	}
}

// DeliverEvery tries again what waits to be sent, until the context ends.
func (l *Lab) DeliverEvery(ctx context.Context, pause time.Duration) {
	tick := time.NewTicker(pause)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			l.Deliver(ctx)
		}
	}
}

// send sends one file. Sent again it changes nothing.
func (l *Lab) send(ctx context.Context, d store.Delivery) error {
	set, f, data, err := l.toSend(ctx, d)
	if err != nil {
		return err
	}
	name := f.Name + "." + f.Format
	if d.Target == ToFolder {
		if l.Folder == "" {
			return errors.New("no folder for reports is named; start with --reports")
		}
		return dropFile(filepath.Join(l.Folder, folderOf(set)), name, data)
	}
	if l.Receiver == "" {
		return errors.New("no receiver is named; start with --receiver")
	}
	return l.post(ctx, folderOf(set)+"/"+name, f.Hash, data)
}

func (l *Lab) toSend(ctx context.Context, d store.Delivery) (set store.ReportSet, f store.ReportFile, data []byte, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if set, err = t.ReportSet(d.SetID); err != nil {
			return err
		}
		files, err := t.ReportFiles(d.SetID)
		if err != nil {
			return err
		}
		if d.Position >= len(files) {
			return store.ErrNotFound
		}
		f = files[d.Position]
		data, err = t.Blob(f.Hash)
		return err
	})
	return set, f, data, err
}

// folderOf is the folder that the reports of a set are put into: one each, so that none lies on another.
func folderOf(s store.ReportSet) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
			return '-'
		}
		return r
	}, s.LayoutName) + " " + s.ID
}

// dropFile writes a file whole under another name and then renames it, so that nobody finds a part.
func dropFile(dir, name string, data []byte) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return fmt.Errorf("the folder cannot be reached: %w", err)
	}
	part, err := os.CreateTemp(dir, ".part-*")
	if err != nil {
		return fmt.Errorf("the folder cannot be written to: %w", err)
	}
	_, err = part.Write(data)
	err = errors.Join(err, part.Chmod(0o644), part.Sync(), part.Close())
	if err == nil {
		err = os.Rename(part.Name(), filepath.Join(dir, name))
	}
	if err != nil {
		return errors.Join(fmt.Errorf("the folder cannot be written to: %w", err), os.Remove(part.Name()))
	}
	return nil
}

// post hands a file to the receiver.
func (l *Lab) post(ctx context.Context, name, hash string, data []byte) error {
	ctx, cancel := context.WithTimeout(ctx, sendWithin)
	defer cancel()
	to := strings.TrimSuffix(l.Receiver, "/") + "/documents/" + hash + "?name=" + url.QueryEscape(name)
	request, err := http.NewRequestWithContext(ctx, http.MethodPut, to, bytes.NewReader(data))
	if err != nil {
		return err
	}
	request.Header.Set("Content-Type", "application/octet-stream")
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return errors.New("the receiver cannot be reached; kept here and sent when it comes back")
	}
	defer answer.Body.Close()
	says, _ := io.ReadAll(io.LimitReader(answer.Body, 500))
	if answer.StatusCode >= 300 {
		return fmt.Errorf("the receiver does not take it up (%d): %s", answer.StatusCode, strings.TrimSpace(string(says)))
	}
	return nil
}

// sums are the checksums of what was made of a set, a line each.
func sums(files []store.ReportFile) []byte {
	var b strings.Builder
	for _, f := range files {
		if f.Hash != "" {
			fmt.Fprintf(&b, "%s  %s.%s\n", f.Hash, f.Name, f.Format)
		}
	}
	return []byte(b.String())
}

// sendSums sends the checksums of a set when all else of it is there.
func (l *Lab) sendSums(ctx context.Context, id, target string) error {
	var set store.ReportSet
	var files []store.ReportFile
	left := 0
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		if set, err = t.ReportSet(id); err != nil {
			return err
		}
		all, err := t.Deliveries(id, Waits)
		if err != nil {
			return err
		}
		for _, d := range all {
			if d.Target == target {
				left++
			}
		}
		files, err = t.ReportFiles(id)
		return err
	})
	if err != nil || left > 0 {
		return err
	}
	data := sums(files)
	if target == ToFolder {
		return dropFile(filepath.Join(l.Folder, folderOf(set)), "checksums.txt", data)
	}
	return l.post(ctx, folderOf(set)+"/checksums.txt", store.Hash(data), data)
}

// SetZip is all that was made of a set in one file, the checksums last. The same set is the same bytes.
func (l *Lab) SetZip(ctx context.Context, batchID, id string) ([]byte, error) {
	var files []store.ReportFile
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	err := l.store.Read(ctx, func(t *store.Tx) error {
		set, err := t.ReportSet(id)
		if err != nil || set.BatchID != batchID {
			return fmt.Errorf("reports %s: %w", id, store.ErrNotFound)
		}
		if files, err = t.ReportFiles(id); err != nil {
			return err
		}
		for _, f := range files {
			if f.Hash == "" {
				continue
			}
			data, err := t.Blob(f.Hash)
			if err != nil {
				return err
			}
			if err := zipped(w, f.Name+"."+f.Format, data); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	err = errors.Join(zipped(w, "checksums.txt", sums(files)), w.Close())
	return b.Bytes(), err
}

func zipped(w *zip.Writer, name string, data []byte) error {
	f, err := w.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return err
}
