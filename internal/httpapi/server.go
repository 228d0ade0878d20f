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
	"orario/internal/contents"
	"orario/internal/courses"
	"orario/internal/desk"
	"orario/internal/httpapi/api"
	"orario/internal/intake"
	"orario/internal/library"
	"orario/internal/mariadb"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/review"
	"orario/internal/schedule"
	"orario/internal/submit"
	"orario/internal/workshop"
)

// Server answers the pages.
type Server struct {
	DB       *mariadb.DB
	Accounts account.Service
	Intake   intake.Service
	Agenda   schedule.Service
	Desks    desk.Service
	Library  library.Service
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
	// The address under which students reach the pages, without a slash at its end; empty: none is set
	PublicURL string
	Proxies   []string // addresses or networks whose word about who asks is believed
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
			api.Problem{Message: ours},
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
	signedIn.GET("/api/versions/:id/pages", s.versionPages)
	signedIn.GET("/api/handouts/:id/content", s.handoutContent)
	signedIn.POST("/share", s.share)
	signedIn.GET("/api/workpieces/:id/files/:n/content", s.workpieceContent)
	signedIn.GET("/api/workpieces/:id/files/:n/pages", s.workpiecePages)

	strict := api.NewStrictHandlerWithOptions(
		handlers{s},
		[]api.StrictMiddlewareFunc{ownContext},
		api.StrictGinServerOptions{
			RequestErrorHandlerFunc:  malformed,
			HandlerErrorFunc:         s.fail,
			ResponseErrorHandlerFunc: s.fail,
		},
	)
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

// ours is what a page is told of a failure that is ours: something may have been done before it.
const ours = "Orario has a problem of its own. Look whether it was done, and try again if not."

// fail turns the errors of use cases into answers.
func (s *Server) fail(c *gin.Context, err error) {
	var complaint refusal.Complaint
	var conflict refusal.Conflict
	var wait account.Wait
	switch {
	case errors.As(err, &wait):
		c.Header("Retry-After", strconv.Itoa(wait.Seconds()))
		problem(c, http.StatusTooManyRequests, fmt.Sprintf(
			"There were too many tries. Wait %s, then try again.", wait.Span()))
	case errors.As(err, &complaint):
		problem(c, http.StatusUnprocessableEntity, complaint.Message)
	case errors.As(err, &conflict):
		problem(c, http.StatusConflict, conflict.Message)
	case errors.Is(err, refusal.ErrNotFound):
		problem(c, http.StatusNotFound, "There is no such thing among yours.")
	case errors.Is(err, account.ErrWrong):
		problem(c, http.StatusUnauthorized, "This address and password do not belong together.")
	case errors.Is(err, context.Canceled), errors.Is(err, syscall.EPIPE), errors.Is(err, syscall.ECONNRESET):
		c.AbortWithStatus(499) // nobody listens any more
	default:
		s.Log.Error("a request failed", "path", c.FullPath(), "error", err)
		problem(c, http.StatusInternalServerError, ours)
	}
}

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.DB.SQL.PingContext(ctx); err != nil {
		c.String(http.StatusServiceUnavailable, "the database cannot be reached\n")
		return
	}
	c.String(http.StatusOK, "well\n")
}

// ownContext gives an operation a context that stays its own. Gin takes back its contexts, and uses them for other
// requests, when the answer is written; database/sql may still ask one whether it has ended by then.
func ownContext(next api.StrictHandlerFunc, _ string) api.StrictHandlerFunc {
	return func(c *gin.Context, request any) (any, error) {
		own := c.Copy()
		own.Writer = c.Writer
		return next(own, request)
	}
}
