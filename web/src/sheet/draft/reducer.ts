import type { Problem, Schemas } from "../../api/client";
import { mergedTyped } from "./typed";

type Sheet = Schemas["Sheet"];
export type Draft = Schemas["Draft"];

export type Saving = "saved" | "unsaved" | "saving" | "failed" | "conflict";

/**
 * What is being written on a sheet, and how far it is kept. `base` is the draft as it is stored under `version`, `sent`
 * what is on its way, `dirty` whether anything was written that is neither. After a conflict `theirs` is what another
 * window stored, until one of both is taken.
 */
export type Writing = {
	draft: Draft;
	base: Draft;
	version: number;
	dirty: boolean;
	sent: Draft | null;
	theirs: Sheet | null;
	problem: Problem | null;
};

export type Happening =
	/** Something was written. */
	| { type: "wrote"; part: Partial<Draft> }
	/** What is written is on its way. */
	| { type: "sent" }
	/** It was kept. */
	| { type: "kept"; sheet: Sheet }
	/** Another window had stored something else under a newer version. */
	| { type: "overtaken"; theirs: Sheet }
	/** It could not be kept. */
	| { type: "refused"; problem: Problem }
	/** The sheet was read, or another deed answered with it. */
	| { type: "read"; sheet: Sheet }
	/** One of both was taken after a conflict. */
	| { type: "took"; whose: "mine" | "theirs" };

export const begin = (sheet: Sheet): Writing => ({
	draft: sheet.draft,
	base: sheet.draft,
	version: sheet.version,
	dirty: false,
	sent: null,
	theirs: null,
	problem: null,
});

export function savingOf(w: Writing): Saving {
	if (w.theirs) return "conflict";
	if (w.sent) return "saving";
	if (w.problem) return "failed";
	return w.dirty ? "unsaved" : "saved";
}

/** The next state; pure. */
export function next(w: Writing, h: Happening): Writing {
	switch (h.type) {
		case "wrote":
			return { ...w, draft: { ...w.draft, ...h.part }, dirty: true };
		case "sent":
			return { ...w, sent: w.draft, dirty: false };
		case "kept":
			return {
				...w,
				// What the program changed itself, a rule that follows its first day, is taken over where nothing newer was written.
				draft: w.sent ? rebased(h.sheet.draft, w.sent, w.draft) : w.draft,
				base: h.sheet.draft,
				version: h.sheet.version,
				sent: null,
				problem: null,
			};
		case "overtaken":
			// Only a link came or went meanwhile, or what is there is this window's own save whose answer was lost: what
			// is written here goes on top of that.
			if (same(h.theirs.draft, w.base) || (w.sent && same(h.theirs.draft, w.sent)))
				return { ...w, base: h.theirs.draft, version: h.theirs.version, sent: null, dirty: true };
			return { ...w, sent: null, dirty: true, theirs: h.theirs };
		case "refused":
			return { ...w, sent: null, dirty: true, problem: h.problem };
		case "read":
			if (h.sheet.version <= w.version) return w;
			if (w.dirty || w.sent || w.theirs) return same(h.sheet.draft, w.base) ? { ...w, version: h.sheet.version } : w;
			return {
				...w,
				draft: same(h.sheet.draft, w.draft) ? w.draft : h.sheet.draft,
				base: h.sheet.draft,
				version: h.sheet.version,
			};
		case "took": {
			if (!w.theirs) return w;
			const { version, draft } = w.theirs;
			const taken = { ...w, theirs: null, base: draft, version, problem: null };
			return h.whose === "theirs" ? { ...taken, draft, dirty: false } : { ...taken, dirty: true };
		}
	}
}

/** The stored draft with the fields that were written since it was sent. */
function rebased(stored: Draft, sent: Draft, now: Draft): Draft {
	if (same(stored, now)) return now;
	const out = { ...stored } as Record<string, unknown>;
	for (const name of new Set([...Object.keys(sent), ...Object.keys(now)]) as Set<keyof Draft>) {
		if (name === "typed") {
			const typed = mergedTyped(stored.typed, sent.typed, now.typed);
			out.typed = typed.length > 0 ? typed : undefined;
		} else if (!same(sent[name], now[name])) out[name] = now[name];
		else if (same(stored[name], now[name])) out[name] = now[name]; // the same object: nothing is drawn anew
	}
	return out as Draft;
}

/** Whether two values of a draft say the same; the order of fields does not matter. */
export function same(a: unknown, b: unknown): boolean {
	if (a === b) return true;
	if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
	const names = new Set([...Object.keys(a), ...Object.keys(b)]);
	const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>];
	return Array.isArray(a) === Array.isArray(b) && [...names].every((n) => same(x[n], y[n]));
}
