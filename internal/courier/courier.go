// Package courier carries work to an instructor. This is the route to a connected course site, over
// the protocol of docs/campus.md.
package courier

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"

	"orario/core/receipt"
	api "orario/internal/courier/campusapi"
)

// Refused is a site's answer that no repetition will change.
type Refused struct{ Code, Reason string }

func (r Refused) Error() string { return r.Reason }

// ErrUnknown says that the site does not know what was asked for.
var ErrUnknown = errors.New("the site does not know it")

// A Site is one student's way to a course site.
type Site struct {
	base   string
	token  string
	client *api.ClientWithResponses
	http   *http.Client
}

// answerTime is how long a site may take to answer; uploads, which are long, are bounded by their progress.
const answerTime = 30 * time.Second

// Connect prepares the way to the site at a base address, with a student's token. Nothing is sent yet.
func Connect(base, token string) (*Site, error) {
	if at, err := url.Parse(base); err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, fmt.Errorf("%q is no address of a course site; write it like https://site.example", base)
	}
	s := &Site{base: strings.TrimSuffix(base, "/"), token: token}
	s.http = &http.Client{CheckRedirect: sameOrigin, Transport: bounded{http.DefaultTransport, mostAnswer}}
	answers := &http.Client{Timeout: answerTime, CheckRedirect: sameOrigin, Transport: s.http.Transport}
	client, err := api.NewClientWithResponses(s.base, api.WithHTTPClient(answers),
		api.WithRequestEditorFn(func(_ context.Context, r *http.Request) error {
			s.sign(r)
			return nil
		}))
	if err != nil {
		return nil, fmt.Errorf("the address %q cannot be used: %w", base, err)
	}
	s.client = client
	return s, nil
}

func (s *Site) sign(r *http.Request) { r.Header.Set("Authorization", "Bearer "+s.token) }

// answer is what every generated response has.
type answer interface{ StatusCode() int }

// final are the codes of refusals that no repetition will change. Whatever else answers a request, a filter on the way
// or a site in trouble, settles nothing.
var final = map[string]bool{
	"closed": true, "not_open": true, "attempts": true, "invitation": true, "declaration": true, "slot": true,
	"form": true, "size": true, "empty": true, "unknown": true,
}

// ErrToken says that the site does not accept the token, or somebody on the way lets nothing through.
var ErrToken = errors.New("the site does not accept the token; if it stays so, connect the site again")

// good says whether a call got the answer that it hoped for, else why not.
func good(call string, response answer, err error, refusals ...*api.Refusal) error {
	if err != nil {
		var syntax *json.SyntaxError
		var kind *json.UnmarshalTypeError
		if errors.As(err, &syntax) || errors.As(err, &kind) || errors.Is(err, ErrTooLong) {
			err = fmt.Errorf("%w: %w", ErrForeign, err)
		}
		return fmt.Errorf("%s: %w", call, err)
	}
	code := response.StatusCode()
	if code == http.StatusOK {
		return nil
	}
	for _, r := range refusals {
		if r != nil && final[r.Code] && r.Reason != "" {
			return Refused{r.Code, r.Reason}
		}
	}
	switch code {
	case http.StatusUnauthorized, http.StatusForbidden:
		return ErrToken
	case http.StatusNotFound:
		return ErrUnknown
	}
	return fmt.Errorf("%s: %w", call, Trouble(code))
}

// Trouble is the status code of an answer that settles nothing: the site is there, and is in trouble.
type Trouble int

func (t Trouble) Error() string {
	return strings.TrimSpace(fmt.Sprintf("the site answered %d %s", int(t), http.StatusText(int(t))))
}

// ErrForeign says that what answered is no course site: not the protocol's own form.
var ErrForeign = errors.New("what answers at the site's address does not speak as a course site does")

// content is the body of an answer that [good] found good.
func content[T any](body *T) (T, error) {
	if body == nil {
		var none T
		return none, ErrForeign
	}
	return *body, nil
}

// A Receipt as it came, byte by byte, and as it reads.
type Receipt struct {
	receipt.Receipt
	Raw []byte
}

func received(body *receipt.Receipt, raw []byte) (Receipt, error) {
	r, err := content(body)
	if err == nil && (r.Number == "" || r.Signature == "" || len(raw) > mostReceipt) {
		err = ErrForeign
	}
	return Receipt{r, raw}, err
}

// Describe asks for the site's name, key, clock and revision, and whom it knows the student as.
func (s *Site) Describe(ctx context.Context) (Description, error) {
	r, err := s.client.GetSiteWithResponse(ctx)
	if err := good("asking the site who it is", r, err); err != nil {
		return Description{}, err
	}
	d, err := content(r.JSON200)
	if err == nil && (d.Name == "" || d.Key == "" || d.PublicKey == "") {
		err = ErrForeign
	}
	return describedBy(d), err
}

// Courses lists the student's courses.
func (s *Site) Courses(ctx context.Context) ([]Course, error) {
	r, err := s.client.ListCoursesWithResponse(ctx)
	if err := good("listing courses", r, err); err != nil {
		return nil, err
	}
	list, err := content(r.JSON200)
	return each(list, func(c api.Course) Course { return Course(c) }), err
}

// Assignments lists all assignments of the student's courses.
func (s *Site) Assignments(ctx context.Context) ([]Assignment, error) {
	r, err := s.client.ListAssignmentsWithResponse(ctx)
	if err := good("listing assignments", r, err); err != nil {
		return nil, err
	}
	list, err := content(r.JSON200)
	return each(list, assignmentOf), err
}

// OpenDraft opens a draft, or finds the one opened with the same key.
func (s *Site) OpenDraft(ctx context.Context, key, assignment string) (Draft, error) {
	r, err := s.client.OpenDraftWithResponse(
		ctx,
		&api.OpenDraftParams{IdempotencyKey: key},
		api.OpenDraftJSONRequestBody{Assignment: assignment},
	)
	if err != nil {
		return Draft{}, good("opening a draft", r, err)
	}
	if err := good("opening a draft", r, nil, r.JSON404, r.JSON409); err != nil {
		return Draft{}, err
	}
	d, err := content(r.JSON200)
	if err == nil && d.Id == 0 {
		err = ErrForeign
	}
	return draftOf(d), err
}

// Submit submits a draft for good; with a key that was used it gives the receipt there is.
func (s *Site) Submit(ctx context.Context, draft int64, key string, declared bool, comment string) (Receipt, error) {
	r, err := s.client.SubmitDraftWithResponse(
		ctx,
		draft,
		&api.SubmitDraftParams{IdempotencyKey: key},
		api.FinalSubmit{Declaration: declared, Comment: comment},
	)
	if err != nil {
		return Receipt{}, good("submitting", r, err)
	}
	if err := good("submitting", r, nil, r.JSON404, r.JSON409, r.JSON422); err != nil {
		return Receipt{}, err
	}
	return received(r.JSON200, r.Body)
}

// Receipt asks whether something was submitted with a key; [ErrUnknown] if not.
func (s *Site) Receipt(ctx context.Context, key string) (Receipt, error) {
	r, err := s.client.GetReceiptWithResponse(ctx, key)
	if err := good("asking for a receipt", r, err); err != nil {
		return Receipt{}, err
	}
	return received(r.JSON200, r.Body)
}

// Report asks for the similarity report of a submission.
func (s *Site) Report(ctx context.Context, number string) (Report, error) {
	r, err := s.client.GetReportWithResponse(ctx, number)
	if err := good("asking for the report", r, err); err != nil {
		return Report{}, err
	}
	body, err := content(r.JSON200)
	return reportOf(body), err
}

// Return asks for mark, comments and invitation.
func (s *Site) Return(ctx context.Context, number string) (Return, error) {
	r, err := s.client.GetReturnWithResponse(ctx, number)
	if err := good("asking for the return", r, err); err != nil {
		return Return{}, err
	}
	body, err := content(r.JSON200)
	return returnOf(body), err
}
