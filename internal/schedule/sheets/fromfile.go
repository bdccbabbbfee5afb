package sheets

import (
	"context"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// FromFile opens a sheet for each meeting of a calendar file, with what it can hold.
func (s *Deeds) FromFile(ctx context.Context, who schedule.Actor, all []schedule.Filed) (out []schedule.Sheet, err error) {
	for _, f := range all {
		sheet, err := s.OpenSheet(ctx, who, "", "")
		if err != nil {
			return out, err
		}
		d := f.Draft
		d.Apart, d.Bring, d.Move = sheet.Draft.Apart, sheet.Draft.Bring, sheet.Draft.Move
		if d.Start == "" { // it has no time that could be read
			d.Start, d.End, d.Zone = sheet.Draft.Start, sheet.Draft.End, sheet.Draft.Zone
		}
		if d.People == nil {
			d.People = []meeting.DraftPerson{}
		}
		if sheet, _, err = s.SaveSheet(ctx, who, sheet.ID, sheet.Version, d, ""); err != nil {
			return out, err
		}
		out = append(out, sheet)
	}
	return out, nil
}
