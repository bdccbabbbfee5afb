package web

import "log/slog"

// noteSecurity writes down what happened to sign-ins and limits: never tokens,
// names or addresses.
func noteSecurity(event string, facts ...any) {
	slog.Info("security: "+event, facts...)
}
