import type { Schemas } from "../api/client";

type Shown = {
	start: string;
	end: string;
	title: string;
	text: string;
	room?: Schemas["MeetingRoom"];
	series?: Schemas["Series"];
};

/** The date of a series that is looked at, or the next one, as if the meeting were that; a meeting that is once as it is. */
export function lookAt<T extends Shown>(meeting: T, on: string | null): { date?: Schemas["SeriesDate"]; shown: T } {
	const dates = meeting.series?.dates ?? [];
	const date = dates.find((d) => d.on === on) ?? dates.find((d) => d.on === meeting.series?.next);
	if (!date) return { shown: meeting };
	const { start, end, title = meeting.title, text = meeting.text, room } = date;
	return { date, shown: { ...meeting, start, end, title, text, room } };
}
