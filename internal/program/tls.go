package program

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/httputil"
	"net/url"
	"time"
)

// The web server speaks HTTP/1.1; a browser keeps six such connections to a host at the
// most. Front ends TLS before it and speaks HTTP/2 (RFC 9113), where everything a browser
// asks shares one connection, however many windows are open.

// Front is what ends TLS.
type Front struct {
	Listener net.Listener
	server   *http.Server
}

// ServeTLS ends TLS on l and hands what comes to the web server at inner, an address of
// this machine, with the address of the client in X-Real-IP. Report hears of a listener
// that ended by itself.
func ServeTLS(l net.Listener, cert tls.Certificate, inner string, report func(error)) *Front {
	to := &url.URL{Scheme: "http", Host: inner}
	proxy := &httputil.ReverseProxy{
		FlushInterval: -1, // the stream of notices is told at once
		Rewrite: func(r *httputil.ProxyRequest) {
			r.SetURL(to)
			r.Out.Host = r.In.Host
			client, _, err := net.SplitHostPort(r.In.RemoteAddr)
			if r.Out.Header.Del("X-Real-IP"); err == nil {
				r.Out.Header.Set("X-Real-IP", client)
			}
		},
		// The web server closes what is idle; a write that met a closed connection would be
		// refused, though nothing is wrong.
		Transport: &http.Transport{IdleConnTimeout: time.Minute, MaxIdleConnsPerHost: 64, DisableCompression: true},
		ErrorHandler: func(w http.ResponseWriter, r *http.Request, err error) {
			if !errors.Is(err, context.Canceled) {
				slog.Warn("the web server does not answer", "error", err)
			}
			w.WriteHeader(http.StatusBadGateway)
		},
	}
	f := &Front{Listener: l, server: &http.Server{Handler: proxy, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		TLSConfig: &tls.Config{Certificates: []tls.Certificate{cert}, MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}},
		ErrorLog:  slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug)}}
	go func() {
		if err := f.server.ServeTLS(l, "", ""); !errors.Is(err, http.ErrServerClosed) {
			report(err)
		}
	}()
	return f
}

// Stop lets what is asked be answered until ctx ends.
func (f *Front) Stop(ctx context.Context) error {
	if err := f.server.Shutdown(ctx); err != nil {
		return f.server.Close()
	}
	return nil
}

// certificate reads the files that the environment names; ok is false where it names
// none.
func (c Config) certificate() (cert tls.Certificate, ok bool, err error) {
	if c.TLSCert == "" && c.TLSKey == "" {
		return cert, false, nil
	}
	cert, err = tls.LoadX509KeyPair(c.TLSCert, c.TLSKey)
	if err != nil {
		err = fmt.Errorf("JEMBRO_TLS_CERT, JEMBRO_TLS_KEY: %w", err)
	}
	return cert, true, err
}
