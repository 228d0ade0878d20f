package receipt

import (
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"testing"
	"time"

	"github.com/gowebpki/jcs"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func unhex(t *testing.T, s string) []byte {
	b, err := hex.DecodeString(s)
	require.NoError(t, err)
	return b
}

// RFC 8785 §3.2.2–§3.2.3: the sample object and its canonical form; §3.2.3's sorting sample;
// appendix B: numbers.
func TestCanonicalJSONVectors(t *testing.T) {
	for in, want := range map[string]string{
		`{"numbers": [333333333.33333329, 1E30, 4.50, 2e-3, 0.000000000000000000000000001],"string": "\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/","literals": [null, true, false]}`:                               `{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\u000f\nA'B\"\\\\\"/"}`,
		`{"\u20ac":"Euro Sign","\r":"Carriage Return","\ufb33":"Hebrew Letter Dalet With Dagesh","1":"One","\ud83d\ude00":"Emoji: Grinning Face","\u0080":"Control","\u00f6":"Latin Small Letter O With Diaeresis"}`: "{\"\\r\":\"Carriage Return\",\"1\":\"One\",\"\u0080\":\"Control\",\"ö\":\"Latin Small Letter O With Diaeresis\",\"€\":\"Euro Sign\",\"😀\":\"Emoji: Grinning Face\",\"\ufb33\":\"Hebrew Letter Dalet With Dagesh\"}",
		`[9007199254740992, 295147905179352830000, 1e-7, 0.000001, 1e21, -0]`: `[9007199254740992,295147905179352830000,1e-7,0.000001,1e+21,0]`,
	} {
		got, err := jcs.Transform([]byte(in))
		require.NoError(t, err)
		assert.Equal(t, want, string(got))
	}
}

// RFC 8032 §7.1, tests 1 to 3.
func TestEd25519Vectors(t *testing.T) {
	for _, v := range []struct{ seed, public, message, signature string }{
		{"9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60", "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a", "",
			"e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b"},
		{"4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb", "3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c", "72",
			"92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00"},
		{"c5aa8df43f9f837bedb7442f31dcb7b166d38535076f094b85ce3a2e0b4458f7", "fc51cd8e6218a1a38da47ed00230f0580816ed13ba3303ac5deb911548908025", "af82",
			"6291d657deec24024827e69c3abe01a30ce548a284743a445e3680d7db5ac3ac18ff9b538d16f290ae67f760984dc6594a7c15e9716ed28dc027beceea1ec40a"},
	} {
		key := ed25519.NewKeyFromSeed(unhex(t, v.seed))
		assert.Equal(t, v.public, hex.EncodeToString(key.Public().(ed25519.PublicKey)))
		assert.Equal(t, v.signature, hex.EncodeToString(ed25519.Sign(key, unhex(t, v.message))))
	}
}

// FIPS 180-4's worked examples for SHA-256 (NIST, "SHA256.pdf": one block, two blocks).
func TestSHA256Vectors(t *testing.T) {
	for message, want := range map[string]string{
		"abc": "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
		"abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq": "248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1",
	} {
		sum := sha256.Sum256([]byte(message))
		assert.Equal(t, want, hex.EncodeToString(sum[:]))
	}
}

func sample(t *testing.T) (Receipt, Sent) {
	key := ed25519.NewKeyFromSeed(make([]byte, 32))
	files := []File{
		{"quintal_HYD214_tide-tables.pdf", 421_888, digest("report")},
		{"quintal_HYD214_tide-tables.csv", 3_012, digest("data")},
	}
	r, err := Receipt{
		Site:       "Alvarim practice campus",
		Course:     "HYD214",
		Assignment: "lab-4",
		Attempt:    1,
		Student:    "20418",
		Number:     "APC-2026-000417",
		ReceivedAt: "2026-11-26T17:32:05Z",
		Files:      files,
		Key:        "k1",
	}.Sign(key)
	require.NoError(t, err)
	at := time.Date(2026, 11, 26, 17, 32, 0, 0, time.UTC)
	return r, Sent{
		Course:     "HYD214",
		Assignment: "lab-4",
		Student:    "20418",
		Attempt:    1,
		Files:      append([]File(nil), files...),
		NotBefore:  at,
		NotAfter:   at.Add(30 * time.Second),
		Key:        key.Public().(ed25519.PublicKey),
	}
}

func digest(s string) string {
	sum := sha256.Sum256([]byte(s))
	return hex.EncodeToString(sum[:])
}

func TestAReceiptThatAgrees(t *testing.T) {
	r, sent := sample(t)
	p := Compare(r, sent)
	assert.True(t, p.Agrees, "%+v", p)
	assert.Len(t, p.Files, 2)
	sent.Key = nil
	p = Compare(r, sent)
	assert.True(t, p.Agrees)
	assert.Contains(t, p.Parts, Part{"signature", "", notChecked, true})
}

func TestEveryDisagreementIsFoundAndNamed(t *testing.T) {
	for what, c := range map[string]struct {
		spoil func(*Receipt, *Sent)
		where string
	}{
		"another digest": {func(_ *Receipt, s *Sent) { s.Files[0].SHA256 = digest("older") }, "Its content differs"},
		"another size":   {func(_ *Receipt, s *Sent) { s.Files[0].Bytes++ }, "The receipt says"},
		"another name":   {func(_ *Receipt, s *Sent) { s.Files[0].Name = "quintal.pdf" }, "another name"},
		"a file lost": {
			func(_ *Receipt, s *Sent) { s.Files = append(s.Files, File{"map.png", 9, digest("map")}) },
			"not on the receipt",
		},
		"a file too many":   {func(_ *Receipt, s *Sent) { s.Files = s.Files[:1] }, "not among the files"},
		"another attempt":   {func(_ *Receipt, s *Sent) { s.Attempt = 2 }, "attempt"},
		"an earlier time":   {func(_ *Receipt, s *Sent) { s.NotBefore = s.NotBefore.Add(2 * time.Minute) }, "time"},
		"a touched receipt": {func(r *Receipt, _ *Sent) { r.LatenessMinutes = 5 }, "signature"},
		"another key": {func(_ *Receipt, s *Sent) {
			s.Key = ed25519.NewKeyFromSeed([]byte("another key, another key, yes 32")).Public().(ed25519.PublicKey)
		}, "signature"},
		"no signature": {func(r *Receipt, _ *Sent) { r.Signature = "" }, "signature"},
	} {
		r, sent := sample(t)
		c.spoil(&r, &sent)
		p := Compare(r, sent)
		assert.False(t, p.Agrees, what)
		text, _ := json.Marshal(p)
		assert.Contains(t, string(text), c.where, what)
	}
}

func TestKeysAreReadAsWritten(t *testing.T) {
	_, sent := sample(t)
	key, err := ParseKey(FormatKey(sent.Key) + "\n")
	require.NoError(t, err)
	assert.Equal(t, sent.Key, key)
	_, err = ParseKey("AAAA")
	assert.Error(t, err)
}
