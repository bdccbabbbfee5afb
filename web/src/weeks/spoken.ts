import type { Schemas } from "../api/client";
import { clock, inZone, shortDay, wholeDays } from "../time/format";
import { type Term, t, term } from "../tongue/tongue";

/** What the shape of a mark says, for those who do not see it. */
export const spoken = (m: Schemas["WeekMeeting"], zone: string) =>
	[
		t("until %s", ending(m, zone)),
		m.link && t("with a link"),
		m.series && t("repeats"),
		m.private && t("private"),
		t(standingWords[m.standing]),
	]
		.filter(Boolean)
		.join(", ");

function ending(m: Schemas["WeekMeeting"], zone: string) {
	if (m.allDay) return shortDay(wholeDays(m).last);
	const [start, end] = [inZone(m.start, zone), inZone(m.end, zone)];
	return `${start.toPlainDate().equals(end.toPlainDate()) ? "" : `${shortDay(end.toPlainDate())} `}${clock(end)}`;
}

const standingWords: Record<Schemas["WeekMeeting"]["standing"], Term> = {
	mine: term("yours"),
	broken: term("yours, an invitation was not delivered"),
	unanswered: term("you have not answered"),
	accepted: term("you accepted"),
	maybe: term("you answered maybe"),
	declined: term("you declined"),
};
