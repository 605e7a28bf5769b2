package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net"
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
			ctx := whileAsked(c.Context(), beside)
			go i.Run(ctx)
			fmt.Printf("%s is ready: http://%s/\n", name, listener.Addr())
			return run(ctx, listener, i.Handler())
		},
	}
	c.Flags().StringVar(&kind, "kind", string(instrument.LC), "lc, gc or gcms")
	c.Flags().StringVar(&name, "name", "", "what it is called, as LC 2")
	c.Flags().IntVar(&port, "port", 8791, "port to listen on, on this computer")
	c.Flags().Float64Var(&speed, "speed", 1, "simulated seconds in one")
	c.Flags().BoolVar(&beside, "beside", false, besideSays)
	return c
}

// benchSpeed is how much faster time runs at the stand-ins of the demo.
const benchSpeed = 60

// startBench starts a stand-in of each kind as a program of its own, on the ports after the application's where they are free, and gives their addresses.
func startBench(ctx context.Context, port int, speed float64) (addresses []string, err error) {
	for k, kind := range instrument.Kinds {
		at := "0"
		if free(port + 1 + k) {
			at = strconv.Itoa(port + 1 + k)
		}
		address, err := startBeside(ctx, "instrument", "--kind", string(kind), "--port", at, "--speed", fmt.Sprint(speed))
		if err != nil {
			return nil, fmt.Errorf("the stand-in %s does not start: %w", instrumentNames[kind], err)
		}
		addresses = append(addresses, strings.TrimSuffix(address, "/"))
	}
	return addresses, nil
}
