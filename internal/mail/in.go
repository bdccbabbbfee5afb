package mail

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // answers come in any charset
	"github.com/emersion/go-smtp"
	"github.com/google/uuid"

	"jembro/internal/ical"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Answers is what the listener needs of the program.
type Answers interface {
	// ReplyTo is whose answers an address takes.
	ReplyTo(address string) (uuid.UUID, error)
	TakeMailReply(ctx context.Context, invited uuid.UUID, r meetings.MailReply) error
}

const (
	messageLimit = 2 << 20 // bytes
	partLimit    = 256 << 10
	depthLimit   = 8
)

// Serve takes mail on l until the server is closed.
func Serve(s *smtp.Server, l net.Listener) error {
	if err := s.Serve(bounded(l)); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
		return err
	}
	return nil
}

type quiet struct{}

func (quiet) Printf(format string, v ...any) { slog.Debug("mail in: " + fmt.Sprintf(format, v...)) }
func (quiet) Println(v ...any)               { slog.Debug("mail in: " + fmt.Sprint(v...)) }

// Data takes the message. What is no answer is taken and dropped: the sender is
// a program that nothing can be explained to, and a refusal would only come
// back to somebody who did not write it.
func (s *session) Data(r io.Reader) (err error) {
	if s.postmaster {
		return s.forward(r)
	}
	defer func() {
		if p := recover(); p != nil {
			slog.Error("mail in: a message broke the reader", "panic", p)
			err = nil
		}
	}()
	answer, err := ReadMessage(r)
	var tooBig *smtp.SMTPError
	if errors.As(err, &tooBig) {
		return err
	}
	if err != nil {
		slog.Info("mail in: dropped", "why", err)
		return nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	for _, id := range s.to {
		err := s.in.Answers.TakeMailReply(ctx, id, answer)
		switch {
		case errors.Is(err, schedule.ErrNotFound), errors.Is(err, schedule.ErrCalledOff), errors.Is(err, meetings.ErrNotYours):
			slog.Info("mail in: an answer without effect", "why", err)
		case err != nil:
			slog.Error("mail in: an answer could not be kept", "error", err)
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Please try again later"}
		}
	}
	return nil
}

// ErrNoReply: a mail without an answer in it.
var ErrNoReply = errors.New("the mail holds no calendar reply")

// ReadMessage finds the calendar reply in a mail (RFC 6047, 2.4), however deep.
// It fails with ErrNoReply, or with what package ical says.
func ReadMessage(r io.Reader) (ical.Answer, error) {
	raw, err := io.ReadAll(io.LimitReader(r, messageLimit+1))
	if err != nil {
		return ical.Answer{}, err
	}
	e, err := message.Read(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) && !message.IsUnknownEncoding(err) {
		return ical.Answer{}, fmt.Errorf("%w: %w", ErrNoReply, err)
	}
	return find(e, 0)
}

func find(e *message.Entity, depth int) (ical.Answer, error) {
	if depth > depthLimit {
		return ical.Answer{}, ErrNoReply
	}
	if parts := e.MultipartReader(); parts != nil {
		for range 50 {
			part, err := parts.NextPart()
			if err != nil && !message.IsUnknownCharset(err) && !message.IsUnknownEncoding(err) {
				break
			}
			if answer, err := find(part, depth+1); err == nil || !errors.Is(err, ErrNoReply) {
				return answer, err
			}
		}
		return ical.Answer{}, ErrNoReply
	}
	kind, _, err := e.Header.ContentType()
	if err != nil || !strings.EqualFold(kind, "text/calendar") && !strings.EqualFold(kind, "application/ics") {
		return ical.Answer{}, ErrNoReply
	}
	body, err := io.ReadAll(io.LimitReader(e.Body, partLimit))
	if err != nil {
		return ical.Answer{}, fmt.Errorf("%w: %w", ErrNoReply, err)
	}
	return ical.ReadReply(body)
}
