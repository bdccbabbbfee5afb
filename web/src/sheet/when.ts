import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";

type Draft = Schemas["Draft"];

/** What of a draft says when it is. */
export type Times = Pick<Draft, "start" | "end" | "zone">;

/** A local time of the sheet; null while what is typed is none. */
export function readLocal(text: string): Temporal.PlainDateTime | null {
	try {
		return /T\d\d:\d\d$/.test(text) ? Temporal.PlainDateTime.from(text) : null;
	} catch {
		return null;
	}
}

export const writeLocal = (at: Temporal.PlainDateTime) => at.toString({ smallestUnit: "minute" });

export const dayPart = (local: string) => local.slice(0, local.lastIndexOf("T"));
export const clockPart = (local: string) => local.slice(local.lastIndexOf("T") + 1);

/** The times of the sheet, when they make a meeting; how long it takes is a matter of instants, whatever clocks do. */
export function settled(draft: Times) {
	const [start, end] = [readLocal(draft.start), readLocal(draft.end)];
	if (!start || !end) return null;
	const minutes = minutesBetween(start, end, draft.zone);
	return minutes > 0 ? { start, end, minutes } : null;
}

function minutesBetween(start: Temporal.PlainDateTime, end: Temporal.PlainDateTime, zone: string) {
	const [a, b] = [instant(start, zone), instant(end, zone)];
	return a && b
		? (Temporal.Instant.from(b).epochMilliseconds - Temporal.Instant.from(a).epochMilliseconds) / 60_000
		: 0;
}

/** A time of the zone after some minutes have gone by. */
export function later(at: Temporal.PlainDateTime, minutes: number, zone: string) {
	try {
		return at.toZonedDateTime(zone).add({ minutes }).toPlainDateTime();
	} catch {
		return at.add({ minutes });
	}
}

/** Another day, at the same times on the clock. */
export function moveDay(draft: Times, day: Temporal.PlainDate): Partial<Times> {
	const now = settled(draft);
	if (!now) return {};
	const days = now.start.toPlainDate().until(day).days;
	return { start: writeLocal(now.start.add({ days })), end: writeLocal(now.end.add({ days })) };
}

/** A new start takes the end along, so that the length stays. */
export function moveStart(draft: Times, start: Temporal.PlainDateTime): Partial<Times> {
	const minutes = settled(draft)?.minutes ?? 60;
	return { start: writeLocal(start), end: writeLocal(later(start, minutes, draft.zone)) };
}

/** Both ends moved by some minutes. */
export function shift(draft: Times, minutes: number): Partial<Times> {
	const now = settled(draft);
	return now ? moveStart(draft, later(now.start, minutes, draft.zone)) : {};
}

/** The end moved by some minutes; a quarter of an hour stays. */
export function stretch(draft: Times, minutes: number): Partial<Times> {
	const now = settled(draft);
	if (!now || now.minutes + minutes < 15) return {};
	return { end: writeLocal(later(now.end, minutes, draft.zone)) };
}

export function instant(at: Temporal.PlainDateTime, zone: string): string | null {
	try {
		return at.toZonedDateTime(zone).toInstant().toString();
	} catch {
		return null;
	}
}
