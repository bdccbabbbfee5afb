package web

import (
	"context"

	"jembro/internal/web/api"
)

func (h *handlers) FindPeople(ctx context.Context, r api.FindPeopleRequestObject) (api.FindPeopleResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Directory.FindPeople(ctx, actor(ctx), r.Params.Q, p)
	shown, more := cut(found, p)
	return api.FindPeople200JSONResponse{More: more, Items: each(shown, toEntry)}, err
}
