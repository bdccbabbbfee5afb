package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/web/api"
)

// contract holds requests against what api/ allows: media types, lengths, counts
// and forms, in this one place.
type contract struct{ routes routers.Router }

func newContract() (*contract, error) {
	spec, err := api.GetSpec()
	if err != nil {
		return nil, err
	}
	openapi3.DefineStringFormatValidator("uuid", openapi3.NewCallbackValidator(func(text string) error {
		_, err := uuid.Parse(text)
		return err
	}))
	routes, err := gorillamux.NewRouter(spec)
	return &contract{routes}, err
}

// check refuses what the contract does not allow, with the field it is at.
func (c *contract) check(ctx fiber.Ctx) error {
	if e := ctx.Get("Content-Encoding"); e != "" && !strings.EqualFold(e, "identity") {
		return refuse(fiber.StatusUnsupportedMediaType, "request.encoding")
	}
	body := ctx.Request().Body() // as it came, not unpacked
	if len(body) > largest(ctx.Path()) {
		if upload(ctx) {
			return field("files", say.It("field.file", say.Size(attachment.FileLimit)))
		}
		return refuse(fiber.StatusRequestEntityTooLarge, "request.large")
	}
	if upload(ctx) {
		ctx.Request().Header.SetContentType("application/octet-stream") // what a browser calls it says nothing
		body = body[:min(1, len(body))]                                 // whatever is in it is allowed
	} else if len(body) > 0 {
		kind, _, err := mime.ParseMediaType(ctx.Get("Content-Type"))
		if err != nil || kind != "application/json" {
			return refuse(fiber.StatusUnsupportedMediaType, "request.json")
		}
	}
	if !upload(ctx) && !utf8.Valid(body) || strings.ContainsRune(ctx.OriginalURL(), 0) {
		return refuse(fiber.StatusBadRequest, "request.utf8")
	}
	request, err := requestOf(ctx, body)
	if err != nil {
		return refuse(fiber.StatusBadRequest, "request.address")
	}
	route, params, err := c.routes.FindRoute(request)
	if err != nil {
		return ctx.Next() // it is no address of the contract; the router says so
	}
	err = openapi3filter.ValidateRequest(ctx.Context(), &openapi3filter.RequestValidationInput{Request: request, PathParams: params, Route: route,
		Options: &openapi3filter.Options{AuthenticationFunc: openapi3filter.NoopAuthenticationFunc}})
	if err != nil {
		return refusal(err)
	}
	if field := nulAt(body, request.URL.Query(), params, ctx); field != "" {
		return &schedule.InvalidError{Faults: []meeting.Fault{{Field: field, What: say.It("field.nul")}}}
	}
	return ctx.Next()
}

// upload tells whether a request brings a file as it is.
func upload(ctx fiber.Ctx) bool {
	return ctx.Path() == "/api/files" && ctx.Method() == fiber.MethodPost
}

// requestOf is the request as the library wants it.
func requestOf(ctx fiber.Ctx, body []byte) (*http.Request, error) {
	u, err := url.ParseRequestURI(ctx.OriginalURL())
	if err != nil {
		return nil, err
	}
	u.Host, u.Scheme = "", ""
	r := &http.Request{Method: ctx.Method(), URL: u, Header: http.Header{}, Body: http.NoBody}
	if len(body) > 0 {
		r.Body, r.ContentLength = readCloser{bytes.NewReader(body)}, int64(len(body))
	}
	for _, name := range []string{"Content-Type", "If-Match", "Idempotency-Key"} {
		if v := ctx.Get(name); v != "" {
			if !utf8.ValidString(v) {
				return nil, errors.New(name + " is not UTF-8")
			}
			r.Header.Set(name, v)
		}
	}
	return r, nil
}

type readCloser struct{ *bytes.Reader }

func (readCloser) Close() error { return nil }

// refusal says what is wrong in the words of the contract, never in those of Go.
func refusal(err error) error {
	var request *openapi3filter.RequestError
	if !errors.As(err, &request) {
		return refuse(fiber.StatusBadRequest, "request.contract")
	}
	field := ""
	if p := request.Parameter; p != nil {
		field = strings.ToLower(p.Name[:1]) + strings.ReplaceAll(p.Name[1:], "-", "")
	}
	if request.Parameter == nil && errors.Is(err, openapi3filter.ErrInvalidRequired) {
		return refuse(fiber.StatusBadRequest, "request.empty")
	}
	if errors.Is(err, openapi3filter.ErrInvalidRequired) || errors.Is(err, openapi3filter.ErrInvalidEmptyValue) {
		return refuse(fiber.StatusBadRequest, "request.missing", request.Parameter.Name)
	}
	if request.Parameter != nil && request.Parameter.In == openapi3.ParameterInPath {
		return schedule.ErrNotFound // nothing has such a name
	}
	var schema *openapi3.SchemaError
	what := say.It("field.unread")
	if errors.As(err, &schema) {
		if at := schema.JSONPointer(); len(at) > 0 {
			field = strings.Join(at, ".")
		}
		what = schemaFault(schema)
	}
	if field == "" {
		return refuse(fiber.StatusBadRequest, "request.object")
	}
	return &schedule.InvalidError{Faults: []meeting.Fault{{Field: field, What: what}}}
}

// schemaFault is what does not fit the contract.
func schemaFault(e *openapi3.SchemaError) say.What {
	s := e.Schema
	switch e.SchemaField {
	case "maxLength":
		return say.It("field.maxLength", int(*s.MaxLength))
	case "minLength":
		return say.It("field.minLength", int(s.MinLength))
	case "maxItems":
		return say.It("field.maxItems", int(*s.MaxItems))
	case "minimum":
		return say.It("field.minimum", fmt.Sprint(*s.Min))
	case "maximum":
		return say.It("field.maximum", fmt.Sprint(*s.Max))
	case "enum":
		var all []string
		for _, v := range s.Enum {
			all = append(all, fmt.Sprint(v))
		}
		return say.It("field.enum", strings.Join(all, ", "))
	case "required":
		return say.It("field.required")
	case "format":
		return say.It("field.format", s.Format)
	}
	return say.It("field.form")
}

// nulAt is the field that holds a NUL, which no text in the database can, or "".
func nulAt(body []byte, query url.Values, params map[string]string, ctx fiber.Ctx) string {
	for name, v := range params {
		if strings.ContainsRune(v, 0) {
			return name
		}
	}
	for name, all := range query {
		if strings.ContainsRune(strings.Join(all, ""), 0) {
			return name
		}
	}
	if strings.ContainsRune(ctx.Get("Idempotency-Key"), 0) {
		return "idempotencyKey"
	}
	if !bytes.Contains(body, []byte(`\u0000`)) {
		return ""
	}
	var v any
	if json.Unmarshal(body, &v) != nil {
		return ""
	}
	return nulIn(v, "")
}

func nulIn(v any, at string) string {
	join := func(name string) string { return strings.TrimPrefix(at+"."+name, ".") }
	switch v := v.(type) {
	case string:
		if strings.ContainsRune(v, 0) {
			return at
		}
	case []any:
		for i, x := range v {
			if found := nulIn(x, join(fmt.Sprint(i))); found != "" {
				return found
			}
		}
	case map[string]any:
		for name, x := range v {
			if strings.ContainsRune(name, 0) {
				return join("?")
			}
			if found := nulIn(x, join(name)); found != "" {
				return found
			}
		}
	}
	return ""
}
