package people

import (
	"crypto/rand"
	"crypto/subtle"
	_ "embed"
	"encoding/base64"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"
)

// Of argon2id (RFC 9106, section 4, second recommended option): 3 passes over 64 MB.
const (
	passes  = 3
	memory  = 64 << 10 // KB
	lanes   = 2
	keySize = 32
	salt    = 16
)

// Of passwords; no rule wants signs of several kinds (OWASP ASVS 5.0, 6.2.5).
const (
	LeastSigns = 12
	mostBytes  = 512
)

// slots bound how many passwords are hashed at once: each takes 64 MB and a quarter of a second.
var slots = make(chan struct{}, 2)

func key(password string, salted []byte, passes, memory uint32, lanes uint8, size uint32) []byte {
	slots <- struct{}{}
	defer func() { <-slots }()
	return argon2.IDKey([]byte(password), salted, passes, memory, lanes, size)
}

// Hashed is a password as it is kept, in the PHC string format.
func Hashed(password string) string {
	salted := make([]byte, salt)
	_, _ = rand.Read(salted) // never fails
	text := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes, text(salted), text(key(password, salted, passes, memory, lanes, keySize)))
}

// nobody is the hash that stands for that of somebody who is not there, so that asking takes as long.
var nobody = fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes, strings.Repeat("A", 22), strings.Repeat("A", 43))

// Fits tells whether a password is the one of a hash. It takes as long where there is no hash.
func Fits(hash, password string) bool {
	there := hash != ""
	if !there {
		hash = nobody
	}
	parts := strings.Split(hash, "$")
	var version int
	var m, t uint32
	var p uint8
	if len(password) > mostBytes || len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	if _, err := fmt.Sscanf(parts[2], "v=%d", &version); err != nil || version != argon2.Version {
		return false
	}
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p); err != nil || m > 1<<20 || t > 64 || t == 0 || p == 0 {
		return false
	}
	salted, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false
	}
	want, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil || len(want) == 0 {
		return false
	}
	return subtle.ConstantTimeCompare(key(password, salted, t, m, p, uint32(len(want))), want) == 1 && there
}

//go:embed known.txt
var known string

// Weak says why a password is not taken; empty where it is.
func Weak(password, name string) string {
	low := strings.ToLower(password)
	switch {
	case utf8.RuneCountInString(password) < LeastSigns:
		return fmt.Sprintf("a password has at least %d signs; several words make a good one", LeastSigns)
	case len(password) > mostBytes:
		return fmt.Sprintf("a password has at most %d bytes", mostBytes)
	case len(kinds(low)) < 5:
		return "a password of so few different signs is soon guessed"
	case inSequence(low):
		return "a password that only counts on, or goes along the keyboard, is soon guessed"
	case strings.Contains(low, strings.ToLower(strings.TrimSpace(name))) && strings.TrimSpace(name) != "":
		return "a password does not hold the name of its person"
	}
	for line := range strings.Lines(known) {
		if word := strings.TrimSpace(line); word != "" && strings.ReplaceAll(low, word, "") == "" {
			return "this password is among those that are tried first"
		}
	}
	return ""
}

func kinds(s string) map[rune]bool {
	out := map[rune]bool{}
	for _, r := range s {
		out[r] = true
	}
	return out
}

// inSequence tells whether nearly every sign follows from the one before it.
func inSequence(s string) bool {
	runs := []string{"qwertyuiopasdfghjklzxcvbnm", "qwertzuiopasdfghjklyxcvbnm", "1234567890", "0987654321"}
	along, signs := 0, []rune(s)
	for i := 1; i < len(signs); i++ {
		pair := string(signs[i-1 : i+1])
		next := signs[i]-signs[i-1] == 1 || signs[i-1]-signs[i] == 1
		for _, r := range runs {
			next = next || strings.Contains(r, pair)
		}
		if next {
			along++
		}
	}
	return along >= len(signs)-3
}
