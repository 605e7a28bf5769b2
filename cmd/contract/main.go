// Command contract prints the OpenAPI document of the server.
package main

import (
	"fmt"
	"os"

	"yugen/server"
)

func main() {
	document, err := server.Contract()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Stdout.Write(document)
}
