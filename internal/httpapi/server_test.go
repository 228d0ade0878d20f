package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"regexp"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/contents"
	"orario/internal/httpapi/api"
	"orario/internal/intake"
	"orario/internal/mariadb/query"
	"orario/internal/workshop"
	"orario/internal/worldtest"
)

// site is a running server with a student who has something of everything.
type site struct {
	*worldtest.World
	server     *httptest.Server
	api        *Server
	routes     *gin.Engine
	assignment int64
	item       int64
	sub        int64
	version    int64
	handout    int64
	course     int64
	upload     string
	recording  string // an upload that is kept once
	own        int64  // an assignment of the student's own
	view       int64
	feed       int64
	source     int64
	calendar   string
	piece      int64
	pass       int64
	phone      string // the pass's token
}

var script = strings.Repeat("tide()\n", 400)

func open(t *testing.T) *site {
	w := worldtest.New(t)
	ctx := context.Background()
	s := &site{World: w}
	server := &Server{
		DB:       w.DB,
		Accounts: w.Accounts,
		Intake:   w.Intake,
		Agenda:   w.Agenda,
		Desks:    w.Desk,
		Library:  w.Library,
		Courses:  w.Courses,
		Prepare:  w.Prepare,
		Submit:   w.Submit,
		Review:   w.Review,
		Workshop: w.Workshop,
		Contents: contents.Store{DB: w.DB.SQL},
		Log:      slog.New(slog.DiscardHandler),
		Demo:     true,
		Figures:  prometheus.NewRegistry(),
		Pages: fstest.MapFS{
			"index.html":  {Data: []byte("<!doctype html><title>Orario</title>")},
			"assets/a.js": {Data: []byte(script)},
		},
	}
	var err error
	s.api = server
	s.routes, err = server.Routes()
	require.NoError(t, err)
	handler, err := around(s.routes)
	require.NoError(t, err)
	s.server = httptest.NewServer(handler)
	t.Cleanup(s.server.Close)

	essay := worldtest.Essay()
	digest, size, err := w.Campus.AddHandout(ctx, []byte("handout"))
	require.NoError(t, err)
	essay.Handouts = append(essay.Handouts, struct {
		Bytes  int64  `json:"bytes"`
		Digest string `json:"digest"`
		Name   string `json:"name"`
	}{size, digest, "reader.txt"})
	require.NoError(
		t,
		w.Campus.PublishReading(
			ctx,
			"r",
			"Reader",
			strings.Repeat("The lowest water that the table expects is zero on the chart. ", 9),
		),
	)
	s.assignment = w.Publish(essay)
	text := []byte(
		strings.Repeat("The lowest water that the table expects is zero on the chart. ", 9) + "And this is mine alone.",
	)
	w.Add(s.assignment, "Quintal_HYD214_chart-datum.txt", text)
	s.sub = w.Send(s.assignment).ID
	_, err = w.Review.FetchReport(ctx, query.Job{Subject: s.sub, StudentID: w.Student})
	require.NoError(t, err)
	require.NoError(t, w.Campus.Return(ctx, w.Submission(s.sub).Number, 15, nil, true))
	_, err = w.Review.FetchReturn(ctx, query.Job{Subject: s.sub, StudentID: w.Student})
	require.NoError(t, err)
	s.item = w.Add(s.assignment, "second.docx", []byte("not really"))
	versions, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	s.version = versions[0].ID
	handouts, err := w.DB.Handouts(ctx, query.HandoutsParams{StudentID: w.Student})
	require.NoError(t, err)
	s.handout = handouts[0].ID
	courses, err := w.DB.Courses(ctx, w.Student)
	require.NoError(t, err)
	s.course = courses[0].ID
	s.upload, err = w.Prepare.Uploads.Take(
		contents.WithOwner(ctx, fmt.Sprint(w.Student)),
		"a.txt",
		strings.NewReader("a"),
		1,
	)
	require.NoError(t, err)
	s.recording = w.Upload("talk.txt", []byte("spoken"))
	s.addOwn(t)
	require.NoError(t, w.Review.AddSource(ctx, w.Student, s.assignment, s.upload, false))
	sources, err := w.Review.Sources(ctx, w.Student, s.assignment)
	require.NoError(t, err)
	s.source = sources[0].ID
	require.NoError(t, w.Review.CheckOwn(ctx, w.Student, s.assignment, 0))
	s.piece = w.Work(s.assignment, "pack", []int64{s.version}, workshop.Wishes{}).ID
	pass, err := w.Workshop.GivePass(ctx, w.Student, s.assignment, 0, "essay", s.server.URL)
	require.NoError(t, err)
	s.pass, s.phone = pass.ID, strings.TrimPrefix(pass.URL, s.server.URL+"/phone/")
	return s
}

const courseSheet = `{"enrolment_id":0,"code":"OWN 1","title":"Own","zone":"UTC","instructor":"","contact":"","term":"","habit":"","usual":{"forms":[],"late":"","weight":0,"points":0,"minutes":0}}`

// addOwn adds what the student can have without a site.
func (s *site) addOwn(t *testing.T) {
	ctx := context.Background()
	draft, err := s.Intake.Typed(ctx, s.Student, "lab 5 HYD 31 Dec 2099 23:59 20p")
	require.NoError(t, err)
	draft.CourseID = s.course
	s.own, err = s.Intake.Add(ctx, s.Student, *draft)
	require.NoError(t, err)
	require.NoError(t, s.Agenda.SaveView(ctx, s.Student, "late", "state=late"))
	h, err := s.Agenda.Horizon(ctx, s.Student)
	require.NoError(t, err)
	s.view = h.Views[0].ID
	s.calendar, err = s.Prepare.Uploads.Take(
		contents.WithOwner(ctx, fmt.Sprint(s.Student)),
		"busy.ics",
		strings.NewReader(calendar),
		int64(len(calendar)),
	)
	require.NoError(t, err)
	_, err = s.Intake.Import(
		ctx,
		s.Student,
		intake.Import{Upload: s.calendar, Name: "busy", Purpose: intake.PurposeBusy},
	)
	require.NoError(t, err)
	feeds, err := s.Intake.Feeds(ctx, s.Student)
	require.NoError(t, err)
	s.feed = feeds[0].ID
}

const calendar = "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:a\r\nSUMMARY:Choir\r\nDTSTART:20990101T100000Z\r\nDTEND:20990101T110000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"

const enrolment = `{"institution":"Elsewhere","number":"7","family":"Quintal","given":"Nerea","zone":"UTC"}`

// draft is an assignment of the student's own, as the page sends it.
func (s *site) draft() string {
	return fmt.Sprintf(
		`{"id":0,"title":"Mine","course_id":%d,"instructions":"","weight":5,"minutes":60,"questions":[],"asks":[{"item":{"kind":"due","value":"2099-12-31T23:59","start":0,"end":0,"sure":1},"thing":"","from":"yours","settled":true,"label":"","text":"","sentence":""}]}`,
		s.course,
	)
}

func (s *site) imported() string {
	return fmt.Sprintf(
		`{"upload":%q,"url":"","name":"busy","purpose":"due","course_id":0,"columns":[],"without":[],"again":false}`,
		s.calendar,
	)
}

// signIn gives a client with a session.
func (s *site) signIn(t *testing.T, email string) *http.Client {
	answer, err := http.Post(
		s.server.URL+"/api/session",
		"application/json",
		strings.NewReader(fmt.Sprintf(`{"email":%q,"password":%q}`, email, worldtest.Password)),
	)
	require.NoError(t, err)
	answer.Body.Close()
	require.Equal(t, http.StatusOK, answer.StatusCode)
	cookies := answer.Cookies()
	require.Len(t, cookies, 2, "the session, and what the browser is known by")
	for _, c := range cookies {
		assert.True(t, c.HttpOnly, c.Name)
		assert.Equal(t, http.SameSiteStrictMode, c.SameSite, c.Name)
	}
	return &http.Client{Transport: withCookie{cookies[0]}}
}

type withCookie struct{ cookie *http.Cookie }

func (c withCookie) RoundTrip(r *http.Request) (*http.Response, error) {
	r = r.Clone(r.Context())
	r.AddCookie(c.cookie)
	return http.DefaultTransport.RoundTrip(r)
}

// call is how a route is tried: the path with the owner's ids in it, and a body.
type call struct {
	path, body string
	mine       int // what the owner gets; 0: not tried as the owner
}

// calls names every route that asks who is there. A new route has to be added here, with ids of the
// owner in its path, or the test fails.
func (s *site) calls() map[string]call {
	id := func(format string, ids ...any) string { return fmt.Sprintf(format, ids...) }
	at := func(what string) string { return id("/api/assignments/%d/%s", s.assignment, what) }
	return map[string]call{
		"GET /api/me": {
			"/api/me",
			"",
			200,
		},
		"GET /api/horizon": {"/api/horizon", "", 200},
		"GET /api/ledger":  {"/api/ledger", "", 200},
		"GET /api/library": {
			"/api/library",
			"",
			200,
		},
		"GET /api/courses":                 {"/api/courses", "", 200},
		"GET /api/search":                  {"/api/search?q=chart", "", 200},
		"GET /api/assignments/:id":         {id("/api/assignments/%d", s.assignment), "", 200},
		"GET /api/submissions/:id/receipt": {id("/api/submissions/%d/receipt", s.sub), "", 200},
		"GET /api/submissions/:id/report":  {id("/api/submissions/%d/report", s.sub), "", 200},
		"GET /api/versions/:id":            {id("/api/versions/%d", s.version), "", 200},
		"DELETE /api/versions/:id":         {id("/api/versions/%d", s.version), "", 422}, // it was sent
		"GET /api/space":                   {"/api/space", "", 200},
		"GET /api/enrolments":              {"/api/enrolments", "", 200},
		"POST /api/enrolments":             {"/api/enrolments", enrolment, 200},
		"PUT /api/enrolments/:id":          {fmt.Sprintf("/api/enrolments/%d", s.Enrolment()), enrolment, 204},
		"POST /api/assignments/:id/attempts": {
			id("/api/assignments/%d/attempts", s.assignment),
			`{"part":0}`,
			204,
		},
		"GET /api/versions/:id/content": {id("/api/versions/%d/content", s.version), "", 200},
		"GET /api/versions/:id/pages":   {id("/api/versions/%d/pages", s.version), "", 404}, // text has none
		"GET /api/handouts/:id/content": {id("/api/handouts/%d/content", s.handout), "", 200},
		"PUT /api/submissions/:id/report/passages/:n": {
			id("/api/submissions/%d/report/passages/0", s.sub),
			`{"how":"fixed"}`,
			204,
		},
		"PUT /api/assignments/:id/work": {
			id("/api/assignments/%d/work", s.assignment),
			`{"effort_minutes":60,"low_minutes":0,"high_minutes":0,"done_minutes":0,"enough":false}`,
			204,
		},
		"PUT /api/assignments/:id/name": {
			id("/api/assignments/%d/name", s.assignment),
			`{"pattern":"{family}"}`,
			204,
		},
		"POST /api/courses":    {"/api/courses", courseSheet, 200},
		"PUT /api/courses/:id": {id("/api/courses/%d", s.course), courseSheet, 204},
		"POST /api/courses/:id/habit/try": {
			id("/api/courses/%d/habit/try", s.course), `{"pattern":"{family}"}`, 200,
		},
		"PUT /api/courses/:id/archived": {
			id("/api/courses/%d/archived", s.course),
			`{"archived":false}`,
			204,
		},
		"GET /api/settings": {"/api/settings", "", 200},
		"PUT /api/settings": {
			"/api/settings",
			`{"week":[[],[],[],[],[],[],[]],"most_a_day":300,"block":30,"margin":1440,"quiet_from":0,"quiet_to":0,"mail":false,"no_keys":false}`,
			204,
		},
		"GET /api/plan": {"/api/plan", "", 200},
		"PUT /api/plan": {
			"/api/plan",
			id(
				`{"pins":[{"assignment_id":%d,"start":"2027-06-01T10:00:00Z","end":"2027-06-01T11:00:00Z"}],"not_before":[]}`,
				s.assignment,
			),
			204,
		},
		"POST /api/plan/try": {
			"/api/plan/try",
			id(
				`{"wish":{"pins":[],"not_before":[{"assignment_id":%d,"at":"2027-06-01T10:00:00Z"}]},"shift":null}`,
				s.assignment,
			),
			200,
		},
		"GET /api/week":         {"/api/week?from=", "", 200},
		"GET /api/table":        {"/api/table", "", 200},
		"POST /api/drafts/line": {"/api/drafts/line", `{"line":"lab 5 HYD Fri 23:59"}`, 200},
		"POST /api/drafts/text": {
			"/api/drafts/text",
			id(`{"course_id":%d,"text":"","upload":%q}`, s.course, s.upload),
			200,
		},
		"POST /api/drafts/ask": {
			"/api/drafts/ask",
			id(`{"course_id":%d,"kind":"pages","words":"4 to 6"}`, s.course),
			200,
		},
		"POST /api/assignments":               {"/api/assignments", s.draft(), 200},
		"GET /api/assignments/:id/draft":      {id("/api/assignments/%d/draft", s.own), "", 200},
		"PUT /api/assignments/:id/draft":      {id("/api/assignments/%d/draft", s.own), s.draft(), 204},
		"DELETE /api/assignments/:id/draft":   {id("/api/assignments/%d/draft", s.own), "", 0},
		"POST /api/assignments/:id/asks/:ask": {id("/api/assignments/%d/asks/1", s.own), "", 204},
		"PUT /api/assignments/:id/noted": {
			id("/api/assignments/%d/noted", s.own),
			`{"at":"2026-01-01T00:00:00Z","note":"","part":0}`,
			204,
		},
		"POST /api/assignments/:id/log":      {id("/api/assignments/%d/log", s.own), `{"minutes":30}`, 204},
		"GET /api/assignments/:id/extension": {id("/api/assignments/%d/extension?until=", s.own), "", 200},
		"PUT /api/assignments/:id/extension": {
			id("/api/assignments/%d/extension", s.own),
			`{"state":"asked","due":"","closes":"","note":"","upload":""}`,
			204,
		},
		"PUT /api/assignments/:id/order":      {at("order"), id(`{"part":0,"items":[%d]}`, s.item), 0},
		"POST /api/assignments/:id/name/try":  {at("name/try"), `{"pattern":"{family}"}`, 200},
		"POST /api/assignments/:id/handouts":  {at("handouts"), "", 200},
		"POST /api/handouts/:id/begin":        {id("/api/handouts/%d/begin", s.handout), `{"part":0,"where":"beside"}`, 204},
		"POST /api/assignments/:id/names":     {at("names"), `{"part":0}`, 200},
		"GET /api/assignments/:id/workpieces": {at("workpieces"), "", 200},
		"POST /api/assignments/:id/workpieces": {
			at("workpieces"), id(`{"part":0,"tool":"pack","versions":[%d],"wishes":{}}`, s.version), 200,
		},
		"GET /api/workpieces/:id":                  {id("/api/workpieces/%d", s.piece), "", 200},
		"GET /api/workpieces/:id/files/:n/pages":   {id("/api/workpieces/%d/files/0/pages", s.piece), "", 404},
		"GET /api/workpieces/:id/files/:n/content": {id("/api/workpieces/%d/files/0/content", s.piece), "", 200},
		"POST /api/workpieces/:id/taken": {
			id("/api/workpieces/%d/taken", s.piece), `{"files":[],"instead":false,"slot":""}`, 204,
		},
		"DELETE /api/workpieces/:id/taken": {id("/api/workpieces/%d/taken", s.piece), "", 0},
		"DELETE /api/workpieces/:id":       {id("/api/workpieces/%d", s.piece), "", 0},
		"GET /api/assignments/:id/writing": {at("writing"), "", 200},
		"PUT /api/assignments/:id/writing": {at("writing"), `{"part":0,"version":0,"body":"a","revision":0}`, 200},
		"POST /api/assignments/:id/typed":  {at("typed"), `{"part":0,"slot":"","text":"One word."}`, 200},
		"GET /api/versions/:id/photograph": {id("/api/versions/%d/photograph", s.version), "", 422}, // it is no picture
		"POST /share":                      {"/share", "", 400},
		"GET /api/recordings":              {"/api/recordings", "", 200},
		"POST /api/assignments/:id/recordings": {
			at("recordings"), id(`{"part":0,"slot":"","upload":%q}`, s.recording), 204,
		},
		"POST /api/assignments/:id/passes": {at("passes"), `{"part":0,"slot":"essay"}`, 200},
		"DELETE /api/passes/:id":           {id("/api/passes/%d", s.pass), "", 0},
		"POST /api/assignments/:id/sources": {
			id("/api/assignments/%d/sources", s.assignment),
			id(`{"upload":%q,"course":false}`, s.upload),
			204,
		},
		"GET /api/assignments/:id/sources": {id("/api/assignments/%d/sources", s.assignment), "", 200},
		"POST /api/assignments/:id/check":  {id("/api/assignments/%d/check", s.assignment), "", 204},
		"GET /api/assignments/:id/check":   {id("/api/assignments/%d/check", s.assignment), "", 200},
		"PUT /api/assignments/:id/check/passages/:n": {
			id("/api/assignments/%d/check/passages/0", s.assignment),
			`{"how":""}`,
			0,
		},
		"DELETE /api/sources/:id": {id("/api/sources/%d", s.source), "", 204},
		"POST /api/bulk": {
			"/api/bulk",
			id(`{"ids":[%d],"do":"work","minutes":60}`, s.own),
			200,
		},
		"POST /api/views":           {"/api/views", `{"name":"mine","filter":"state=open"}`, 204},
		"DELETE /api/views/:id":     {id("/api/views/%d", s.view), "", 204},
		"POST /api/changes/seen":    {"/api/changes/seen", `{"id":1}`, 204},
		"POST /api/imports/preview": {"/api/imports/preview", s.imported(), 200},
		"POST /api/imports":         {"/api/imports", s.imported(), 200},
		"GET /api/feeds":            {"/api/feeds", "", 200},
		"DELETE /api/feeds/:id":     {id("/api/feeds/%d", s.feed), "", 204},
		"GET /api/link":             {"/api/link", "", 200},
		"POST /api/link":            {"/api/link", "", 200},
		"GET /api/sessions":         {"/api/sessions", "", 200},
		"DELETE /api/sessions/:id":  {"/api/sessions/1", "", 0},
		"PUT /api/password":         {"/api/password", `{"old":"wrong","fresh":"a-new-password"}`, 422},
		"POST /api/me/remove":       {"/api/me/remove", `{"password":"wrong"}`, 422},
		"GET /api/export":           {"/api/export", "", 200},
		"DELETE /api/link":          {"/api/link", "", 204},
		"POST /api/assignments/:id/items": {
			id("/api/assignments/%d/items", s.assignment),
			id(`{"upload":%q,"slot":"","part":0}`, s.upload),
			204,
		},
		"PUT /api/items/:id": {
			id("/api/items/%d", s.item),
			`{"name":"other.docx","slot":""}`,
			204,
		},
		"POST /api/items/:id/fix":     {id("/api/items/%d/fix", s.item), `{"fix":"rename"}`, 0},
		"DELETE /api/items/:id/fix":   {id("/api/items/%d/fix", s.item), "", 0},
		"DELETE /api/submissions/:id": {id("/api/submissions/%d", s.sub), "", 422},
		"POST /api/assignments/:id/submissions": {
			id("/api/assignments/%d/submissions", s.assignment),
			`{"declared":true,"comment":"","part":0}`,
			422,
		},
		"DELETE /api/items/:id":    {id("/api/items/%d", s.item), "", 204},
		"POST /api/sync":           {"/api/sync", "", 204},
		"HEAD /api/uploads/*any":   {"/api/uploads/" + s.upload, "", 200},
		"PATCH /api/uploads/*any":  {"/api/uploads/" + s.upload, "", 0},
		"DELETE /api/uploads/*any": {"/api/uploads/" + s.upload, "", 0},
		"DELETE /api/session":      {"/api/session", "", 204},
	}
}

// own are routes whose answer holds only what belongs to whoever asks, so that another student gets an
// answer too; it must hold nothing of the owner's.
var own = map[string]bool{
	"POST /api/courses":         true,
	"GET /api/settings":         true,
	"PUT /api/settings":         true,
	"GET /api/plan":             true,
	"GET /api/week":             true,
	"GET /api/table":            true,
	"POST /api/drafts/line":     true,
	"POST /api/drafts/ask":      true,
	"POST /api/views":           true,
	"POST /api/changes/seen":    true,
	"GET /api/feeds":            true,
	"GET /api/link":             true,
	"GET /api/sessions":         true,
	"PUT /api/password":         true,
	"POST /api/me/remove":       true,
	"GET /api/export":           true,
	"POST /api/link":            true,
	"DELETE /api/link":          true,
	"GET /api/me":               true,
	"GET /api/horizon":          true,
	"GET /api/ledger":           true,
	"GET /api/library":          true,
	"GET /api/space":            true,
	"GET /api/courses":          true,
	"GET /api/enrolments":       true,
	"POST /api/enrolments":      true,
	"GET /api/search":           true,
	"POST /share":               true,
	"GET /api/recordings":       true,
	"POST /api/sync":            true,
	"DELETE /api/session":       true,
	"DELETE /api/items/:id/fix": true,
}

var open2all = regexp.MustCompile(
	`^(GET /healthz|GET /feed/:name|GET /api/entrance|POST /api/session|POST /api/session/demo|POST /api/reset|POST /api/reset/ask|GET /api/phone/:token|POST /api/phone/:token/photographs)$`,
)

// notTried: the stream of events never ends, and tus answers these methods of uploads by itself.
var notTried = regexp.MustCompile(`^(GET /api/events|(GET|POST|PUT|OPTIONS|CONNECT|TRACE) /api/uploads/\*any|[A-Z]+ /api/phone-uploads/\*any)$`)

func TestNobodyReachesAnotherStudentsData(t *testing.T) {
	s := open(t)
	mine := s.signIn(t, "nerea@alvarim.example")
	other, _ := s.AddStudent("20419", "rui@alvarim.example")
	theirs := s.signIn(t, "rui@alvarim.example")
	calls := s.calls()
	try := func(client *http.Client, route string, c call) (int, string) {
		method, _, _ := strings.Cut(route, " ")
		r, err := http.NewRequest(method, s.server.URL+c.path, strings.NewReader(c.body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		if strings.Contains(route, "/uploads/") {
			r.Header.Set("Tus-Resumable", "1.0.0")
			r.Header.Set("Upload-Offset", "0")
			r.Header.Set("Content-Type", "application/offset+octet-stream")
		}
		answer, err := client.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, string(text)
	}
	for _, r := range s.routes.Routes() {
		route := r.Method + " " + r.Path
		if open2all.MatchString(route) || notTried.MatchString(route) {
			continue
		}
		c, known := calls[route]
		require.True(t, known, "the route %s is not in calls(): say how it is tried, with the owner's ids", route)
		code, _ := try(http.DefaultClient, route, c)
		assert.Equal(t, http.StatusUnauthorized, code, "%s without a session", route)
		if route == "DELETE /api/session" {
			continue
		}
		code, text := try(theirs, route, c)
		if own[route] {
			assert.True(t, code < 300 || code == c.mine, "%s: %d", route, code)
			for _, secret := range []string{"APC-", "20418", "nerea@", "second.docx"} {
				assert.NotContains(t, text, secret, route)
			}
		} else {
			assert.Equal(t, http.StatusNotFound, code, "%s as another student: %s", route, text)
		}
	}
	code, _ := try(http.DefaultClient, "GET", call{path: "/api/events"})
	assert.Equal(t, http.StatusUnauthorized, code)
	// Nothing was changed by the other student's attempts.
	desk, err := s.Desk.Desk(context.Background(), s.Student, s.assignment, 0)
	require.NoError(t, err)
	assert.Len(t, desk.Items, 1)
	assert.Equal(t, "second.docx", desk.Items[0].Name)
	assert.NotEqual(t, other, s.Student)
	code, text := try(mine, "GET /api/assignments/:id", calls["GET /api/assignments/:id"])
	assert.Equal(t, 200, code, text)
}

// Every answer of every route is held against the OpenAPI document.
func TestAnswersAreAsTheDocumentSays(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	document, err := api.GetSwagger()
	require.NoError(t, err)
	document.Servers = nil
	router, err := gorillamux.NewRouter(document)
	require.NoError(t, err)
	calls := s.calls()
	for _, route := range slices.Sorted(maps.Keys(calls)) { // what one changes may alter what another answers
		c := calls[route]
		if c.mine == 0 || strings.Contains(route, "/uploads/") || strings.Contains(route, "/content") || strings.Contains(route, "/pages") || route == "POST /share" ||
			route == "GET /api/table" ||
			route == "DELETE /api/session" ||
			route == "GET /api/export" ||
			route == "DELETE /api/items/:id" {
			continue
		}
		method, _, _ := strings.Cut(route, " ")
		r, err := http.NewRequest(method, s.server.URL+c.path, strings.NewReader(c.body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		answer, err := client.Do(r)
		require.NoError(t, err)
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		answer.Body.Close()
		require.Equal(t, c.mine, answer.StatusCode, "%s: %s", route, body)
		found, params, err := router.FindRoute(r)
		require.NoError(t, err, route)
		input := &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: found}
		err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: input,
			Status:                 answer.StatusCode,
			Header:                 answer.Header,
			Body:                   io.NopCloser(bytes.NewReader(body)),
			Options:                &openapi3filter.Options{IncludeResponseStatus: true},
		})
		assert.NoError(t, err, route)
	}
}

func TestForgedRequestsAndForeignScripts(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	r, err := http.NewRequest("POST", s.server.URL+"/api/sync", nil)
	require.NoError(t, err)
	r.Header.Set("Origin", "https://elsewhere.example")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err := client.Do(r)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusForbidden, answer.StatusCode)

	answer, err = http.Get(s.server.URL + "/desk/1")
	require.NoError(t, err)
	answer.Body.Close()
	policy := answer.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self';")
	assert.NotContains(t, regexp.MustCompile(`script-src[^;]*`).FindString(policy), "unsafe")
	assert.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
}

func TestSigningOutEndsTheSession(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	r, err := http.NewRequest("DELETE", s.server.URL+"/api/session", nil)
	require.NoError(t, err)
	answer, err := client.Do(r)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusNoContent, answer.StatusCode)
	answer, err = client.Get(s.server.URL + "/api/me") // with the old cookie
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, answer.StatusCode)
}

func TestTheDemoSignsInOnlyItsOwnStudent(t *testing.T) {
	s := open(t)
	answer, err := http.Post(s.server.URL+"/api/session/demo", "application/json", nil)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, http.StatusNotFound, answer.StatusCode, "there is no demo student here")
	var problem api.Problem
	require.NoError(t, json.NewDecoder(answer.Body).Decode(&problem))
	assert.NotEmpty(t, problem.Message)
}

func TestHealthAndFigures(t *testing.T) {
	s := open(t)
	answer, err := http.Get(s.server.URL + "/healthz")
	require.NoError(t, err)
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Contains(t, string(text), "well")
	figures := httptest.NewRecorder()
	s.api.Metrics().ServeHTTP(figures, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	assert.Contains(t, figures.Body.String(), "orario_http_seconds")
	answer, err = http.Get(s.server.URL + "/metrics")
	require.NoError(t, err)
	page, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	answer.Body.Close()
	assert.NotContains(t, string(page), "orario_http_seconds", "not where everybody comes")
}

// The calendar feed needs no session, only its secret; it stops when it is revoked.
func TestTheFeedIsBehindItsSecretAlone(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	get := func(client *http.Client, path string) (int, string, http.Header) {
		answer, err := client.Get(s.server.URL + path)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, string(body), answer.Header
	}
	address, err := s.Agenda.Renew(ctx, s.Student)
	require.NoError(t, err)
	token := strings.TrimSuffix(strings.TrimPrefix(address, "/feed/"), ".ics")
	code, text, header := get(http.DefaultClient, "/feed/"+token+".ics")
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, "text/calendar; charset=utf-8", header.Get("Content-Type"))
	assert.Contains(t, header.Get("Cache-Control"), "private")
	assert.Contains(t, text, "SUMMARY:Send HYD 214 Lab 5")
	for _, path := range []string{"/feed/.ics", "/feed/" + token, "/feed/" + token + ".csv", "/feed/" + strings.ToLower(token[:len(token)-1]) + ".ics", "/feed/%25.ics"} {
		code, _, _ = get(http.DefaultClient, path)
		assert.Equal(t, http.StatusNotFound, code, path)
	}
	_, err = s.Agenda.Renew(ctx, s.Student)
	require.NoError(t, err)
	code, _, _ = get(http.DefaultClient, "/feed/"+token+".ics")
	assert.Equal(t, http.StatusNotFound, code, "a new secret ends the old one")

	code, text, header = get(s.signIn(t, "nerea@alvarim.example"), "/api/table")
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, header.Get("Content-Disposition"), "assignments.csv")
	assert.True(t, strings.HasPrefix(text, "title,course,due,opens,closes,points,zone,"))
	assert.Contains(t, text, "Chart datum,HYD 214,")
}

// What is typed into a title must not run in a spreadsheet.
func TestATableHoldsNoFormulas(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	d, err := s.Intake.Typed(ctx, s.Student, "lab HYD 31 Dec 2099")
	require.NoError(t, err)
	d.Title = `=HYPERLINK("https://elsewhere.example")`
	_, err = s.Intake.Add(ctx, s.Student, *d)
	require.NoError(t, err)
	text, err := s.Agenda.Table(ctx, s.Student)
	require.NoError(t, err)
	assert.Contains(t, text, `"'=HYPERLINK(""https://elsewhere.example"")",HYD 214`)
}

// Bad input of every kind is an answer with a sentence, and never a failure of ours.
func TestBadInputIsAnsweredWithASentence(t *testing.T) {
	s := open(t)
	client := s.signIn(t, "nerea@alvarim.example")
	for _, c := range []struct {
		method, path, body string
		code               int
	}{
		{"POST", "/api/drafts/line", `{"line":"` + strings.Repeat("x", 400) + `"}`, 422},
		{"POST", "/api/drafts/text", `{"course_id":0,"text":"  ","upload":""}`, 422},
		{"POST", "/api/drafts/text", `{"course_id":0,"text":"","upload":"nothing"}`, 404},
		{"POST", "/api/drafts/ask", `{"course_id":0,"kind":"pages","words":"blue"}`, 422},
		{"POST", "/api/drafts/ask", `{`, 400},
		{"POST", "/api/assignments", strings.Replace(s.draft(), `"kind":"due"`, `"kind":"weather"`, 1), 400},
		{"POST", "/api/assignments", strings.Replace(s.draft(), "2099-12-31T23:59", "soon", 1), 422},
		{"POST", "/api/imports", `{"upload":"","url":"ftp://a.example/x","name":"","purpose":"due","course_id":0,"columns":[],"without":[],"again":false}`, 422},
		{"POST", "/api/imports", strings.Replace(s.imported(), `"due"`, `"fun"`, 1), 422},
		{"PUT", "/api/settings", `{"week":[],"most_a_day":0,"block":0,"margin":0,"quiet_from":0,"quiet_to":0,"mail":false,"no_keys":false}`, 422},
		{"POST", "/api/plan/try", `{"wish":{"pins":[{"assignment_id":` + fmt.Sprint(s.own) + `,"start":"2027-06-01T11:00:00Z","end":"2027-06-01T10:00:00Z"}],"not_before":[]},"shift":null}`, 422},
		{"GET", "/api/week?from=tomorrow", "", 422},
		{"POST", "/api/bulk", `{"ids":[` + fmt.Sprint(s.own) + `],"do":"dance","minutes":0}`, 422},
		{"POST", "/api/views", `{"name":" ","filter":""}`, 422},
		{"PUT", fmt.Sprintf("/api/assignments/%d/extension", s.own), `{"state":"granted","due":"soon","closes":"","note":"","upload":""}`, 422},
		{"GET", fmt.Sprintf("/api/assignments/%d/extension?until=soon", s.own), "", 422},
		{"PUT", fmt.Sprintf("/api/assignments/%d/noted", s.own), `{"at":"2999-01-01T00:00:00Z","note":""}`, 422},
		{"PUT", fmt.Sprintf("/api/assignments/%d/draft", s.assignment), s.draft(), 422},
		{"POST", "/api/courses", strings.Replace(courseSheet, "UTC", "Nowhere", 1), 422},
	} {
		r, err := http.NewRequest(c.method, s.server.URL+c.path, strings.NewReader(c.body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		answer, err := client.Do(r)
		require.NoError(t, err)
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		answer.Body.Close()
		assert.Equal(t, c.code, answer.StatusCode, "%s %s: %s", c.method, c.path, body)
		var said api.Problem
		require.NoError(t, json.Unmarshal(body, &said), "%s %s: %s", c.method, c.path, body)
		assert.Greater(t, len(said.Message), 15)
		assert.NotContains(t, said.Message, "problem of its own")
	}
}
