package main

import (
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"sync/atomic"
	"time"
)

// A proxy stands before the campus and has a fault now and then: an answer of its own, before or after the campus has
// done what was asked, an answer cut at any byte, one that is lost, or one that takes long.
type proxy struct {
	pass  http.Handler
	share atomic.Int64 // faults in a thousand requests
	had   atomic.Int64
}

func newProxy(campus string) (*proxy, error) {
	target, err := url.Parse(campus)
	if err != nil {
		return nil, err
	}
	pass := httputil.NewSingleHostReverseProxy(target)
	pass.ErrorHandler = func(w http.ResponseWriter, _ *http.Request, _ error) { w.WriteHeader(http.StatusBadGateway) }
	return &proxy{pass: pass}, nil
}

// answers are what others than the campus say.
var answers = []struct {
	code int
	body string
}{
	{http.StatusForbidden, "<html>Blocked</html>"},
	{http.StatusNotFound, "not here"},
	{http.StatusInternalServerError, "oops"},
	{http.StatusServiceUnavailable, ""},
	{http.StatusOK, "<html>Sign in to the network</html>"},
	{http.StatusOK, "{}"},
	{http.StatusUnauthorized, `{"code":"token","reason":"no"}`},
	{http.StatusUnprocessableEntity, "{}"},
}

func (p *proxy) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if rand.Int64N(1000) >= p.share.Load() {
		p.pass.ServeHTTP(w, r)
		return
	}
	p.had.Add(1)
	kind := rand.IntN(5)
	if kind == 0 { // nothing reaches the campus
		_, _ = io.Copy(io.Discard, io.LimitReader(r.Body, rand.Int64N(1<<20)))
		say(w)
		return
	}
	if kind == 1 {
		time.Sleep(time.Duration(rand.IntN(3000)) * time.Millisecond)
		p.pass.ServeHTTP(w, r)
		return
	}
	kept := httptest.NewRecorder()
	p.pass.ServeHTTP(kept, r)
	switch kind {
	case 2: // done, and told otherwise
		say(w)
	case 3: // done, and the answer is lost
		panic(http.ErrAbortHandler)
	case 4: // done, and the answer is cut
		body := kept.Body.Bytes()
		for name, values := range kept.Header() {
			w.Header()[name] = values
		}
		w.WriteHeader(kept.Code)
		_, _ = w.Write(body[:rand.IntN(len(body)+1)])
		panic(http.ErrAbortHandler)
	}
}

func say(w http.ResponseWriter) {
	a := answers[rand.IntN(len(answers))]
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(a.code)
	_, _ = io.WriteString(w, a.body)
}
