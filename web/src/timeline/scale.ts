import type { Temporal } from "temporal-polyfill";
import { clock, inZone, weekday } from "../time/format";
import { t } from "../tongue/tongue";

/** The hours of a day that a row shows, in a zone. */
export type Scale = { day: Temporal.PlainDate; zone: string; from: number; until: number };

/** Hours since the day began, as a clock shows them; outside of the day they are below 0 or above 24. */
export function hourOf(instant: string, day: Temporal.PlainDate, zone: string) {
	const at = inZone(instant, zone);
	return day.until(at.toPlainDate()).days * 24 + at.hour + at.minute / 60;
}

/** Where a stretch lies on the row, as parts of its width; null when it is not on it. */
export function place(start: string, end: string, scale: Scale) {
	const a = Math.max(hourOf(start, scale.day, scale.zone), scale.from);
	const b = Math.min(hourOf(end, scale.day, scale.zone), scale.until);
	if (b <= a) return null;
	const width = scale.until - scale.from;
	return { left: (a - scale.from) / width, width: (b - a) / width };
}

/** The same of something that is on the day but not within the hours shown: it stands at their edge. */
export function placeOrEdge(start: string, end: string, scale: Scale) {
	const on = place(start, end, { ...scale, from: 0, until: 24 });
	if (!on) return null;
	return place(start, end, scale) ?? { left: hourOf(start, scale.day, scale.zone) < scale.from ? 0 : 1, width: 0 };
}

/**
 * What the row of a day says of when something is: "9:30" where it starts on it, "until 2:30" where it ends on it, "from
 * Mon 23:00" on a day in between.
 */
export function rowWords(start: string, end: string, { day, zone }: Pick<Scale, "day" | "zone">) {
	const [a, b] = [inZone(start, zone), inZone(end, zone)];
	if (a.toPlainDate().equals(day)) return clock(a);
	if (hourOf(end, day, zone) <= 24) return t("until %s", b.toPlainDate().equals(day) ? clock(b) : "24:00");
	return t("from %s", `${weekday(a.toPlainDate())} ${clock(a)}`);
}

/** As CSS. */
export const percent = (part: number) => `${(100 * part).toFixed(4)}%`;

/**
 * The hours to show: the usual ones, and more where something begins or ends outside of them. What goes over midnight
 * stretches the day that it starts on only, and not to all of its night.
 */
export function hoursFor(spans: { from: number; until: number }[], usual = { from: 7, until: 19 }) {
	let { from, until } = usual;
	for (const s of spans) {
		if (s.from < 0) continue; // it began the day before: the row says until when
		from = Math.min(from, Math.floor(s.from));
		until = Math.max(until, s.until > 24 ? Math.min(24, Math.ceil(s.from + 1)) : Math.ceil(s.until));
	}
	return { from, until };
}
