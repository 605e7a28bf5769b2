// Package e2e drives the real application in a browser, as a chemist would.
package e2e
