package main

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"yugen/lab"
	"yugen/server"
	"yugen/store"
)

// place is where a server listens and keeps its data.
type place struct {
	address string
	port    int
	data    string
	analyst string
	paper   lab.Laboratory
	mark    string
	backups string
	people  bool
	// certificate and key make it speak TLS; behind is the address under which a proxy on this machine is reached.
	certificate, key, behind string
	names                    []string // under which it is reached, besides its address
	away                     time.Duration
	// reports is a folder that reports are dropped into, receiver the address of a laboratory's information system.
	reports, receiver string
	// instruments are addresses of instruments; bench starts stand-ins beside, whose time runs at a speed.
	instruments []string
	bench       bool
	// mail is a server for messages, to an address and from one.
	mail, mailTo, mailFrom string
	// watch is a file of rules for watched folders.
	watch string
	speed float64
}

func (p *place) flags(c *cobra.Command) {
	port, err := strconv.Atoi(os.Getenv("PORT"))
	if err != nil {
		port = 8787
	}
	c.Flags().StringVar(&p.address, "address", "127.0.0.1", "address to listen on")
	c.Flags().IntVar(&p.port, "port", port, "port to listen on, also PORT=")
	c.Flags().StringVar(&p.data, "data", dataFolder(), "folder of the data, also DATA=")
	c.Flags().StringVar(&p.backups, "backups", "", "folder that backups are written to (default beside that of the data)")
	c.Flags().StringVar(&p.reports, "reports", "", "folder that reports are dropped into for others")
	c.Flags().StringVar(&p.receiver, "receiver", "", "address of a laboratory's information system that takes reports up, as http://127.0.0.1:8790")
	c.Flags().StringSliceVar(&p.instruments, "instrument", nil, "address of an instrument of the bench, as http://127.0.0.1:8791; may be said several times")
	c.Flags().StringVar(&p.mail, "mail", "", "server that messages are sent by, as smtp://127.0.0.1:2525")
	c.Flags().StringVar(&p.mailTo, "mail-to", "", "address that is told of what has ended, and of what wants somebody")
	c.Flags().StringVar(&p.mailFrom, "mail-from", "yugen@localhost", "address that messages come from")
	c.Flags().StringVar(&p.watch, "watch", "", "file of rules (JSON) for folders whose files are taken in as they appear")
	c.Flags().BoolVar(&p.bench, "bench", false, "start three stand-ins for instruments beside, on the ports after this one")
	c.Flags().Float64Var(&p.speed, "bench-speed", benchSpeed, "simulated seconds of the stand-ins in one")
	c.Flags().StringVar(&p.paper.Name, "laboratory", "", "name of the laboratory, on its reports")
	c.Flags().StringVar(&p.paper.Address, "laboratory-address", "", "its address, in one line")
	c.Flags().StringVar(&p.mark, "laboratory-mark", "", "its mark, a PNG picture")
	c.Flags().BoolVar(&p.people, "people", false, "people sign in; stays so until 'yugen people off'")
	c.Flags().StringVar(&p.certificate, "tls-certificate", "", "certificate (PEM) to speak TLS with")
	c.Flags().StringVar(&p.key, "tls-key", "", "its private key (PEM)")
	c.Flags().StringSliceVar(&p.names, "host", nil, "name under which it is reached, with its port, as lab.example:8787; may be said twice")
	c.Flags().DurationVar(&p.away, "away", server.UsualAway, "how long somebody may be away before they sign in again")
	c.Flags().StringVar(&p.behind, "behind", "", "address of a proxy on this machine that passes requests on, as https://yugen.example")
	c.Flags().StringVar(&p.analyst, "analyst", "", "who acts where nobody has said so")
}

func serveCommand() *cobra.Command {
	var p place
	c := &cobra.Command{
		Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return p.serve(c.Context(), false) },
	}
	p.flags(c)
	return c
}

func demoCommand() *cobra.Command {
	var p place
	c := &cobra.Command{
		Use: "demo", Short: "Serve the application with the demo study", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return p.serve(c.Context(), true) },
	}
	p.flags(c)
	return c
}

func (p place) serve(ctx context.Context, demo bool) error {
	if p.mark != "" {
		data, err := os.ReadFile(p.mark)
		if err == nil {
			err = lab.ReadMark(data)
		}
		if err != nil {
			return fmt.Errorf("the laboratory's mark %s cannot be used: %w", p.mark, err)
		}
		p.paper.Mark = data
	}
	certificates, err := p.certificates()
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", net.JoinHostPort(p.address, strconv.Itoa(p.port)))
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %d on %s is in use, perhaps by another Yugen: stop it, or choose another with PORT= or --port", p.port, p.address)
	}
	if err != nil {
		return fmt.Errorf("cannot listen on %s, port %d: %w", p.address, p.port, err)
	}
	defer listener.Close()
	release, err := store.Lock(p.data)
	if err != nil {
		return err
	}
	defer release()
	s, err := store.Open(ctx, p.data)
	if err != nil {
		return err
	}
	defer s.Close()
	l := lab.New(s)
	defer l.Close()
	l.Laboratory, l.Backups = p.paper, cmp.Or(p.backups, filepath.Clean(p.data)+"-backups")
	l.Folder, l.Receiver = p.reports, p.receiver
	if p.mail != "" {
		if err := p.sendBy(ctx, l, p.mail, p.mailTo); err != nil {
			return err
		}
	}
	in, err := p.entrance(ctx, l)
	if err != nil {
		return err
	}
	path := "/"
	if demo {
		l.Laboratory.Name = cmp.Or(p.paper.Name, lab.DemoLaboratory.Name)
		p.analyst = cmp.Or(p.analyst, lab.DemoAuthor)
		id, err := l.OpenDemo(ctx)
		if err != nil {
			return fmt.Errorf("the demo cannot be loaded: %w", err)
		}
		path = "/" + id + "/batch"
	}
	if err := l.Resume(ctx); err != nil {
		return fmt.Errorf("what was under way when Yugen was stopped cannot be taken up again: %w", err)
	}
	go l.DeliverEvery(ctx, deliveryPause)
	number := listener.Addr().(*net.TCPAddr).Port
	port := strconv.Itoa(number)
	if p.bench {
		started, err := startBench(ctx, number, p.speed)
		if err != nil {
			return err
		}
		p.instruments = append(p.instruments, started...)
		if mails := number + mailboxAfter; p.mail == "" && free(mails) && free(mails+1) {
			address, err := startBeside(ctx, "mailbox", "--port", strconv.Itoa(mails), "--folder", filepath.Join(p.data, "mailbox"))
			if err != nil {
				return fmt.Errorf("the mailbox does not start: %w", err)
			}
			if err := p.sendBy(ctx, l, address, cmp.Or(p.mailTo, "analyst@localhost")); err != nil {
				return err
			}
		}
	}
	if err := l.Attach(ctx, p.instruments); err != nil {
		return err
	}
	if p.watch != "" {
		stop, err := p.watchFolders(ctx, l)
		if err != nil {
			return err
		}
		defer stop()
	}
	in.Analyst, in.Hosts = cmp.Or(p.analyst, whoRuns()), append(in.Hosts, p.hosts(port)...)
	handler, err := server.New(l, in)
	if err != nil {
		return err
	}
	scheme := "http"
	if certificates != nil {
		scheme, listener = "https", tls.NewListener(listener, certificates)
	}
	fmt.Printf("Yugen is ready: %s://%s%s\n", scheme, net.JoinHostPort(p.address, port), path)
	return run(ctx, listener, handler)
}

// mailboxAfter is how far behind the application's port that of the stand-in for a mail server is.
const mailboxAfter = 5

// sendBy begins to send messages by a server.
func (p place) sendBy(ctx context.Context, l *lab.Lab, server, to string) (err error) {
	if l.Messages, err = lab.NewMessages(server, to, p.mailFrom); err == nil {
		go l.Messages.Send(ctx)
	}
	return err
}

// watchFolders begins to take in what appears in folders, and gives what ends it.
func (p place) watchFolders(ctx context.Context, l *lab.Lab) (stop func(), err error) {
	data, err := os.ReadFile(p.watch)
	if err != nil {
		return nil, fmt.Errorf("the rules of watched folders: %w", err)
	}
	rules, err := lab.ReadWatchRules(data)
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(ctx)
	over := make(chan error, 1)
	go func() { over <- l.WatchFolders(ctx, rules) }()
	return func() {
		cancel()
		if err := <-over; err != nil {
			slog.Error("folders are watched no longer", "error", err)
		}
	}, nil
}

// certificates are what TLS is spoken with; nil where it is not.
func (p place) certificates() (*tls.Config, error) {
	if p.certificate == "" && p.key == "" {
		return nil, nil
	}
	pair, err := tls.LoadX509KeyPair(p.certificate, p.key)
	if err != nil {
		return nil, fmt.Errorf("the certificate %s with the key %s cannot be used: %w", p.certificate, p.key, err)
	}
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}, nil
}

// entrance is how the installation is reached, and by whom. Beyond this computer it is reached by people who sign in alone.
func (p place) entrance(ctx context.Context, l *lab.Lab) (server.Entrance, error) {
	in := server.Entrance{Secure: p.certificate != "", Away: p.away, Hosts: p.names}
	if p.people {
		if err := l.LetPeopleSignIn(ctx, true, "console"); err != nil {
			return in, err
		}
	}
	var err error
	if in.People, err = l.SigningIn(ctx); err != nil {
		return in, err
	}
	if p.behind != "" {
		u, err := url.Parse(p.behind)
		if err != nil || u.Host == "" || u.Scheme != "https" {
			return in, fmt.Errorf("%q is no address of a proxy that speaks TLS; it is as https://yugen.example", p.behind)
		}
		in.Behind, in.Secure, in.Hosts = true, true, append(in.Hosts, u.Host)
	}
	ip := net.ParseIP(p.address)
	loopback := p.address == "localhost" || ip != nil && ip.IsLoopback()
	if (!loopback || in.Behind) && !in.People {
		return in, errors.New("without people who sign in, Yugen is reached from this computer alone: make a keeper with 'yugen people add NAME --role keeper', and serve with --people")
	}
	if !loopback && p.certificate == "" {
		return in, errors.New("passwords would go over the network for everybody to read: give --tls-certificate and --tls-key, or listen on 127.0.0.1 behind a proxy that speaks TLS, with --behind")
	}
	return in, nil
}

// deliveryPause is how long what could not be sent waits until it is tried again.
const deliveryPause = 15 * time.Second

// whoRuns is the name of the person whose account runs the server, who acts until somebody says who it is.
func whoRuns() string {
	u, err := user.Current()
	if err != nil {
		return "analyst"
	}
	return cmp.Or(strings.TrimSpace(u.Name), u.Username, "analyst")
}

// hosts are the names under which a browser may ask.
func (p place) hosts(port string) []string {
	hosts := []string{net.JoinHostPort(p.address, port)}
	if ip := net.ParseIP(p.address); ip != nil && ip.IsLoopback() {
		hosts = append(hosts, "localhost:"+port, "127.0.0.1:"+port, "[::1]:"+port)
	}
	return hosts
}

// bodyTime is how long a request may take to arrive: a large file over a slow line fits, a body that trickles in for ever does not.
const bodyTime = 5 * time.Minute

// run serves until the context ends, then lets requests finish for a moment.
func run(ctx context.Context, listener net.Listener, handler http.Handler) error {
	web := &http.Server{
		Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: bodyTime, IdleTimeout: 2 * time.Minute,
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	done := make(chan error, 1)
	go func() { done <- web.Serve(listener) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
		stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 3*time.Second)
		defer cancel()
		if err := web.Shutdown(stop); err != nil {
			return web.Close()
		}
		return nil
	}
}
