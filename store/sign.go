package store

import (
	"crypto/ed25519"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// KeyPath is where the private key lies that signs the record's head and kept results: outside every data folder and its backups, so that whoever has
// these cannot sign. YUGEN_KEY names another place.
func KeyPath() (string, error) {
	if path := os.Getenv("YUGEN_KEY"); path != "" {
		return path, nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("there is no place for the signing key: %w; name one with YUGEN_KEY", err)
	}
	return filepath.Join(dir, "yugen", "signing.key"), nil
}

// signer signs with the installation's key.
type signer struct {
	private ed25519.PrivateKey
	public  string // in hex
}

// loadSigner reads the key, or makes one, readable by its owner alone.
func loadSigner() (*signer, error) {
	path, err := KeyPath()
	if err != nil {
		return nil, err
	}
	text, err := os.ReadFile(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
		_, private, err := ed25519.GenerateKey(rand.Reader)
		if err != nil {
			return nil, err
		}
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			return nil, fmt.Errorf("the signing key cannot be kept: %w; name another place with YUGEN_KEY", err)
		}
		file, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
		if errors.Is(err, os.ErrExist) { // another program was first
			return loadSigner()
		}
		if err != nil {
			return nil, fmt.Errorf("the signing key cannot be kept: %w; name another place with YUGEN_KEY", err)
		}
		_, err = file.WriteString(hex.EncodeToString(private.Seed()) + "\n")
		return newSigner(private), errors.Join(err, file.Sync(), file.Close())
	case err != nil:
		return nil, fmt.Errorf("the signing key %s cannot be read: %w", path, err)
	}
	seed, err := hex.DecodeString(strings.TrimSpace(string(text)))
	if err != nil || len(seed) != ed25519.SeedSize {
		return nil, fmt.Errorf("the signing key %s is damaged; move it away, and a new one is made and told in the record", path)
	}
	return newSigner(ed25519.NewKeyFromSeed(seed)), nil
}

func newSigner(private ed25519.PrivateKey) *signer {
	return &signer{private, hex.EncodeToString(private.Public().(ed25519.PublicKey))}
}

// sign gives the public key and the signature of a text, in hex.
func (s *signer) sign(text string) string {
	return s.public + ":" + hex.EncodeToString(ed25519.Sign(s.private, []byte(text)))
}

// signedBy is the public key that signed a text, where that is among those known.
func signedBy(text, seal string, known map[string]bool) (public string, ok bool) {
	public, signature, found := strings.Cut(seal, ":")
	key, errKey := hex.DecodeString(public)
	raw, errRaw := hex.DecodeString(signature)
	if !found || errKey != nil || errRaw != nil || len(key) != ed25519.PublicKeySize || !known[public] {
		return "", false
	}
	return public, ed25519.Verify(key, []byte(text), raw)
}

// SignText signs a text with the installation's key: the public key and the signature, in hex; empty where there is no key.
func (s *Store) SignText(text string) (public, signature string) {
	if s.signer == nil {
		return "", ""
	}
	public, signature, _ = strings.Cut(s.signer.sign(text), ":")
	return public, signature
}
