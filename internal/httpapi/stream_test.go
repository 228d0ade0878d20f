package httpapi

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/announce"
	"orario/internal/mariadb/query"
)

// listen opens the stream of events and gives what comes, line by line.
func (s *site) listen(t *testing.T, client *http.Client, query, last string) <-chan string {
	ctx, cancel := context.WithCancel(context.Background())
	t.Cleanup(cancel)
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, s.server.URL+"/api/events"+query, nil)
	require.NoError(t, err)
	r.Header.Set("Accept-Encoding", "gzip") // as a browser asks; it must not be used here
	if last != "" {
		r.Header.Set("Last-Event-ID", last)
	}
	answer, err := client.Do(r)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Equal(t, "text/event-stream", answer.Header.Get("Content-Type"))
	require.Empty(t, answer.Header.Get("Content-Encoding"))
	lines := make(chan string, 100)
	go func() {
		defer answer.Body.Close()
		defer close(lines)
		for scan := bufio.NewScanner(answer.Body); scan.Scan(); {
			if text := scan.Text(); text != "" {
				lines <- text
			}
		}
	}()
	require.Equal(t, "retry: 2000", next(t, lines), "it answers before anything has happened")
	return lines
}

func next(t *testing.T, lines <-chan string) string {
	t.Helper()
	select {
	case line := <-lines:
		return line
	case <-time.After(5 * time.Second):
		t.Fatal("nothing came")
		return ""
	}
}

// tell has something happen to a student and gives its id.
func (s *site) tell(t *testing.T, student int64, text string) string {
	ctx := context.Background()
	require.NoError(
		t,
		announce.Tell(ctx, s.DB, time.Now(), announce.Event{Student: student, Kind: announce.Receipt, Assignment: 5, Text: text}),
	)
	id, err := s.DB.LastEvent(ctx, student)
	require.NoError(t, err)
	return fmt.Sprint(id)
}

// longAgo has all that has happened so far be older than what may be missed.
func (s *site) longAgo(t *testing.T) {
	_, err := s.DB.SQL.Exec("UPDATE event SET at = at - INTERVAL 3 MINUTE")
	require.NoError(t, err)
}

func TestEventsComeAsTheyHappenAndFromWhereOneLeftOff(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	s.longAgo(t)
	first := s.tell(t, s.Student, "one")
	live := s.listen(t, client, "", "")
	assert.Equal(t, "id: "+first, next(t, live), "what a page may have missed")
	assert.Contains(t, next(t, live), `"text":""`, "but not told a second time")
	second := s.tell(t, s.Student, "two")
	assert.Equal(t, "id: "+second, next(t, live), "from now on")
	data := next(t, live)
	assert.Contains(t, data, `"text":"two"`)
	assert.Contains(t, data, `"assignment":5`)
	assert.Contains(t, data, `"pages":[`)

	third := s.tell(t, s.Student, "three")
	for _, lines := range []<-chan string{
		s.listen(t, client, "", first),           // as a browser reconnects
		s.listen(t, client, "?after="+first, ""), // as a page does
	} {
		for _, id := range []string{first, second, third} { // the last minutes once more: pages go by the ids
			for next(t, lines) != "id: "+id {
			}
			next(t, lines)
		}
	}
	nonsense := s.listen(t, client, "?after=x", "y")
	assert.Equal(t, "id: "+first, next(t, nonsense))
	assert.Contains(t, next(t, nonsense), `"text":""`, "what is no id counts as none")
}

func TestWhatCommitsLateIsHeardAllTheSame(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	client := s.signIn(t, "nerea@alvarim.example")
	slow, err := s.DB.SQL.BeginTx(ctx, nil)
	require.NoError(t, err)
	defer slow.Rollback() //nolint:errcheck // after a commit it has nothing to do
	event := announce.Event{Student: s.Student, Kind: announce.Progress, Text: "begun first"}
	require.NoError(t, announce.Tell(ctx, s.DB.WithTx(slow), time.Now(), event))
	quick := s.tell(t, s.Student, "committed first")
	live, resumed := s.listen(t, client, "", ""), s.listen(t, client, "?after="+quick, "")
	also := s.tell(t, s.Student, "in between")
	for line := ""; line != "id: "+also; line = next(t, live) {
		assert.NotContains(t, line, "begun first")
	}
	next(t, live)
	require.NoError(t, slow.Commit())
	next(t, live) // its id, below what was heard
	assert.Contains(t, next(t, live), "begun first")
	for line := next(t, resumed); !strings.Contains(line, "begun first"); line = next(t, resumed) {
		assert.NotEmpty(t, line)
	}
}

func TestAStreamHearsEachOfManyOnce(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	h := &hearing{db: s.DB, student: s.Student}
	_, err := h.begin(ctx, 0, false)
	require.NoError(t, err)
	heard := map[int64]int{}
	for _, size := range []int{1, manyAbove - 1, 3, 700, 2} {
		require.NoError(t, s.DB.InTx(ctx, func(q *query.Queries) error {
			for range size {
				if err := announce.Tell(ctx, q, time.Now(), announce.Event{Student: s.Student, Kind: announce.Progress}); err != nil {
					return err
				}
			}
			return nil
		}))
		list, err := h.next(ctx)
		require.NoError(t, err)
		assert.Len(t, list, size)
		for _, e := range list {
			heard[e.ID]++
		}
	}
	assert.Len(t, heard, 1+manyAbove-1+3+700+2)
	s.longAgo(t)
	require.NoError(t, h.settle(ctx))
	assert.Empty(t, h.above, "what is settled needs no names")
	list, err := h.next(ctx)
	require.NoError(t, err)
	assert.Empty(t, list)
}

func TestEventsOfOthersAreNotHeard(t *testing.T) {
	s := open(t)
	other, _ := s.AddStudent("20419", "rui@alvarim.example")
	lines := s.listen(t, s.signIn(t, "rui@alvarim.example"), "?after=0", "")
	s.tell(t, s.Student, "not for you")
	mine := s.tell(t, other, "for you")
	for line := next(t, lines); line != "id: "+mine; line = next(t, lines) {
		assert.NotContains(t, line, "not for you")
	}
	assert.Contains(t, next(t, lines), "for you")
}

func TestAStreamEndsWithItsSession(t *testing.T) {
	s := open(t)
	s.longAgo(t)
	ended, stays := s.signIn(t, "nerea@alvarim.example"), s.signIn(t, "nerea@alvarim.example")
	live, other := s.listen(t, ended, "", ""), s.listen(t, stays, "", "")
	r, err := http.NewRequest(http.MethodDelete, s.server.URL+"/api/session", nil)
	require.NoError(t, err)
	answer, err := ended.Do(r)
	require.NoError(t, err)
	answer.Body.Close()
	require.Equal(t, http.StatusNoContent, answer.StatusCode)
	assert.Equal(t, "", next(t, live), "it has ended")
	id := s.tell(t, s.Student, "still heard")
	assert.Equal(t, "id: "+id, next(t, other))
	answer, err = ended.Get(s.server.URL + "/api/me")
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, answer.StatusCode)
}

func TestManyEventsComeInTheirOrder(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	from := s.tell(t, s.Student, "first")
	_, err := s.DB.SQL.Exec(
		"INSERT INTO event (student_id, kind, text) SELECT ?, 'sync', CONCAT('n', seq) FROM seq_1_to_250",
		s.Student,
	)
	require.NoError(t, err)
	lines := s.listen(t, client, "?after="+from, "")
	for n := 1; n <= 250; {
		if line := next(t, lines); strings.HasPrefix(line, "data: ") {
			if n > 1 || strings.Contains(line, `"text":"n1"`) { // after what came before, once more
				require.Contains(t, line, fmt.Sprintf(`"text":"n%d"`, n))
				n++
			}
		}
	}
}

func TestWhatIsTooLargeIsRefusedAsSuch(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	for name, c := range map[string]struct {
		bytes int
		code  int
	}{"just small enough": {64 << 10, http.StatusUnprocessableEntity}, "a byte too much": {64<<10 + 1, http.StatusRequestEntityTooLarge}} {
		t.Run(name, func(t *testing.T) {
			frame := `{"line":""}`
			body := `{"line":"` + strings.Repeat("x", c.bytes-len(frame)) + `"}`
			require.Len(t, body, c.bytes)
			answer, err := client.Post(s.server.URL+"/api/drafts/line", "application/json", strings.NewReader(body))
			require.NoError(t, err)
			said, err := io.ReadAll(answer.Body)
			require.NoError(t, err)
			answer.Body.Close()
			assert.Equal(t, c.code, answer.StatusCode, "%s", said)
			assert.NotContains(t, string(said), "http:")
		})
	}
}

func TestTextsAreCompressed(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	get := func(path, accept string) (*http.Response, string) {
		r, err := http.NewRequest(http.MethodGet, s.server.URL+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", accept)
		answer, err := client.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	for path, plain := range map[string]bool{
		"/assets/a.js": false, "/api/horizon": false, fmt.Sprintf("/api/versions/%d/content", s.version): true,
	} {
		t.Run(path, func(t *testing.T) {
			answer, body := get(path, "gzip")
			if plain {
				assert.Empty(t, answer.Header.Get("Content-Encoding"), "files go as they are")
				return
			}
			require.Equal(t, "gzip", answer.Header.Get("Content-Encoding"))
			unpacked, err := gzip.NewReader(strings.NewReader(body))
			require.NoError(t, err)
			text, err := io.ReadAll(unpacked)
			require.NoError(t, err)
			_, same := get(path, "identity")
			if strings.HasPrefix(path, "/api/") { // which tells the time, so no two are the same
				assert.True(t, json.Valid(text) && json.Valid([]byte(same)))
				return
			}
			assert.Equal(t, same, string(text))
		})
	}
}

// Who asks is the connection's other end, unless a proxy that is trusted says otherwise. So everybody behind such a proxy
// has guesses of his own, and nobody else can pretend to be somebody new each time.
func TestOnlyTrustedProxiesSayWhoAsks(t *testing.T) {
	for name, c := range map[string]struct {
		proxies []string
		locked  bool
	}{"no proxy is trusted": {nil, true}, "this one is": {[]string{"127.0.0.1"}, false}, "another one is": {[]string{"10.1.0.0/16"}, true}} {
		t.Run(name, func(t *testing.T) {
			s := open(t)
			s.api.Proxies, s.api.Figures = c.proxies, prometheus.NewRegistry()
			routes, err := s.api.Routes()
			require.NoError(t, err)
			codes := map[int]int{}
			now := time.Now().UTC()
			_, err = s.DB.SQL.Exec("INSERT INTO guess (who, n, since, last) VALUES ('address 127.0.0.1', 98, ?, ?)", now, now)
			require.NoError(t, err)
			for n := range 5 {
				body := fmt.Sprintf(`{"email":"n%d@alvarim.example","password":"wrong-wrong-wrong"}`, n)
				r := httptest.NewRequest(http.MethodPost, "/api/session", strings.NewReader(body))
				r.RemoteAddr = "127.0.0.1:5000"
				r.Header.Set("Content-Type", "application/json")
				r.Header.Set("X-Forwarded-For", fmt.Sprintf("203.0.113.%d", n))
				answer := httptest.NewRecorder()
				routes.ServeHTTP(answer, r)
				codes[answer.Code]++
			}
			assert.Equal(t, c.locked, codes[http.StatusTooManyRequests] > 0, "%v", codes)
		})
	}
	s := open(t)
	s.api.Proxies, s.api.Figures = []string{"nonsense"}, prometheus.NewRegistry()
	_, err := s.api.Routes()
	assert.ErrorContains(t, err, "the trusted proxies")
}

// A body that does not arrive is not waited for for ever.
func TestASlowBodyIsGivenUp(t *testing.T) {
	withSlowest(t, 300*time.Millisecond)
	s := open(t)
	to, err := net.Dial("tcp", strings.TrimPrefix(s.server.URL, "http://"))
	require.NoError(t, err)
	defer to.Close()
	_, err = to.Write([]byte("POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\n" +
		"Content-Length: 100\r\n\r\n{\"email\":"))
	require.NoError(t, err)
	require.NoError(t, to.SetReadDeadline(time.Now().Add(5*time.Second)))
	answer, err := http.ReadResponse(bufio.NewReader(to), nil)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusBadRequest, answer.StatusCode)
}

// withSlowest has bodies given up sooner while a test runs.
func withSlowest(t *testing.T, d time.Duration) {
	before := slowest
	slowest = d
	t.Cleanup(func() { slowest = before })
}

// What another program shares to the installed page lies in the library.
func TestWhatIsSharedComesIntoTheLibrary(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	file, err := form.CreateFormFile("files", "tide readings.csv")
	require.NoError(t, err)
	_, err = file.Write([]byte("h,m\n1,2\n"))
	require.NoError(t, err)
	require.NoError(t, form.WriteField("text", "Readings of Monday"))
	require.NoError(t, form.WriteField("url", "https://gauge.example/monday"))
	require.NoError(t, form.Close())
	answer, err := client.Post(s.server.URL+"/share", form.FormDataContentType(), &body)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusSeeOther, answer.StatusCode)
	assert.Regexp(t, `^/library\?came=\d+,\d+$`, answer.Header.Get("Location"), "where it is asked where they belong")
	found, err := s.Library.Find(context.Background(), s.Student, "monday")
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "shared.txt", found[0].Name)
	found, err = s.Library.Find(context.Background(), s.Student, "readings")
	require.NoError(t, err)
	assert.Len(t, found, 2, "one by its name, one by its text")
	answer, err = client.Post(s.server.URL+"/share", "text/plain", strings.NewReader("no form"))
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusBadRequest, answer.StatusCode)
}

// Only the browser that has taken a pass may upload by it, as the student who gave it, and nobody without.
func TestATelephoneUploadsByItsPass(t *testing.T) {
	s := open(t)
	post := func(token, cookie string) *http.Response {
		r, err := http.NewRequest("POST", s.server.URL+"/api/phone-uploads/", nil)
		require.NoError(t, err)
		r.Header.Set("Tus-Resumable", "1.0.0")
		r.Header.Set("Upload-Length", "5")
		r.Header.Set("Orario-Pass", token)
		if cookie != "" {
			r.AddCookie(&http.Cookie{Name: phoneCookie, Value: cookie})
		}
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		answer.Body.Close()
		return answer
	}
	assert.Equal(t, http.StatusUnprocessableEntity, post("", "").StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, post("no pass", "mine").StatusCode)
	assert.Equal(t, http.StatusCreated, post(s.phone, "mine").StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, post(s.phone, "another's").StatusCode)
	answer, err := http.Get(s.server.URL + "/api/phone/" + s.phone)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusUnprocessableEntity, answer.StatusCode, "without the cookie")
}
