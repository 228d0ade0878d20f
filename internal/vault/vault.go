// Package vault keeps secrets: what must be read again is encrypted (AES-256-GCM, NIST SP 800-38D), what must only be
// recognised is stored as its digest, and what is given out to come back is signed (HMAC-SHA-256, RFC 2104). All of it
// goes by one key, from which HKDF (RFC 5869) makes one for each purpose.
package vault

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// keyBytes is the length of a key.
const keyBytes = 32

// A Vault seals and signs. The zero value does neither; see [New] and [Open].
type Vault struct{ seals, signs []byte }

// New makes a vault of a key of 32 bytes.
func New(key []byte) (Vault, error) {
	if len(key) != keyBytes {
		return Vault{}, fmt.Errorf("the key has %d bytes instead of %d", len(key), keyBytes)
	}
	seals, err := hkdf.Key(sha256.New, key, nil, "seal", keyBytes)
	if err != nil {
		return Vault{}, err
	}
	signs, err := hkdf.Key(sha256.New, key, nil, "sign", keyBytes)
	return Vault{seals, signs}, err
}

// Open makes a vault of a key in base64 or, where that is empty, of the one in a file, which is made with mode 0600
// when it is not there. A file that others may read is refused.
func Open(key, file string) (Vault, error) {
	if key == "" {
		var err error
		if key, err = kept(file); err != nil {
			return Vault{}, err
		}
	}
	raw, err := base64.StdEncoding.DecodeString(strings.TrimSpace(key))
	if err != nil {
		return Vault{}, errors.New("the key is not in base64; make one with: head -c 32 /dev/urandom | base64")
	}
	return New(raw)
}

// kept reads the key in a file, or makes it. Of several processes that make it at once one wins.
func kept(file string) (string, error) {
	info, err := os.Stat(file)
	if errors.Is(err, fs.ErrNotExist) {
		if err := create(file); err != nil {
			return "", fmt.Errorf("making the key: %w", err)
		}
		info, err = os.Stat(file)
	}
	if err != nil {
		return "", fmt.Errorf("reading the key: %w", err)
	}
	if info.Mode().Perm()&0o077 != 0 {
		return "", fmt.Errorf("others may read the key %s; forbid it with: chmod 600 %s", file, file)
	}
	key, err := os.ReadFile(file)
	return string(key), err
}

// create writes a new key beside its place and puts it there whole, unless one is there already.
func create(file string) error {
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	raw := make([]byte, keyBytes)
	_, _ = rand.Read(raw)                                        // never fails
	made, err := os.CreateTemp(filepath.Dir(file), ".new-key-*") // with mode 0600
	if err != nil {
		return err
	}
	defer os.Remove(made.Name())
	_, err = made.WriteString(base64.StdEncoding.EncodeToString(raw) + "\n")
	if err := errors.Join(err, made.Close()); err != nil {
		return err
	}
	if err := os.Link(made.Name(), file); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	return nil
}

// mark is how sealed texts begin.
const mark = "v1:"

// Sealed says whether a text is sealed.
func Sealed(text string) bool { return strings.HasPrefix(text, mark) }

func (v Vault) aead() (cipher.AEAD, error) {
	block, err := aes.NewCipher(v.seals)
	if err != nil {
		return nil, fmt.Errorf("the vault has no key: %w", err)
	}
	return cipher.NewGCMWithRandomNonce(block)
}

// Seal encrypts a text.
func (v Vault) Seal(text string) (string, error) {
	aead, err := v.aead()
	if err != nil {
		return "", err
	}
	return mark + base64.StdEncoding.EncodeToString(aead.Seal(nil, nil, []byte(text), nil)), nil
}

// Unseal gives a text back that was sealed with the same key.
func (v Vault) Unseal(sealed string) (string, error) {
	aead, err := v.aead()
	if err != nil {
		return "", err
	}
	raw, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(sealed, mark))
	if err != nil || !Sealed(sealed) {
		return "", errors.New("this is not sealed")
	}
	text, err := aead.Open(nil, nil, raw, nil)
	if err != nil {
		return "", errors.New("this was sealed with another key; is it the key that this database was used with?")
	}
	return string(text), nil
}

// Sign gives a text a signature to be recognised by. It must not hold a "~".
func (v Vault) Sign(text string) string { return text + "~" + hex.EncodeToString(v.mac(text)) }

// Signed gives the text of what [Vault.Sign] made; ok is false for everything else.
func (v Vault) Signed(signed string) (text string, ok bool) {
	text, signature, _ := strings.Cut(signed, "~")
	raw, err := hex.DecodeString(signature)
	return text, err == nil && len(v.signs) > 0 && hmac.Equal(raw, v.mac(text))
}

func (v Vault) mac(text string) []byte {
	h := hmac.New(sha256.New, v.signs)
	h.Write([]byte(text))
	return h.Sum(nil)
}

// Digest is what is stored of a random token: enough to recognise it, of no use to whoever reads it.
func Digest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}
