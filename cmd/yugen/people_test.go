package main

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// The first keeper is made at the console, by a password that is not among the arguments; without one nobody signs in, and beyond this computer nothing is served.
func TestPeopleAtTheConsole(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	const good = "kettle leaf and morning\n"
	for _, c := range []struct {
		in   string
		args []string
		code int
		says string
	}{
		{"", []string{"serve", "--people", "--port", "0", "--data", dir}, 1, "make the first keeper"},
		{"", []string{"serve", "--address", "0.0.0.0", "--port", "0", "--data", dir}, 1, "reached from this computer alone"},
		{"", []string{"serve", "--behind", "https://yugen.example", "--port", "0", "--data", dir}, 1, "reached from this computer alone"},
		{"short\n", []string{"people", "add", "L. Ferreira", "--role", "keeper", "--data", dir}, 1, "at least 12 signs"},
		{good, []string{"people", "add", "L. Ferreira", "--role", "chief", "--data", dir}, 1, "is no role"},
		{good, []string{"people", "add", "L. Ferreira", "--role", "keeper,reviewer", "--data", dir}, 0, ""},
		{good, []string{"people", "add", "l. ferreira", "--data", dir}, 1, "never used twice"},
		{good, []string{"people", "password", "Nobody", "--data", dir}, 1, "no Nobody here"},
		{"another evening of rain\n", []string{"people", "password", "L. Ferreira", "--data", dir}, 0, ""},
		{"", []string{"people", "--data", dir}, 0, "Nobody signs in"},
		{"", []string{"people", "--data", dir}, 0, "L. Ferreira\tkeeper, reviewer"},
		{"", []string{"serve", "--people", "--address", "0.0.0.0", "--port", "0", "--data", dir}, 1, "for everybody to read"},
		{"", []string{"people", "--data", dir}, 0, "People sign in."},
		{"", []string{"serve", "--tls-certificate", "none.pem", "--port", "0", "--data", dir}, 1, "cannot be used"},
		{"", []string{"serve", "--behind", "yugen", "--port", "0", "--data", dir}, 1, "no address of a proxy"},
		{"", []string{"serve", "--behind", "http://yugen.example", "--port", "0", "--data", dir}, 1, "no address of a proxy that speaks TLS"},
		{"", []string{"people", "off", "--data", dir}, 0, ""},
		{"", []string{"people", "--data", dir}, 0, "Nobody signs in"},
		{"", []string{"check", dir}, 0, "All is well"},
	} {
		out, errs, code := yugen(t, c.in, c.args...)
		if code != c.code || !strings.Contains(out+errs, c.says) {
			t.Errorf("%v: %d %s%s, want %q", c.args, code, out, errs, c.says)
		}
	}
}

// With a certificate of its own it speaks TLS and nothing else, under the names that it is given.
func TestItSpeaksTLS(t *testing.T) {
	folder := t.TempDir()
	certificate, key, roots := selfSigned(t, folder)
	ctx, stop := context.WithCancel(t.Context())
	c := exec.CommandContext(ctx, program, "serve", "--port", "0", "--data", filepath.Join(folder, "data"), "--tls-certificate", certificate, "--tls-key", key)
	out, err := c.StdoutPipe()
	if err == nil {
		err = c.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	defer func() { stop(); _ = c.Wait() }() // killed
	line, err := bufio.NewReader(out).ReadString('\n')
	_, address, found := strings.Cut(strings.TrimSpace(line), "https://")
	if err != nil || !found {
		t.Fatalf("%q, %v", line, err)
	}
	client := http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: roots}}}
	r, err := client.Get("https://" + address + "api/session")
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	if r.StatusCode != http.StatusOK || r.TLS.Version < tls.VersionTLS12 || r.Header.Get("Strict-Transport-Security") == "" {
		t.Errorf("%d, TLS %x, %v", r.StatusCode, r.TLS.Version, r.Header)
	}
	client.Transport = &http.Transport{TLSClientConfig: &tls.Config{RootCAs: roots, MaxVersion: tls.VersionTLS11, MinVersion: tls.VersionTLS10}}
	if r, err := client.Get("https://" + address + "api/session"); err == nil {
		r.Body.Close()
		t.Error("an outdated version is spoken")
	}
	if r, err := http.Get("http://" + address + "api/session"); err == nil {
		if r.Body.Close(); r.StatusCode == http.StatusOK {
			t.Error("it answers in the clear")
		}
	}
}

// selfSigned writes a certificate for 127.0.0.1 and its key, and gives what trusts it.
func selfSigned(t *testing.T, folder string) (certificate, key string, roots *x509.CertPool) {
	t.Helper()
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	about := x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}, IsCA: true, BasicConstraintsValid: true}
	raw, err := x509.CreateCertificate(rand.Reader, &about, &about, &private.PublicKey, private)
	if err != nil {
		t.Fatal(err)
	}
	secret, err := x509.MarshalPKCS8PrivateKey(private)
	if err != nil {
		t.Fatal(err)
	}
	certificate, key, roots = filepath.Join(folder, "c.pem"), filepath.Join(folder, "k.pem"), x509.NewCertPool()
	for file, block := range map[string]*pem.Block{certificate: {Type: "CERTIFICATE", Bytes: raw}, key: {Type: "PRIVATE KEY", Bytes: secret}} {
		if err := os.WriteFile(file, pem.EncodeToMemory(block), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	parsed, err := x509.ParseCertificate(raw)
	if err != nil {
		t.Fatal(err)
	}
	roots.AddCert(parsed)
	return certificate, key, roots
}
