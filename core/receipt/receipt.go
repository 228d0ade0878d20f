// Package receipt holds what a course site certifies about work it has accepted, and finds out
// whether that agrees with what was sent.
//
// A receipt is signed over its canonical JSON (RFC 8785) without the signature, with Ed25519
// (RFC 8032). Digests are SHA-256 (FIPS 180-4) in lower-case hex.
package receipt

import (
	"crypto/ed25519"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/gowebpki/jcs"
)

// A Receipt is one accepted attempt, as the site certifies it.
type Receipt struct {
	Site            string `json:"site"`
	Course          string `json:"course"`
	Assignment      string `json:"assignment"`
	Part            string `json:"part"`
	Attempt         int    `json:"attempt"`
	Student         string `json:"student"`
	Number          string `json:"number"`      // of the submission, unique on the site
	ReceivedAt      string `json:"received_at"` // RFC 3339
	LatenessMinutes int    `json:"lateness_minutes"`
	Files           []File `json:"files"`
	Key             string `json:"key"`                 // id of the signing key
	Signature       string `json:"signature,omitempty"` // base64, standard alphabet with padding
}

// A File is one file as it arrived.
type File struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"` // 64 lower-case hex digits
}

// SignedBytes are the bytes that the signature covers: the canonical JSON of the receipt without it.
func (r Receipt) SignedBytes() ([]byte, error) {
	r.Signature = ""
	if r.Files == nil {
		r.Files = []File{}
	}
	text, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	return jcs.Transform(text)
}

// Sign returns the receipt with key's signature.
func (r Receipt) Sign(key ed25519.PrivateKey) (Receipt, error) {
	text, err := r.SignedBytes()
	if err != nil {
		return r, err
	}
	r.Signature = base64.StdEncoding.EncodeToString(ed25519.Sign(key, text))
	return r, nil
}

// Check says what is wrong with the signature, or nil.
func (r Receipt) Check(key ed25519.PublicKey) error {
	signature, err := base64.StdEncoding.DecodeString(r.Signature)
	if err != nil || len(signature) != ed25519.SignatureSize {
		return errors.New("the receipt carries no Ed25519 signature")
	}
	text, err := r.SignedBytes()
	if err != nil {
		return err
	}
	if !ed25519.Verify(key, text, signature) {
		return errors.New("the signature does not belong to this receipt and key")
	}
	return nil
}

// ParseKey reads a public key: 32 bytes in base64, white space around them ignored.
func ParseKey(text string) (ed25519.PublicKey, error) {
	key, err := base64.StdEncoding.DecodeString(strings.TrimSpace(text))
	if err != nil || len(key) != ed25519.PublicKeySize {
		return nil, fmt.Errorf("a public key is %d bytes in base64", ed25519.PublicKeySize)
	}
	return key, nil
}

// FormatKey writes a public key as [ParseKey] reads it.
func FormatKey(key ed25519.PublicKey) string { return base64.StdEncoding.EncodeToString(key) }
