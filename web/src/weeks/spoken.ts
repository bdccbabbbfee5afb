import type { Schemas } from "../api/client";
import { clock, inZone, shortDay, wholeDays } from "../time/format";

/** What the shape of a mark says, for those who do not see it. */
export const spoken = (m: Schemas["WeekMeeting"], zone: string) =>
	`until ${ending(m, zone)}${m.link ? ", with a link" : ""}${m.series ? ", repeats" : ""}${m.private ? ", private" : ""}, ${standingWords[m.standing]}`;

function ending(m: Schemas["WeekMeeting"], zone: string) {
	if (m.allDay) return shortDay(wholeDays(m).last);
	const [start, end] = [inZone(m.start, zone), inZone(m.end, zone)];
	return `${start.toPlainDate().equals(end.toPlainDate()) ? "" : `${shortDay(end.toPlainDate())} `}${clock(end)}`;
}

const standingWords: Record<Schemas["WeekMeeting"]["standing"], string> = {
	mine: "yours",
	broken: "yours, an invitation was not delivered",
	unanswered: "you have not answered",
	accepted: "you accepted",
	maybe: "you answered maybe",
	declined: "you declined",
};
