import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";

type Draft = Schemas["Draft"];

/** What of a draft says when it is. */
export type Times = Pick<Draft, "start" | "end">;

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

/** The times of the sheet, when they make a meeting. */
export function settled(draft: Times) {
	const [start, end] = [readLocal(draft.start), readLocal(draft.end)];
	if (!start || !end || Temporal.PlainDateTime.compare(start, end) >= 0) return null;
	return { start, end, minutes: start.until(end, { largestUnit: "minutes" }).minutes };
}

/** A new start takes the end along, so that the length stays. */
export function moveStart(draft: Times, start: string): Partial<Times> {
	const [before, after] = [settled(draft), readLocal(start)];
	if (!before || !after) return { start };
	return { start, end: writeLocal(after.add({ minutes: before.minutes })) };
}

/** Both ends moved by some minutes. */
export function shift(draft: Times, minutes: number): Partial<Times> {
	const now = settled(draft);
	if (!now) return {};
	return { start: writeLocal(now.start.add({ minutes })), end: writeLocal(now.end.add({ minutes })) };
}

/** The end moved by some minutes; a quarter of an hour stays. */
export function stretch(draft: Times, minutes: number): Partial<Times> {
	const now = settled(draft);
	if (!now || now.minutes + minutes < 15) return {};
	return { end: writeLocal(now.end.add({ minutes })) };
}

export function instant(at: Temporal.PlainDateTime, zone: string): string | null {
	try {
		return at.toZonedDateTime(zone).toInstant().toString();
	} catch {
		return null;
	}
}
