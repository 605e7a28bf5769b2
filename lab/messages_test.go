package lab

import (
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/instrument"
	"yugen/jobs"
	"yugen/mailbox"
)

// Somebody is told once when an instrument wants them and when its list has ended, with letters beyond A to Z; what cannot be sent at first comes later.
func TestMessagesComeOnce(t *testing.T) {
	box, err := mailbox.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	listener := must[net.Listener](t)(net.Listen("tcp", "127.0.0.1:0"))
	address := listener.Addr().String()
	if err := listener.Close(); err != nil { // nobody is there yet
		t.Fatal(err)
	}
	l, _ := demo(t)
	l.Messages = must[*Messages](t)(NewMessages("smtp://"+address, "analyst@lab.example", "yugen@localhost"))
	l.Messages.again = 30 * time.Millisecond
	go l.Messages.Send(t.Context())
	s := serving(t, instrument.LC, 1500, "")
	id := attached(t, l, s.address)
	batchID := batchFor(t, l, "Green tea assay")
	must[BenchPost](t)(l.StartList(t.Context(), id, ListAsked{BatchID: batchID, Rows: teaRows()[:1], Start: instrument.WhenReady, Ending: instrument.StayReady}, "x"))
	l.jobTold(jobs.Job{Kind: jobs.Backup, Subject: "everything — alles für später", State: jobs.Done, Who: "M. Okada"})
	l.jobTold(jobs.Job{Kind: jobs.Result, State: jobs.Done})
	l.jobTold(jobs.Job{Kind: jobs.Result, Subject: "Spring teas", State: jobs.Failed, Message: "the disk is full"})
	time.Sleep(100 * time.Millisecond)
	listener = must[net.Listener](t)(listenAt(address))
	go func() { _ = box.Serve(t.Context(), listener) }() // ends with the test
	time.Sleep(time.Second)
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	until(t, "it runs", func() bool { return standingOf(t, l, id).Phase == instrument.Running })
	must[BenchPost](t)(l.FaultAt(t.Context(), id, "lamp", "x"))
	until(t, "it has stopped", func() bool { return standingOf(t, l, id).Phase == instrument.Stopped })
	time.Sleep(2 * lookEvery)
	act(t, l, id, instrument.Act{Kind: instrument.GoOn, Choice: instrument.EndHere})
	var subjects []string
	until(t, "all messages are there", func() bool {
		subjects = nil
		for _, m := range must[[]mailbox.Message](t)(box.Messages()) {
			subjects = append(subjects, m.Subject)
		}
		return slices.Contains(subjects, "Bench test: the list has ended")
	})
	slices.Sort(subjects)
	// That it waits for somebody is told where it had to wait before anybody looked.
	if k := slices.Index(subjects, "Bench test wants you"); k >= 0 {
		subjects = slices.Delete(subjects, k, k+1)
	}
	if want := []string{"Bench test: The lamp went out", "Bench test: the list has ended", "Done: backup, everything — alles für später", "Failed: results, Spring teas"}; !slices.Equal(subjects, want) {
		t.Errorf("%q", subjects)
	}
	for _, m := range must[[]mailbox.Message](t)(box.Messages()) {
		if strings.Contains(m.Subject, "ended") && !strings.Contains(m.Text, "1 of 1 injections are in their batch") {
			t.Errorf("%q", m.Text)
		}
	}
	for _, bad := range [][3]string{{"http://x:25", "a@b", "a@b"}, {"smtp://x", "a@b", "a@b"}, {"smtp://x:25", "nobody", "a@b"}, {"smtp://x:25", "a@b", "b\r\nTo: c@d"}} {
		if _, err := NewMessages(bad[0], bad[1], bad[2]); err == nil {
			t.Errorf("%q is taken", bad)
		}
	}
}

// Whatever an instrument, a batch or a person is called, the message is one message to one address, and says it letter for letter.
func TestMessagesOfAnyWords(t *testing.T) {
	box := must[*mailbox.Mailbox](t)(mailbox.Open(t.TempDir()))
	listener := must[net.Listener](t)(net.Listen("tcp", "127.0.0.1:0"))
	go func() { _ = box.Serve(t.Context(), listener) }() // ends with the test
	l := openLab(t)
	l.Messages = must[*Messages](t)(NewMessages("smtp://"+listener.Addr().String(), "Analysten-Büro <analyst@lab.example>", "Yugen <yugen@lab.example>"))
	go l.Messages.Send(t.Context())
	subjects := []string{"Grüntee — 緑茶", "two\r\nBcc: everybody@lab.example\r\n\r\nbodies", strings.Repeat("a long name ", 60) + "ends", ".", ""}
	texts := []string{"a line\n.\n..\nand one more", strings.Repeat("x", 3000), "\r\nwindows\r\nlines", "=3D is no equals sign", "緑茶\n\n\nend"}
	for k, subject := range subjects {
		l.message(subject, "%s", texts[k])
	}
	var got []mailbox.Message
	until(t, "all are there", func() bool {
		got = must[[]mailbox.Message](t)(box.Messages())
		return len(got) == len(subjects)
	})
	slices.Reverse(got)
	for k, m := range got {
		if m.Subject != subjects[k] || strings.TrimSuffix(m.Text, "\n") != strings.ReplaceAll(texts[k], "\r\n", "\n") {
			t.Errorf("%q became %q\n%.60q became %.60q", subjects[k], m.Subject, texts[k], m.Text)
		}
		if m.To != "=?utf-8?q?Analysten-B=C3=BCro?= <analyst@lab.example>" || m.At.IsZero() {
			t.Errorf("to %q at %s", m.To, m.At)
		}
	}
}

// More messages than can wait are not kept in memory for ever, and nobody waits for a mail server that is not there.
func TestMessagesThatNobodyTakes(t *testing.T) {
	l := openLab(t)
	l.Messages = must[*Messages](t)(NewMessages("smtp://127.0.0.1:1", "a@b", "c@d"))
	for range maxMessages + 3 {
		l.message("full", "of words")
	}
	if n := len(l.Messages.queue); n != maxMessages {
		t.Errorf("%d wait", n)
	}
	l.Messages = nil
	l.message("nobody wants any", "of these")
}
