import type { Temporal } from "temporal-polyfill";
import { inZone } from "../time/format";

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

/** As CSS. */
export const percent = (part: number) => `${(100 * part).toFixed(4)}%`;

/** The hours to show so that everything given is on the row, at least the usual ones. */
export function hoursFor(spans: { from: number; until: number }[], usual = { from: 7, until: 19 }) {
	let { from, until } = usual;
	for (const s of spans) {
		from = Math.min(from, Math.max(0, Math.floor(s.from)));
		until = Math.max(until, Math.min(24, Math.ceil(s.until)));
	}
	return { from, until };
}
