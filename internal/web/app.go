// Package web serves the contract, live updates and the interface over HTTP.
package web

import (
	"context"
	"io/fs"
	"net/http"
	"regexp"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/limiter"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"

	"jembro/internal/core/attachment"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/web/api"
)

// Config says how the program is served.
type Config struct {
	Deeds *deeds.Deeds
	Hub   *Hub
	Files fs.FS // the built interface, with index.html
	// Healthy fails when the program cannot do its work.
	Healthy func(context.Context) error
	// Secure is for a program behind HTTPS: cookies for it only, and HSTS.
	Secure bool
	// SignInsPerMinute and GuestCallsPerMinute are allowed to one address.
	SignInsPerMinute, GuestCallsPerMinute int
	// TrustedProxies are the addresses whose X-Real-IP is believed; the limits
	// count by it then.
	TrustedProxies []string
}

const (
	// bodyLimit is what a request of the contract can hold; up to drainLimit more is
	// read, so that the answer says so instead of a connection that breaks.
	bodyLimit, drainLimit = 1 << 20, attachment.FileLimit + 1<<20
	// fileWithin is how long a file may take on a slow line, up or down.
	fileWithin = 3 * time.Minute
	// answerWithin is how long a deed may take.
	answerWithin = 30 * time.Second
)

// New makes the application.
func New(c Config) (*fiber.App, error) {
	app := fiber.New(fiber.Config{
		AppName:          "jembro",
		Immutable:        true, // values outlive their request
		BodyLimit:        drainLimit,
		ErrorHandler:     problemHandler(c.Deeds),
		ReadTimeout:      fileWithin,
		WriteTimeout:     fileWithin,
		IdleTimeout:      2 * time.Minute,
		TrustProxy:       len(c.TrustedProxies) > 0,
		TrustProxyConfig: fiber.TrustProxyConfig{Proxies: c.TrustedProxies},
		ProxyHeader:      proxyHeader(c.TrustedProxies),
	})
	contract, err := newContract()
	if err != nil {
		return nil, err
	}
	app.Use(recover.New())
	app.Use(headers(c.Secure))
	// A secret address packs for itself: the tags that its readers keep are its own. Files that go
	// with meetings are packed already, mostly.
	app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool {
		return c.Path() == "/api/live" || strings.HasPrefix(c.Path(), "/busy/") || strings.Contains(c.Path(), "/files/")
	}}))
	app.Get("/healthz", func(ctx fiber.Ctx) error {
		within, cancel := context.WithTimeout(ctx.Context(), 2*time.Second)
		defer cancel()
		if err := c.Healthy(within); err != nil {
			return refuse(fiber.StatusServiceUnavailable, "request.database")
		}
		return ctx.SendString("ok")
	})

	h := &handlers{deeds: c.Deeds, hub: c.Hub, secure: c.Secure, previews: newBounded(previewsAtATime)}
	app.Use("/api", sameOrigin, withinTime)
	app.Post("/api/session", perMinute(c.SignInsPerMinute))
	app.Use("/api/guest", perMinute(c.GuestCallsPerMinute))
	app.Use("/api", h.session, contract.check)
	app.Get("/api/live", h.live)
	api.RegisterHandlers(app, api.NewStrictHandler(h, nil))
	app.Get("/busy/:name", perMinute(c.GuestCallsPerMinute), withinTime, h.busyTimes)
	app.Use("/api", func(fiber.Ctx) error { return schedule.ErrNotFound })
	guests := app.Group("/guest", perMinute(c.GuestCallsPerMinute), sameOrigin, withinTime)
	guests.Get("/:token", func(ctx fiber.Ctx) error { return h.guestView(ctx, c.Files) })
	guests.Post("/:token/answer", h.guestForm)
	guests.Get("/:token/calendar.ics", h.guestCalendar)

	short := app.Group("/m", perMinute(c.GuestCallsPerMinute), sameOrigin, withinTime)
	short.Get("/:code", func(ctx fiber.Ctx) error { return h.addressView(ctx, c.Files) })
	short.Post("/:code/join", h.joinForm)

	app.Use(static.New("", static.Config{FS: c.Files, ModifyResponse: cacheAssets}))
	app.Use(func(ctx fiber.Ctx) error { return view(ctx, c.Files) })
	return app, nil
}

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; " +
	"connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// headers are those of every answer; an answer of another kind replaces its own.
func headers(secure bool) fiber.Handler {
	return func(ctx fiber.Ctx) error {
		for name, value := range map[string]string{
			"Content-Security-Policy": policy, "Referrer-Policy": "same-origin", "X-Content-Type-Options": "nosniff",
			"Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Resource-Policy": "same-origin",
			"Permissions-Policy": "camera=(), microphone=(), geolocation=()",
		} {
			ctx.Set(name, value)
		}
		if secure {
			ctx.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains") // RFC 6797
		}
		if strings.HasPrefix(ctx.Path(), "/guest/") || strings.HasPrefix(ctx.Path(), "/m/") || strings.HasPrefix(ctx.Path(), "/api/") {
			ctx.Set("X-Robots-Tag", "noindex")
		}
		return ctx.Next()
	}
}

// withinTime ends what a request does when it takes too long; a stream has limits
// of its own.
func withinTime(ctx fiber.Ctx) error {
	if ctx.Path() == "/api/live" {
		return ctx.Next()
	}
	within, cancel := context.WithTimeout(ctx.Context(), answerWithin)
	defer cancel()
	ctx.SetContext(within)
	return ctx.Next()
}

// views are the addresses that the interface knows.
var views = regexp.MustCompile(`^/(|weeks|today|new|dispatch|rooms|room/[^/]+|drafts|hours|standing|providers|providers/[^/]+|sign-in|account|sheet/[^/]+|meeting/[^/]+|invitation/[^/]+|guest/[^/]+|m/[^/]+)/?$`)

// view answers with the interface; it says itself that an address leads nowhere.
func view(ctx fiber.Ctx, files fs.FS) error {
	if ctx.Method() != fiber.MethodGet && ctx.Method() != fiber.MethodHead {
		return fiber.ErrMethodNotAllowed
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		return refuse(fiber.StatusServiceUnavailable, "request.notBuilt")
	}
	if !views.MatchString(ctx.Path()) {
		ctx.Status(fiber.StatusNotFound)
	}
	ctx.Set("Cache-Control", "no-cache")
	return ctx.Type("html", "utf-8").Send(index)
}

func cacheAssets(ctx fiber.Ctx) error {
	if strings.HasPrefix(ctx.Path(), "/assets/") { // their names change with their content
		ctx.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	return nil
}

var crossOrigin = http.NewCrossOriginProtection()

// sameOrigin refuses writes that a page of another origin caused.
func sameOrigin(ctx fiber.Ctx) error {
	r := http.Request{Method: ctx.Method(), Host: ctx.Host(), Header: http.Header{}}
	for _, name := range []string{"Origin", "Sec-Fetch-Site"} {
		if v := ctx.Get(name); v != "" {
			r.Header.Set(name, v)
		}
	}
	if err := crossOrigin.Check(&r); err != nil {
		return refuse(fiber.StatusForbidden, "request.otherSite")
	}
	return ctx.Next()
}

func proxyHeader(trusted []string) string {
	if len(trusted) == 0 {
		return "" // anybody could write it
	}
	return "X-Real-IP" // one address, set by the proxy; X-Forwarded-For begins with what the client wrote
}

// perMinute limits how often one address may ask.
func perMinute(most int) fiber.Handler {
	return limiter.New(limiter.Config{Max: most, Expiration: time.Minute,
		LimitReached: func(ctx fiber.Ctx) error {
			noteSecurity("limit reached", "route", ctx.Route().Path)
			return refuse(fiber.StatusTooManyRequests, "request.tooMany")
		}})
}
