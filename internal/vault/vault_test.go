package vault_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/vault"
)

func made(t *testing.T, fill string) vault.Vault {
	v, err := vault.New([]byte(strings.Repeat(fill, 32)))
	require.NoError(t, err)
	return v
}

func TestWhatIsSealedIsReadOnlyWithItsKey(t *testing.T) {
	v := made(t, "a")
	for _, text := range []string{"", "a token", strings.Repeat("long ", 100)} {
		one, err := v.Seal(text)
		require.NoError(t, err)
		two, err := v.Seal(text)
		require.NoError(t, err)
		assert.NotEqual(t, one, two, "nobody sees that two are the same")
		back, err := v.Unseal(one)
		require.NoError(t, err)
		assert.Equal(t, text, back)
		_, err = made(t, "b").Unseal(one)
		assert.ErrorContains(t, err, "another key")
		for _, spoilt := range []string{text, one[3:], one[:len(one)-4], "v1:", "v1:" + one[7:], one + "AAAA"} {
			_, err = v.Unseal(spoilt)
			assert.Error(t, err, spoilt)
		}
	}
	_, err := vault.Vault{}.Seal("x")
	assert.ErrorContains(t, err, "no key")
}

func TestWhatIsSignedIsRecognised(t *testing.T) {
	v := made(t, "a")
	text, ok := v.Signed(v.Sign("7 ABC"))
	assert.True(t, ok)
	assert.Equal(t, "7 ABC", text)
	for _, forged := range []string{"", "7 ABC", "8" + v.Sign("7 ABC")[1:], v.Sign("7 ABC") + "00", made(t, "b").Sign("7 ABC")} {
		_, ok := v.Signed(forged)
		assert.False(t, ok, forged)
	}
	_, ok = vault.Vault{}.Signed(vault.Vault{}.Sign("7 ABC"))
	assert.False(t, ok, "a vault without a key recognises nothing")
}

// The digest is SHA-256 in hexadecimal; the value for "abc" is that of NIST's FIPS 180-2, appendix B.1.
func TestDigest(t *testing.T) {
	assert.Equal(t, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", vault.Digest("abc"))
}

func TestTheKeyIsMadeOnce(t *testing.T) {
	file := filepath.Join(t.TempDir(), "deep", "key")
	sealed := make([]string, 8)
	var all sync.WaitGroup
	for n := range sealed {
		all.Go(func() {
			v, err := vault.Open("", file)
			assert.NoError(t, err)
			sealed[n], err = v.Seal("x")
			assert.NoError(t, err)
		})
	}
	all.Wait()
	v, err := vault.Open("", file)
	require.NoError(t, err)
	for _, s := range sealed {
		_, err := v.Unseal(s)
		assert.NoError(t, err, "all processes got the same key")
	}
	require.NoError(t, os.Chmod(file, 0o644))
	_, err = vault.Open("", file)
	assert.ErrorContains(t, err, "chmod 600")
	_, err = vault.Open("c2hvcnQ=", "")
	assert.ErrorContains(t, err, "5 bytes instead of 32")
	_, err = vault.Open("not base64!", "")
	assert.ErrorContains(t, err, "head -c 32")
}
