package contents_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
	"orario/internal/contents"
	"orario/internal/mariadb/mariadbtest"
)

func noise(n int) []byte {
	data := make([]byte, n)
	rand.NewChaCha8([32]byte{1}).Read(data)
	return data
}

func count(t *testing.T, s contents.Store, table string) (n int) {
	require.NoError(t, s.DB.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
	return n
}

func TestContentsAreKeptOnceByDigest(t *testing.T) {
	s := contents.Store{DB: mariadbtest.Orario(t).SQL}
	ctx := context.Background()
	for _, size := range []int{0, 1, 1 << 20, 1<<20 + 1, 3_500_000} {
		data := noise(size)
		for range 2 {
			digest, n, err := s.Put(ctx, bytes.NewReader(data))
			require.NoError(t, err)
			assert.Equal(t, inspect.Digest(data), digest)
			assert.Equal(t, int64(size), n)
			back, err := s.Read(ctx, digest)
			require.NoError(t, err)
			assert.True(t, bytes.Equal(data, back))
		}
		if size > 2 {
			r, err := s.Open(ctx, inspect.Digest(data), int64(size/2))
			require.NoError(t, err)
			rest, err := io.ReadAll(r)
			require.NoError(t, err)
			assert.True(t, bytes.Equal(data[size/2:], rest))
		}
	}
	assert.Equal(t, 5, count(t, s, "content"))
	assert.Equal(t, 0+1+1+2+4, count(t, s, "content_chunk"))
	_, err := s.Read(ctx, inspect.Digest([]byte("never")))
	assert.ErrorIs(t, err, contents.ErrNotFound)
}

func TestAPutThatBreaksOffLeavesNothing(t *testing.T) {
	s := contents.Store{DB: mariadbtest.Orario(t).SQL}
	_, _, err := s.Put(context.Background(), io.MultiReader(bytes.NewReader(noise(2<<20)), broken{}))
	assert.Error(t, err)
	assert.Equal(t, 0, count(t, s, "content"))
	assert.Equal(t, 0, count(t, s, "content_chunk"))
}

type broken struct{}

func (broken) Read([]byte) (int, error) { return 0, errors.New("the line broke") }

// The protocol's own steps (tus 1.0.0): create, a PATCH that breaks off, HEAD for the offset, a PATCH
// with the rest.
func TestAnUploadGoesOnWhereItBroke(t *testing.T) {
	u := contents.Uploads{Store: contents.Store{DB: mariadbtest.Orario(t).SQL}}
	handler, err := u.Handler("/up/", 10<<20)
	require.NoError(t, err)
	owner := "7"
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		handler.ServeHTTP(w, r.WithContext(contents.WithOwner(r.Context(), owner)))
	}))
	defer server.Close()
	data := noise(3_500_000)
	tus := func(method, address string, header map[string]string, body io.Reader) *http.Response {
		r, err := http.NewRequest(method, address, body)
		require.NoError(t, err)
		r.Header.Set("Tus-Resumable", "1.0.0")
		for k, v := range header {
			r.Header.Set(k, v)
		}
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			return nil // the line broke
		}
		answer.Body.Close()
		return answer
	}
	answer := tus(
		"POST",
		server.URL+"/up/",
		map[string]string{
			"Upload-Length":   strconv.Itoa(len(data)),
			"Upload-Metadata": "filename " + base64.StdEncoding.EncodeToString([]byte("maré.pdf")),
		},
		nil,
	)
	require.Equal(t, http.StatusCreated, answer.StatusCode)
	address := answer.Header.Get("Location")
	patch := map[string]string{"Content-Type": "application/offset+octet-stream", "Upload-Offset": "0"}
	tus("PATCH", address, patch, io.MultiReader(bytes.NewReader(data[:2_000_000]), broken{}))

	offset := func() int {
		n, err := strconv.Atoi(tus("HEAD", address, nil, nil).Header.Get("Upload-Offset"))
		require.NoError(t, err)
		return n
	}
	require.Eventually(
		t,
		func() bool { return offset() >= 1<<20 },
		5*time.Second,
		20*time.Millisecond,
		"what had arrived is kept",
	)
	assert.LessOrEqual(t, offset(), 2_000_000)
	assert.Equal(
		t,
		http.StatusConflict,
		tus("PATCH", address, patch, bytes.NewReader(data)).StatusCode,
		"not from the beginning again",
	)

	id := address[len(server.URL+"/up/"):]
	ctx := context.Background()
	_, err = u.Finished(ctx, owner, id)
	assert.ErrorIs(t, err, contents.ErrNotFound, "a half is not a file")
	require.Eventually(t, func() bool { // as clients do: ask, then send the rest
		at := offset()
		patch["Upload-Offset"] = fmt.Sprint(at)
		return tus("PATCH", address, patch, bytes.NewReader(data[at:])).StatusCode == http.StatusNoContent
	}, 5*time.Second, 50*time.Millisecond)
	file, err := u.Finished(ctx, owner, id)
	require.NoError(t, err)
	assert.Equal(t, inspect.Digest(data), file.Digest)
	assert.Equal(t, "maré.pdf", file.MetaData["filename"])
	assert.Equal(
		t,
		4,
		count(t, u.Store, "content_chunk"),
		"full rows of 1 MiB and one for the rest, however the line broke",
	)

	owner = "8"
	assert.Equal(t, http.StatusNotFound, tus("HEAD", address, nil, nil).StatusCode, "another student does not find it")
	_, err = u.Finished(ctx, owner, id)
	assert.ErrorIs(t, err, contents.ErrNotFound)
	assert.Equal(
		t,
		http.StatusRequestEntityTooLarge,
		tus("POST", server.URL+"/up/", map[string]string{"Upload-Length": "20000000"}, nil).StatusCode,
	)
}
