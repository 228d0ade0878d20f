// Package httpapi is Orario's HTTP side: routes, sessions, uploads and live events. It holds no rules;
// every answer comes from a use case.
package httpapi

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"orario/core/wording"
	"orario/internal/account"
	"orario/internal/agenda"
	"orario/internal/contents"
	"orario/internal/courses"
	"orario/internal/desk"
	"orario/internal/httpapi/api"
	"orario/internal/intake"
	"orario/internal/mariadb"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/review"
	"orario/internal/submit"
	"orario/internal/workshop"
)

// Server answers the pages.
type Server struct {
	DB       *mariadb.DB
	Accounts account.Service
	Intake   intake.Service
	Agenda   agenda.Service
	Shelf    desk.Service
	Courses  courses.Service
	Prepare  prepare.Service
	Submit   submit.Service
	Review   review.Service
	Workshop workshop.Service
	Contents contents.Store
	Log      *slog.Logger
	Pages    fs.FS // the built front end
	Secure   bool  // cookies only over HTTPS
	Demo     bool  // offer the demo student's sign-in
	Figures  *prometheus.Registry
	Proxies  []string // addresses or networks whose word about who asks is believed
}

// maxUpload is the size of the largest file that can be added.
const maxUpload = 512 << 20

// Routes builds all routes.
func (s *Server) Routes() (*gin.Engine, error) {
	r := gin.New()
	r.ContextWithFallback = true // a handler stops when nobody waits for its answer
	r.HandleMethodNotAllowed = true
	if err := r.SetTrustedProxies(s.Proxies); err != nil {
		return nil, fmt.Errorf("the trusted proxies: %w", err)
	}
	r.Use(s.observe(), gin.CustomRecovery(func(c *gin.Context, problem any) {
		s.Log.Error("a request failed", "path", c.FullPath(), "problem", problem, "stack", string(debug.Stack()))
		c.AbortWithStatusJSON(
			http.StatusInternalServerError,
			api.Problem{Message: "Orario has a problem of its own. Nothing was changed; try again."},
		)
	}), secure, s.identify)

	store := contents.Uploads{Store: s.Contents, Admit: s.Prepare.Admit}
	uploads, err := store.Handler("/api/uploads/", maxUpload)
	if err != nil {
		return nil, err
	}
	photographs, err := store.Handler("/api/phone-uploads/", maxUpload)
	if err != nil {
		return nil, err
	}
	r.Any("/api/phone-uploads/*any", s.passed(photographs))
	signedIn := r.Group("", s.requireStudent)
	signedIn.Any("/api/uploads/*any", owned(uploads))
	signedIn.GET("/api/events", s.events)
	signedIn.GET("/api/table", s.table)
	signedIn.GET("/api/export", s.export)
	signedIn.GET("/api/versions/:id/content", s.versionContent)
	signedIn.GET("/api/handouts/:id/content", s.handoutContent)
	signedIn.POST("/share", s.share)
	signedIn.GET("/api/workpieces/:id/files/:n/content", s.workpieceContent)

	strict := api.NewStrictHandlerWithOptions(handlers{s}, nil, api.StrictGinServerOptions{
		RequestErrorHandlerFunc:  malformed,
		HandlerErrorFunc:         s.fail,
		ResponseErrorHandlerFunc: s.fail,
	})
	wrapper := api.ServerInterfaceWrapper{
		Handler:      strict,
		ErrorHandler: func(c *gin.Context, err error, code int) { problem(c, code, err.Error()) },
	}
	public(r, wrapper)
	shows(signedIn, wrapper)
	changes(signedIn, wrapper)

	r.GET("/feed/:name", s.feed)
	r.GET("/healthz", s.health)
	r.NoRoute(s.page)
	return r, nil
}

// public, shows and changes register the generated routes; the test that walks the router holds that every one which
// is not public asks who is there.
func public(r gin.IRoutes, w api.ServerInterfaceWrapper) {
	r.GET("/api/entrance", w.GetEntrance)
	r.POST("/api/session", limitForm, w.SignIn)
	r.POST("/api/session/demo", limitForm, w.SignInDemo)
	r.POST("/api/reset", limitForm, w.ResetPassword)
	r.POST("/api/reset/ask", limitForm, w.AskReset)
	r.GET("/api/phone/:token", w.GetPhone)
	r.POST("/api/phone/:token/photographs", limitForm, w.BringPhotograph)
}

// shows are the routes that change nothing, whatever their method.
func shows(r gin.IRoutes, w api.ServerInterfaceWrapper) {
	r.GET("/api/assignments/:id", w.GetDesk)
	r.GET("/api/assignments/:id/draft", w.GetDraft)
	r.GET("/api/assignments/:id/extension", w.GetExtension)
	r.GET("/api/courses", w.GetCourses)
	r.POST("/api/drafts/ask", limitText, w.CorrectAsk)
	r.POST("/api/drafts/line", limitForm, w.TypeLine)
	r.POST("/api/drafts/text", limitText, w.ReadText)
	r.GET("/api/assignments/:id/check", w.GetOwnCheck)
	r.GET("/api/assignments/:id/sources", w.GetSources)
	r.GET("/api/enrolments", w.GetEnrolments)
	r.GET("/api/feeds", w.GetFeeds)
	r.GET("/api/horizon", w.GetHorizon)
	r.POST("/api/imports/preview", limitText, w.PreviewImport)
	r.GET("/api/ledger", w.GetLedger)
	r.GET("/api/library", w.GetLibrary)
	r.GET("/api/link", w.GetLink)
	r.GET("/api/me", w.GetMe)
	r.GET("/api/plan", w.GetPlan)
	r.POST("/api/plan/try", limitText, w.TryPlan)
	r.GET("/api/search", w.Search)
	r.GET("/api/sessions", w.GetSessions)
	r.GET("/api/settings", w.GetSettings)
	r.GET("/api/space", w.GetSpace)
	r.GET("/api/submissions/:id/receipt", w.GetReceipt)
	r.GET("/api/submissions/:id/report", w.GetReading)
	r.GET("/api/versions/:id", w.GetVersion)
	r.GET("/api/week", w.GetWeek)
	r.GET("/api/assignments/:id/workpieces", w.GetWorkpieces)
	r.GET("/api/assignments/:id/writing", w.GetWriting)
	r.POST("/api/assignments/:id/typed", limitText, w.LayOutTyped)
	r.GET("/api/recordings", w.GetRecordings)
	r.POST("/api/assignments/:id/name/try", limitForm, w.TryName)
	r.GET("/api/versions/:id/photograph", w.GetPhotograph)
	r.GET("/api/workpieces/:id", w.GetWorkpiece)
}

// changes are the routes that change something.
func changes(r gin.IRoutes, w api.ServerInterfaceWrapper) {
	r.POST("/api/assignments", limitText, w.AddAssignment)
	r.POST("/api/assignments/:id/asks/:ask", limitText, w.SettleAsk)
	r.POST("/api/assignments/:id/attempts", limitForm, w.BeginAttempt)
	r.POST("/api/assignments/:id/check", limitForm, w.CheckOwn)
	r.PUT("/api/assignments/:id/check/passages/:n", limitForm, w.HandleOwnPassage)
	r.DELETE("/api/assignments/:id/draft", w.RemoveAssignment)
	r.PUT("/api/assignments/:id/draft", limitText, w.ChangeAssignment)
	r.PUT("/api/assignments/:id/extension", limitForm, w.SetExtension)
	r.POST("/api/assignments/:id/items", limitForm, w.AddItem)
	r.POST("/api/assignments/:id/log", limitForm, w.LogWork)
	r.PUT("/api/assignments/:id/name", limitForm, w.SettleName)
	r.PUT("/api/assignments/:id/noted", limitForm, w.NoteSent)
	r.POST("/api/assignments/:id/submissions", limitForm, w.Submit)
	r.POST("/api/assignments/:id/sources", limitForm, w.AddSource)
	r.PUT("/api/assignments/:id/work", limitForm, w.SetWork)
	r.POST("/api/bulk", limitText, w.Bulk)
	r.POST("/api/changes/seen", limitForm, w.Seen)
	r.POST("/api/courses", limitForm, w.AddCourse)
	r.PUT("/api/courses/:id", limitForm, w.SetCourse)
	r.PUT("/api/courses/:id/archived", limitForm, w.ArchiveCourse)
	r.POST("/api/enrolments", limitForm, w.AddEnrolment)
	r.PUT("/api/enrolments/:id", limitForm, w.SetEnrolment)
	r.DELETE("/api/feeds/:id", w.RemoveFeed)
	r.POST("/api/imports", limitText, w.Import)
	r.DELETE("/api/items/:id", w.RemoveItem)
	r.PUT("/api/items/:id", limitForm, w.ChangeItem)
	r.DELETE("/api/items/:id/fix", w.CancelFix)
	r.POST("/api/items/:id/fix", limitForm, w.FixItem)
	r.DELETE("/api/link", w.RevokeLink)
	r.POST("/api/link", limitForm, w.RenewLink)
	r.POST("/api/me/remove", limitForm, w.RemoveMe)
	r.PUT("/api/password", limitForm, w.ChangePassword)
	r.PUT("/api/plan", limitText, w.KeepPlan)
	r.DELETE("/api/session", w.SignOut)
	r.DELETE("/api/sessions/:id", w.EndSession)
	r.PUT("/api/settings", limitForm, w.SetSettings)
	r.DELETE("/api/sources/:id", w.RemoveSource)
	r.DELETE("/api/submissions/:id", w.CancelSubmission)
	r.PUT("/api/submissions/:id/report/passages/:n", limitForm, w.HandlePassage)
	r.POST("/api/sync", w.SyncNow)
	r.DELETE("/api/versions/:id", w.RemoveVersion)
	r.POST("/api/views", limitForm, w.SaveView)
	r.DELETE("/api/views/:id", w.RemoveView)
	r.POST("/api/assignments/:id/names", limitForm, w.RenameAll)
	r.POST("/api/assignments/:id/handouts", limitForm, w.KeepHandouts)
	r.POST("/api/handouts/:id/begin", limitForm, w.BeginWith)
	r.PUT("/api/assignments/:id/order", limitForm, w.Reorder)
	r.POST("/api/assignments/:id/passes", limitForm, w.GivePass)
	r.DELETE("/api/passes/:id", w.EndPass)
	r.POST("/api/assignments/:id/recordings", limitForm, w.KeepRecording)
	r.POST("/api/assignments/:id/workpieces", limitWriting, w.BeginWorkpiece)
	r.PUT("/api/assignments/:id/writing", limitWriting, w.KeepWriting)
	r.DELETE("/api/workpieces/:id", w.ThrowWorkpiece)
	r.POST("/api/workpieces/:id/taken", limitForm, w.TakeWorkpiece)
	r.DELETE("/api/workpieces/:id/taken", w.PutBackWorkpiece)
}

// Handler is all routes, with what stands around them.
func (s *Server) Handler() (http.Handler, error) {
	routes, err := s.Routes()
	if err != nil {
		return nil, err
	}
	return around(routes)
}

// around puts the protection against forged requests before routes, and compresses texts. The stream of events is not
// compressed, since nothing of it may wait.
func around(routes http.Handler) (http.Handler, error) {
	compress, err := gzhttp.NewWrapper(gzhttp.ContentTypes([]string{
		"application/json", "text/html", "text/css", "text/javascript", "text/csv", "text/calendar", "image/svg+xml",
	}))
	if err != nil {
		return nil, err
	}
	return http.NewCrossOriginProtection().Handler(compress(routes)), nil
}

// observe logs and measures every request.
func (s *Server) observe() gin.HandlerFunc {
	took := prometheus.NewHistogramVec(
		prometheus.HistogramOpts{
			Name:    "orario_http_seconds",
			Help:    "Time to answer, by route.",
			Buckets: prometheus.ExponentialBuckets(0.001, 3, 9),
		},
		[]string{"method", "route", "code"},
	)
	s.Figures.MustRegister(took)
	return func(c *gin.Context) {
		begin := time.Now()
		c.Next()
		route := c.FullPath()
		took.WithLabelValues(c.Request.Method, route, strconv.Itoa(c.Writer.Status())).
			Observe(time.Since(begin).Seconds())
		s.Log.Debug(
			"answered",
			"method",
			c.Request.Method,
			"route",
			route,
			"code",
			c.Writer.Status(),
			"took",
			time.Since(begin),
		)
	}
}

// secure sets the headers that keep foreign scripts and frames out.
func secure(c *gin.Context) {
	h := c.Writer.Header()
	// Styles may be inline, since the component library writes its variables into a style element;
	// scripts may not.
	h.Set(
		"Content-Security-Policy",
		"default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "+
			"font-src 'self'; "+
			"connect-src 'self'; media-src 'self' blob:; manifest-src 'self'; "+
			"form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
	)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

// Bounds of what is sent to a route: of a form, and of one that holds instructions or a table.
const (
	maxForm = 64 << 10
	maxText = 1 << 20
)

// slowest is how long a body may take to arrive. Files come by another way, which has its own.
var slowest = 30 * time.Second

func limitForm(c *gin.Context) { limit(c, maxForm) }
func limitText(c *gin.Context) { limit(c, maxText) }

// limitWriting bounds what holds handwriting: JSON of what is kept has up to a half more.
func limitWriting(c *gin.Context) { limit(c, 3*workshop.MostWriting/2) }

func limit(c *gin.Context, most int64) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
	_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(slowest)) // a test's writer has none
}

// Metrics are the figures for monitoring. They belong on an address of their own that is not public.
func (s *Server) Metrics() http.Handler {
	return promhttp.HandlerFor(s.Figures, promhttp.HandlerOpts{})
}

func problem(c *gin.Context, code int, message string) {
	c.AbortWithStatusJSON(code, api.Problem{Message: message})
}

// malformed answers a request that cannot be read.
func malformed(c *gin.Context, err error) {
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		problem(
			c,
			http.StatusRequestEntityTooLarge,
			"What was sent is larger than "+wording.Bytes(large.Limit)+". Upload it as a file, or send less.",
		)
		return
	}
	problem(c, http.StatusBadRequest, "The request is malformed: "+err.Error())
}

// fail turns the errors of use cases into answers.
func (s *Server) fail(c *gin.Context, err error) {
	var complaint refusal.Complaint
	var wait account.Wait
	switch {
	case errors.As(err, &wait):
		c.Header("Retry-After", strconv.Itoa(wait.Seconds()))
		problem(c, http.StatusTooManyRequests, fmt.Sprintf(
			"There were too many wrong passwords. Wait %d s, then try again.", wait.Seconds()))
	case errors.As(err, &complaint):
		problem(c, http.StatusUnprocessableEntity, complaint.Message)
	case errors.Is(err, refusal.ErrNotFound):
		problem(c, http.StatusNotFound, "There is no such thing among yours.")
	case errors.Is(err, account.ErrWrong):
		problem(c, http.StatusUnauthorized, "This address and password do not belong together.")
	case errors.Is(err, account.ErrTooMany):
		problem(c, http.StatusTooManyRequests, "There were too many attempts. Try again in a quarter of an hour.")
	case errors.Is(err, context.Canceled), errors.Is(err, syscall.EPIPE), errors.Is(err, syscall.ECONNRESET):
		c.AbortWithStatus(499) // nobody listens any more
	default:
		s.Log.Error("a request failed", "path", c.FullPath(), "error", err)
		problem(c, http.StatusInternalServerError, "Orario has a problem of its own. Nothing was changed; try again.")
	}
}

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c, 2*time.Second)
	defer cancel()
	if err := s.DB.SQL.PingContext(ctx); err != nil {
		c.String(http.StatusServiceUnavailable, "the database cannot be reached\n")
		return
	}
	c.String(http.StatusOK, "well\n")
}
