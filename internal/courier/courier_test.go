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
	"sync/atomic"
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

// endless answers with JSON that never ends, and counts what was taken.
func endless(taken *atomic.Int64) http.HandlerFunc {
	return func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		piece := []byte(`["` + strings.Repeat("a", 1<<16) + `",`)
		for taken.Load() < 1<<30 {
			n, err := w.Write(piece)
			if err != nil {
				return
			}
			taken.Add(int64(n))
		}
	}
}

func TestNoAnswerIsReadWithoutEnd(t *testing.T) {
	var taken atomic.Int64
	s := site(t, endless(&taken))
	ctx := t.Context()
	for what, ask := range map[string]func() error{
		"describe":    func() error { _, err := s.Describe(ctx); return err },
		"courses":     func() error { _, err := s.Courses(ctx); return err },
		"assignments": func() error { _, err := s.Assignments(ctx); return err },
		"draft":       func() error { _, err := s.OpenDraft(ctx, "key-12345678", "a"); return err },
		"submit":      func() error { _, err := s.Submit(ctx, 1, "key-12345678", true, ""); return err },
		"receipt":     func() error { _, err := s.Receipt(ctx, "key-12345678"); return err },
		"report":      func() error { _, err := s.Report(ctx, "N-1"); return err },
		"return":      func() error { _, err := s.Return(ctx, "N-1"); return err },
		"handout": func() error {
			r, err := s.Handout(ctx, "d", 1000)
			require.NoError(t, err)
			defer r.Close()
			data, err := io.ReadAll(r)
			assert.LessOrEqual(t, len(data), 1000)
			return err
		},
	} {
		taken.Store(0)
		assert.ErrorIs(t, ask(), courier.ErrTooLong, what)
		assert.Less(t, taken.Load(), int64(64<<20), what)
	}
}

func TestAHandoutOfItsOwnLengthIsRead(t *testing.T) {
	s := site(t, says(http.StatusOK, "handout"))
	for bytes, whole := range map[int64]bool{6: false, 7: true, 8: true} { // a shorter one is told by its digest
		r, err := s.Handout(t.Context(), "d", bytes)
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		assert.Equal(t, whole, err == nil && string(data) == "handout", "%d", bytes)
		require.NoError(t, r.Close())
	}
	_, err := site(t, says(http.StatusNotFound, "")).Handout(t.Context(), "d", 1)
	assert.ErrorIs(t, err, courier.ErrUnknown)
}

func TestNobodyElseGetsTheToken(t *testing.T) {
	heard := make(chan string, 20)
	other := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		heard <- r.Header.Get("Authorization")
	}))
	defer other.Close()
	s := site(t, func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, other.URL+r.URL.Path, http.StatusTemporaryRedirect)
	})
	_, err := s.Describe(t.Context())
	require.ErrorIs(t, err, courier.ErrForeign)
	_, err = s.Submit(t.Context(), 1, "key-12345678", true, "")
	require.ErrorIs(t, err, courier.ErrForeign)
	_, err = s.Handout(t.Context(), "d", 1)
	require.ErrorIs(t, err, courier.ErrForeign)
	_, err = s.Begin(t.Context(), courier.Upload{Draft: 1, Slot: "a", Name: "a.pdf", Bytes: 1})
	require.ErrorIs(t, err, courier.ErrForeign)
	assert.Empty(t, heard, "another port of the same machine is another origin")

	moved := site(t, func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasPrefix(r.URL.Path, "/now") {
			http.Redirect(w, r, "/now"+r.URL.Path, http.StatusTemporaryRedirect)
			return
		}
		says(http.StatusOK, `[]`)(w, r)
	})
	_, err = moved.Courses(t.Context())
	assert.NoError(t, err, "within the site one is led on")
}

func TestASiteThatAnswersIsNotAway(t *testing.T) {
	for body, code := range map[string]int{"{}": http.StatusServiceUnavailable, "[[[": http.StatusOK, "[]": http.StatusOK} {
		_, err := site(t, says(code, body)).Describe(t.Context())
		var trouble courier.Trouble
		if code == http.StatusOK {
			assert.ErrorIs(t, err, courier.ErrForeign, body)
		} else if assert.ErrorAs(t, err, &trouble) {
			assert.Equal(t, courier.Trouble(http.StatusServiceUnavailable), trouble)
		}
	}
}
