package main

import (
	"fmt"
	"net"
	"strconv"

	"github.com/spf13/cobra"

	"yugen/receiver"
)

func receiverCommand() *cobra.Command {
	var port int
	var folder string
	c := &cobra.Command{
		Use: "receiver --folder DIR", Short: "Serve a stand-in for a laboratory's information system, which takes reports up", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			r, err := receiver.Open(folder)
			if err != nil {
				return err
			}
			listener, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
			if err != nil {
				return fmt.Errorf("cannot listen on port %d: %w", port, err)
			}
			fmt.Printf("The receiver is ready: http://%s/\n", listener.Addr())
			return run(c.Context(), listener, r)
		},
	}
	c.Flags().IntVar(&port, "port", 8790, "port to listen on")
	c.Flags().StringVar(&folder, "folder", "", "folder for what is taken up")
	_ = c.MarkFlagRequired("folder") // fails only for a flag that does not exist
	return c
}
