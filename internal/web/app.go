// Package web serves the contract, live updates and the interface over HTTP.
package web

import (
	"io/fs"
	"net/http"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/limiter"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"

	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/web/api"
)

// Config says how the program is served.
type Config struct {
	Deeds *deeds.Deeds
	Hub   *Hub
	Files fs.FS // the built interface, with index.html
	// Secure marks cookies for HTTPS only.
	Secure bool
	// SignInsPerMinute and GuestCallsPerMinute are allowed to one address.
	SignInsPerMinute, GuestCallsPerMinute int
	// TrustedProxies are the addresses whose X-Real-IP is believed; the limits
	// count by it then.
	TrustedProxies []string
}

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; " +
	"connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// New makes the application.
func New(c Config) *fiber.App {
	app := fiber.New(fiber.Config{
		AppName:          "jembro",
		Immutable:        true, // values outlive their request
		BodyLimit:        1 << 20,
		ErrorHandler:     problemHandler(c.Deeds),
		ReadTimeout:      30 * time.Second,
		IdleTimeout:      2 * time.Minute,
		TrustProxy:       len(c.TrustedProxies) > 0,
		TrustProxyConfig: fiber.TrustProxyConfig{Proxies: c.TrustedProxies},
		ProxyHeader:      proxyHeader(c.TrustedProxies),
	})
	app.Use(recover.New())
	app.Use(helmet.New(helmet.Config{
		Next:                  func(c fiber.Ctx) bool { return strings.Contains(c.Path(), "/preview/") },
		ContentSecurityPolicy: policy, ReferrerPolicy: "same-origin", XFrameOptions: "DENY",
		CrossOriginEmbedderPolicy: "unsafe-none", CrossOriginOpenerPolicy: "same-origin", CrossOriginResourcePolicy: "same-origin",
	}))
	app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool { return c.Path() == "/api/live" }}))
	app.Use("/api", sameOrigin)
	app.Post("/api/session", perMinute(c.SignInsPerMinute))
	app.Use("/api/guest", perMinute(c.GuestCallsPerMinute))
	app.Get("/healthz", func(ctx fiber.Ctx) error { return ctx.SendString("ok") })

	h := &handlers{deeds: c.Deeds, secure: c.Secure}
	app.Use("/api", h.session)
	app.Get("/api/live", c.Hub.stream)
	api.RegisterHandlers(app, api.NewStrictHandler(h, nil))
	app.Use("/api", func(fiber.Ctx) error { return schedule.ErrNotFound })

	app.Use(static.New("", static.Config{FS: c.Files, ModifyResponse: cacheAssets}))
	app.Use(func(ctx fiber.Ctx) error { // every other address is a view of the interface
		if ctx.Method() != fiber.MethodGet && ctx.Method() != fiber.MethodHead {
			return fiber.ErrMethodNotAllowed
		}
		index, err := fs.ReadFile(c.Files, "index.html")
		if err != nil {
			return fiber.NewError(fiber.StatusServiceUnavailable, "The interface is not built. Run make build.")
		}
		ctx.Set("Cache-Control", "no-cache")
		return ctx.Type("html", "utf-8").Send(index)
	})
	return app
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
		return fiber.NewError(fiber.StatusForbidden, "This request came from another site.")
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
		LimitReached: func(fiber.Ctx) error {
			return fiber.NewError(fiber.StatusTooManyRequests, "Too many tries. Wait a minute and try again.")
		}})
}
