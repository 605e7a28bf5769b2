package main

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"yugen/instrument"
	"yugen/instrument/standin"
)

// instrumentNames are what stand-ins are called where nobody says otherwise.
var instrumentNames = map[instrument.Kind]string{instrument.LC: "LC 1", instrument.GC: "GC 1", instrument.GCMS: "GC-MS 1"}

func instrumentCommand() *cobra.Command {
	var kind, name string
	var port int
	var speed float64
	var beside bool
	c := &cobra.Command{
		Use: "instrument --kind lc|gc|gcms", Short: "Serve a stand-in for an instrument, which speaks the protocol of docs/instruments.md", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if name == "" {
				name = instrumentNames[instrument.Kind(kind)]
			}
			i, err := standin.New(instrument.Kind(kind), name, speed, rand.Uint64(), time.Now())
			if err != nil {
				return err
			}
			listener, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
			if err != nil {
				return fmt.Errorf("cannot listen on port %d: %w", port, err)
			}
			ctx := c.Context()
			if beside {
				var stop context.CancelFunc
				ctx, stop = context.WithCancel(ctx)
				go func() { // until whoever started it is gone
					_, _ = io.Copy(io.Discard, os.Stdin)
					stop()
				}()
			}
			go i.Run(ctx)
			fmt.Printf("%s is ready: http://%s/\n", name, listener.Addr())
			return run(ctx, listener, i.Handler())
		},
	}
	c.Flags().StringVar(&kind, "kind", string(instrument.LC), "lc, gc or gcms")
	c.Flags().StringVar(&name, "name", "", "what it is called, as LC 2")
	c.Flags().IntVar(&port, "port", 8791, "port to listen on, on this computer")
	c.Flags().Float64Var(&speed, "speed", 1, "simulated seconds in one")
	c.Flags().BoolVar(&beside, "beside", false, "end when the standard input ends, as when the program that started it is gone")
	return c
}

// benchSpeed is how much faster time runs at the stand-ins of the demo.
const benchSpeed = 60

// startBench starts a stand-in of each kind as a program of its own, on the ports after the application's where they are free, and gives their addresses.
func startBench(ctx context.Context, port int, speed float64) (addresses []string, err error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	for k, kind := range instrument.Kinds {
		at := strconv.Itoa(port + 1 + k)
		if l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", at)); err != nil {
			at = "0"
		} else if err := l.Close(); err != nil {
			return nil, err
		}
		one := exec.CommandContext(ctx, self, "instrument", "--kind", string(kind), "--port", at, "--speed", fmt.Sprint(speed), "--beside")
		if _, err := one.StdinPipe(); err != nil {
			return nil, err
		}
		one.Stderr = os.Stderr
		says, err := one.StdoutPipe()
		if err == nil {
			err = one.Start()
		}
		if err != nil {
			return nil, fmt.Errorf("the stand-in %s cannot be started: %w", instrumentNames[kind], err)
		}
		line, err := bufio.NewReader(says).ReadString('\n')
		_, address, ready := strings.Cut(strings.TrimSpace(line), "is ready: ")
		if err != nil || !ready {
			return nil, fmt.Errorf("the stand-in %s does not start: %w", instrumentNames[kind], cmp.Or(err, errors.New(line)))
		}
		go func() { _ = one.Wait() }() // what it has to say stands on the standard error
		addresses = append(addresses, strings.TrimSuffix(address, "/"))
	}
	return addresses, nil
}
