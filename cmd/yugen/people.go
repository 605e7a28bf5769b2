package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

// peopleCommand is the console's way to people: the first keeper is made here, and whoever forgot their password as the last keeper is helped here.
func peopleCommand() *cobra.Command {
	var data string
	var roles []string
	c := &cobra.Command{Use: "people", Short: "Who may come in, where people sign in", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return withLab(c.Context(), data, func(l *lab.Lab) error { return listPeople(c, l) })
		}}
	c.PersistentFlags().StringVar(&data, "data", dataFolder(), "folder of the data, also DATA=")
	add := &cobra.Command{Use: "add NAME", Short: "Let somebody in; the password is asked for, or read from the standard input", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			password, err := readPassword(c)
			if err != nil {
				return err
			}
			asked := lab.PersonAsked{Name: args[0], Password: password}
			for _, r := range roles {
				asked.Roles = append(asked.Roles, people.Role(r))
			}
			return withLab(c.Context(), data, func(l *lab.Lab) error {
				_, err := l.AddPerson(c.Context(), asked, "console")
				return err
			})
		}}
	add.Flags().StringSliceVar(&roles, "role", []string{string(people.Analyst)}, "reader, analyst, method developer, reviewer or keeper; may be said twice")
	password := &cobra.Command{Use: "password NAME", Short: "Give somebody another password; all their sessions end", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			next, err := readPassword(c)
			if err != nil {
				return err
			}
			return withLab(c.Context(), data, func(l *lab.Lab) error {
				list, err := l.People(c.Context())
				if err != nil {
					return err
				}
				for _, p := range list {
					if strings.EqualFold(p.Name, args[0]) {
						_, err := l.ChangePerson(c.Context(), p.ID, lab.PersonAsked{Password: next}, "console")
						return err
					}
				}
				return fmt.Errorf("there is no %s here", args[0])
			})
		}}
	off := &cobra.Command{Use: "off", Short: "Nobody signs in any more; Yugen is then reached from this computer alone", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return withLab(c.Context(), data, func(l *lab.Lab) error { return l.LetPeopleSignIn(c.Context(), false, "console") })
		}}
	c.AddCommand(add, password, off)
	return c
}

// withLab opens a data folder that no server uses.
func withLab(ctx context.Context, data string, do func(*lab.Lab) error) error {
	release, err := store.Lock(data)
	if err != nil {
		return err
	}
	defer release()
	s, err := store.Open(ctx, data)
	if err != nil {
		return err
	}
	l := lab.New(s)
	defer l.Close()
	return errors.Join(do(l), s.Close())
}

func listPeople(c *cobra.Command, l *lab.Lab) error {
	on, err := l.SigningIn(c.Context())
	if err != nil {
		return err
	}
	list, err := l.People(c.Context())
	if err != nil {
		return err
	}
	out := c.OutOrStdout()
	fmt.Fprintln(out, map[bool]string{true: "People sign in.", false: "Nobody signs in: one person works here, from this computer."}[on])
	for _, p := range list {
		roles := make([]string, len(p.Roles))
		for k, r := range p.Roles {
			roles[k] = string(r)
		}
		line := p.Name + "\t" + strings.Join(roles, ", ")
		if p.ClosedAt != nil {
			line += "\tclosed " + p.ClosedAt.Format("2 January 2006")
		}
		fmt.Fprintln(out, line)
	}
	return nil
}

// readPassword asks for a password without showing it; where the input is no terminal it is its first line.
func readPassword(c *cobra.Command) (string, error) {
	if in, ok := c.InOrStdin().(*os.File); ok && term.IsTerminal(int(in.Fd())) {
		fmt.Fprint(c.ErrOrStderr(), "Password: ")
		text, err := term.ReadPassword(int(in.Fd()))
		fmt.Fprintln(c.ErrOrStderr())
		return string(text), err
	}
	line, err := bufio.NewReader(io.LimitReader(c.InOrStdin(), 4096)).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}
