package main

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"io"
	"net"
	"os"
	"os/exec"
	"strconv"
	"strings"
)

const besideSays = "end when the standard input ends, as when the program that started it is gone"

// whileAsked ends with the context, and for a program that was started beside another, with that.
func whileAsked(ctx context.Context, beside bool) context.Context {
	if !beside {
		return ctx
	}
	ctx, stop := context.WithCancel(ctx)
	go func() {
		_, _ = io.Copy(io.Discard, os.Stdin) // however it ends
		stop()
	}()
	return ctx
}

// startBeside starts this program once more with another command, and gives the address that it is ready at. It ends with the one that started it.
func startBeside(ctx context.Context, arguments ...string) (address string, err error) {
	self, err := os.Executable()
	if err != nil {
		return "", err
	}
	one := exec.CommandContext(ctx, self, append(arguments, "--beside")...)
	one.Stderr = os.Stderr // what it has to say
	if _, err := one.StdinPipe(); err != nil {
		return "", err
	}
	says, err := one.StdoutPipe()
	if err == nil {
		err = one.Start()
	}
	if err != nil {
		return "", err
	}
	line, err := bufio.NewReader(says).ReadString('\n')
	_, address, ready := strings.Cut(strings.TrimSpace(line), "is ready: ")
	if err != nil || !ready {
		return "", cmp.Or(err, errors.New(line))
	}
	go func() { _ = one.Wait() }()
	address, _, _ = strings.Cut(address, ",")
	return strings.TrimSuffix(address, "/"), nil
}

// free tells whether a port of this computer can be listened on.
func free(port int) bool {
	l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	return err == nil && l.Close() == nil
}
