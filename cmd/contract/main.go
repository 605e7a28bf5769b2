// Command contract prints the OpenAPI document of the server, or with "instruments" that of the protocol that instruments speak.
package main

import (
	"fmt"
	"os"

	"yugen/server"
)

func main() {
	write := server.Contract
	if len(os.Args) > 1 && os.Args[1] == "instruments" {
		write = server.InstrumentContract
	}
	document, err := write()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Stdout.Write(document)
}
