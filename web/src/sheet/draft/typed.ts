import type { Schemas } from "../../api/client";
import { thisWindow } from "../../api/window";

export type Typed = Schemas["DraftTyped"];

const sameEntry = (a: Typed, b: Typed) => a.field === b.field && a.text === b.text;
const has = (all: Typed[], t: Typed) => all.some((x) => sameEntry(x, t));

/** What is typed into a field, null where nothing is. */
export const typedIn = (typed: Typed[] | undefined, field: string) =>
	typed?.find((t) => t.field === field)?.text ?? null;

/** The list with what is typed into one field; null takes it off. */
export const withTyped = (typed: Typed[] | undefined, field: string, text: string | null): Typed[] => [
	...(typed ?? []).filter((t) => t.field !== field),
	...(text === null ? [] : [{ field, text, window: thisWindow }]),
];

/**
 * What stands in the fields after a save: what the program read is gone, what it could not read or has to ask about is
 * there, and what was typed or taken off since it was sent is as it is here.
 */
export function mergedTyped(stored: Typed[] = [], sent: Typed[] = [], now: Typed[] = []): Typed[] {
	const since = now.filter((t) => !has(sent, t));
	const gone = sent.filter((t) => !has(now, t));
	return [
		...stored.filter((t) => !has(gone, t) && !since.some((s) => s.field === t.field && s.field !== "unclear")),
		...since.filter((t) => !has(stored, t)),
	];
}
