package web

import (
	"context"
	"io"
	"mime"

	"github.com/gofiber/fiber/v3"

	"jembro/internal/core/attachment"
	"jembro/internal/schedule"
	"jembro/internal/web/api"
)

// AddFile takes a file as it is.
func (h *handlers) AddFile(ctx context.Context, r api.AddFileRequestObject) (api.AddFileResponseObject, error) {
	content, err := io.ReadAll(io.LimitReader(r.Body, attachment.FileLimit+1))
	if err != nil {
		return nil, err
	}
	f, err := h.deeds.Sheets.AddFile(ctx, actor(ctx), r.Params.Name, content)
	return api.AddFile201JSONResponse(toFile(f)), err
}

func (h *handlers) Attachment(ctx context.Context, r api.AttachmentRequestObject) (api.AttachmentResponseObject, error) {
	f, err := h.deeds.Meetings.Attachment(ctx, actor(ctx), r.ID)
	return download(f), err
}

func (h *handlers) GuestAttachment(ctx context.Context, r api.GuestAttachmentRequestObject) (api.GuestAttachmentResponseObject, error) {
	f, err := h.deeds.Meetings.GuestAttachment(ctx, r.Token, r.FileID)
	return download(f), err
}

// download is a file for the browser to keep: it is never shown as a page of this program.
type download schedule.File

func (d download) send(c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, d.Type)
	c.Set(fiber.HeaderContentDisposition, mime.FormatMediaType("attachment", map[string]string{"filename": d.Name}))
	c.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Set("Referrer-Policy", "no-referrer")
	c.Set("Cache-Control", "private, no-store")
	return c.Send(d.Content)
}

func (d download) VisitAttachmentResponse(c fiber.Ctx) error      { return d.send(c) }
func (d download) VisitGuestAttachmentResponse(c fiber.Ctx) error { return d.send(c) }
