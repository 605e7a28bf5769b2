package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"

	"github.com/spf13/cobra"

	"yugen/mailbox"
)

func mailboxCommand() *cobra.Command {
	var port int
	var folder string
	var beside bool
	c := &cobra.Command{
		Use: "mailbox --folder DIR", Short: "Serve a stand-in for a mail server, which keeps messages as files", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			m, err := mailbox.Open(folder)
			if err != nil {
				return err
			}
			mails, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
			if err != nil {
				return fmt.Errorf("cannot listen on port %d: %w", port, err)
			}
			page, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port+1)))
			if err != nil {
				return errors.Join(fmt.Errorf("cannot listen on port %d: %w", port+1, err), mails.Close())
			}
			ctx, stop := context.WithCancel(whileAsked(c.Context(), beside))
			defer stop()
			over := make(chan error, 1)
			go func() { over <- m.Serve(ctx, mails) }()
			fmt.Printf("The mailbox is ready: smtp://%s, http://%s/\n", mails.Addr(), page.Addr())
			err = run(ctx, page, m)
			stop()
			return errors.Join(err, <-over)
		},
	}
	c.Flags().IntVar(&port, "port", 2525, "port to listen on for messages; the page is on the one after it")
	c.Flags().StringVar(&folder, "folder", "", "folder for the messages")
	_ = c.MarkFlagRequired("folder") // fails only for a flag that does not exist
	c.Flags().BoolVar(&beside, "beside", false, besideSays)
	return c
}
