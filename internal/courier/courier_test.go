package courier_test

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/courier"
)

// site answers every request in one way.
func site(t *testing.T, answer http.HandlerFunc) *courier.Site {
	server := httptest.NewServer(answer)
	t.Cleanup(server.Close)
	s, err := courier.Connect(server.URL+"/", "secret")
	require.NoError(t, err)
	return s
}

func says(code int, body string) http.HandlerFunc {
	return func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(code)
		_, _ = io.WriteString(w, body)
	}
}

// What is final and what may be tried again decides whether a submission is lost.
func TestAnswersAreToldApart(t *testing.T) {
	ctx := context.Background()
	const refusal = `{"code":"closed","reason":"It is closed."}`
	for what, c := range map[string]struct {
		code  int
		body  string
		final bool
	}{
		"the site's rules say no":      {http.StatusUnprocessableEntity, refusal, true},
		"a conflict with its rules":    {http.StatusConflict, refusal, true},
		"the token is not known":       {http.StatusUnauthorized, `{}`, false},
		"a filter's own page":          {http.StatusForbidden, "<html>Blocked</html>", false},
		"a refusal without a code":     {http.StatusUnprocessableEntity, `{}`, false},
		"a code of no protocol":        {http.StatusUnprocessableEntity, `{"code":"mood","reason":"no"}`, false},
		"a code without a reason":      {http.StatusUnprocessableEntity, `{"code":"closed","reason":""}`, false},
		"yes, and nothing else":        {http.StatusOK, `{}`, false},
		"yes, as a page":               {http.StatusOK, "<html>Welcome</html>", false},
		"not available":                {http.StatusServiceUnavailable, refusal, false},
		"a fault of its own":           {http.StatusInternalServerError, `{"code":"internal","reason":"x"}`, false},
		"a proxy that cannot reach it": {http.StatusBadGateway, "<html>", false},
	} {
		_, err := site(t, says(c.code, c.body)).Submit(ctx, 1, "key-12345678", true, "")
		var refused courier.Refused
		assert.Error(t, err, what)
		assert.Equal(t, c.final, errors.As(err, &refused), "%s: %v", what, err)
	}
	_, err := site(t, says(http.StatusNotFound, `{"code":"unknown","reason":"no"}`)).Receipt(ctx, "key-12345678")
	assert.ErrorIs(t, err, courier.ErrUnknown)
	_, err = site(t, says(http.StatusOK, "not JSON")).Courses(ctx)
	assert.Error(t, err)
	closed, err := courier.Connect("http://127.0.0.1:1", "secret")
	require.NoError(t, err)
	_, err = closed.Describe(ctx)
	var refused courier.Refused
	assert.False(t, errors.As(err, &refused), "a site that is down may come back")
	for _, address := range []string{"http://[::1", "site.example", "ftp://site.example", ""} {
		_, err = courier.Connect(address, "secret")
		assert.ErrorContains(t, err, "no address", address)
	}
}

func TestEveryRequestCarriesTheToken(t *testing.T) {
	seen := 0
	s := site(t, func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "Bearer secret", r.Header.Get("Authorization"), r.URL.Path)
		seen++
		switch r.Method {
		case http.MethodPost:
			w.Header().Set("Location", "https://elsewhere.example/uploads/u1") // the token must not go there
			w.WriteHeader(http.StatusCreated)
		case http.MethodHead:
			w.Header().Set("Upload-Offset", "0")
		default:
			_, _ = io.Copy(io.Discard, r.Body)
			assert.Equal(t, "/uploads/u1", r.URL.Path)
			w.WriteHeader(http.StatusNoContent)
		}
	})
	u := courier.Upload{
		Draft: 1,
		Slot:  "essay",
		Name:  "maré.txt",
		Bytes: 4,
		Sent:  func(int64) {},
		Open:  func(int64) (io.Reader, error) { return strings.NewReader("text"), nil },
	}
	address, err := s.Begin(context.Background(), u)
	require.NoError(t, err)
	assert.Equal(t, "/uploads/u1", address)
	require.NoError(t, s.Continue(context.Background(), address, u))
	assert.Equal(t, 3, seen)
}

func TestAnUploadSendsOnlyWhatLacks(t *testing.T) {
	content := []byte("0123456789")
	have := content[:4]
	s := site(t, func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead {
			w.Header().Set("Upload-Offset", strconv.Itoa(len(have)))
			return
		}
		assert.Equal(t, strconv.Itoa(len(have)), r.Header.Get("Upload-Offset"))
		rest, err := io.ReadAll(r.Body)
		assert.NoError(t, err)
		have = append(bytes.Clone(have), rest...)
		w.WriteHeader(http.StatusNoContent)
	})
	var progress []int64
	u := courier.Upload{Name: "a", Bytes: 10, Sent: func(n int64) { progress = append(progress, n) },
		Open: func(at int64) (io.Reader, error) { return bytes.NewReader(content[at:]), nil }}
	require.NoError(t, s.Continue(context.Background(), "/uploads/u1", u))
	assert.Equal(t, content, have)
	assert.Equal(t, int64(4), progress[0])
	assert.Equal(t, int64(10), progress[len(progress)-1])
	progress = nil
	require.NoError(t, s.Continue(context.Background(), "/uploads/u1", u))
	assert.Empty(t, progress, "nothing lacks any more")

	gone := site(t, func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusNotFound) })
	assert.ErrorIs(t, gone.Continue(context.Background(), "/uploads/u1", u), courier.ErrUnknown)
}
