import { describe, expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { begin, type Happening, next, same, savingOf, type Writing } from "./reducer";

type Draft = Schemas["Draft"];
const draft = (part: Partial<Draft> = {}) =>
	({
		title: "Crates",
		text: "",
		start: "2026-12-03T09:30",
		end: "2026-12-03T10:30",
		people: [],
		dates: [],
		...part,
	}) as Draft;
const sheet = (version: number, part: Partial<Draft> = {}) =>
	({ id: "s", version, draft: draft(part) }) as Schemas["Sheet"];

/** A state after some happenings. */
const told = (...all: Happening[]) => all.reduce<Writing>(next, begin(sheet(1)));

const wrote = (part: Partial<Draft>): Happening => ({ type: "wrote", part });
const sent: Happening = { type: "sent" };

describe("what is written", () => {
	test("is not saved until it is kept", () => {
		expect(savingOf(told())).toBe("saved");
		expect(savingOf(told(wrote({ title: "C" })))).toBe("unsaved");
		expect(savingOf(told(wrote({ title: "C" }), sent))).toBe("saving");
		const kept = told(wrote({ title: "C" }), sent, { type: "kept", sheet: sheet(2, { title: "C" }) });
		expect(savingOf(kept)).toBe("saved");
		expect(kept.version).toBe(2);
	});
	test("while a save is on its way stays, and is unsaved after it", () => {
		const w = told(wrote({ title: "C" }), sent, wrote({ title: "Cr" }), {
			type: "kept",
			sheet: sheet(2, { title: "C" }),
		});
		expect(w.draft.title).toBe("Cr");
		expect(savingOf(w)).toBe("unsaved");
		expect(w.base.title).toBe("C");
	});
	test("what the program changed along is taken over, and what was written since is not undone", () => {
		const followed = sheet(2, {
			start: "2026-12-04T09:30",
			repeat: { rule: "FREQ=WEEKLY;BYDAY=FR" } as Draft["repeat"],
		});
		const w = told(wrote({ start: "2026-12-04T09:30" }), sent, wrote({ text: "Bring the log" }), {
			type: "kept",
			sheet: followed,
		});
		expect(w.draft.repeat?.rule).toBe("FREQ=WEEKLY;BYDAY=FR");
		expect(w.draft.text).toBe("Bring the log");
	});
	test("what did not change keeps its identity, so that nothing is drawn anew", () => {
		const before = told(wrote({ title: "C" }), sent);
		const w = next(before, { type: "kept", sheet: sheet(2, { title: "C" }) });
		expect(w.draft).toBe(before.draft);
	});
	test("that could not be kept stays and says why", () => {
		const problem = { type: "/problems/offline", title: "", status: 0 };
		const w = told(wrote({ title: "C" }), sent, { type: "refused", problem });
		expect(savingOf(w)).toBe("failed");
		expect(w.dirty).toBe(true);
		expect(savingOf(told(wrote({ title: "C" }), sent, { type: "refused", problem }, sent))).toBe("saving");
	});
});

describe("another window", () => {
	test("stored something else: nothing is overwritten until one of both is taken", () => {
		const theirs = sheet(5, { title: "Theirs" });
		const w = told(wrote({ title: "Mine" }), sent, { type: "overtaken", theirs });
		expect(savingOf(w)).toBe("conflict");
		expect(w.draft.title).toBe("Mine");
		const mine = next(w, { type: "took", whose: "mine" });
		expect([mine.draft.title, mine.version, mine.dirty]).toEqual(["Mine", 5, true]);
		const other = next(w, { type: "took", whose: "theirs" });
		expect([other.draft.title, other.version, savingOf(other)]).toEqual(["Theirs", 5, "saved"]);
	});
	test("while one writes on, a conflict stays one", () => {
		const w = told(
			wrote({ title: "M" }),
			sent,
			{ type: "overtaken", theirs: sheet(5, { title: "T" }) },
			wrote({ title: "Mi" }),
		);
		expect(savingOf(w)).toBe("conflict");
		expect(w.draft.title).toBe("Mi");
	});
	test("only attached a link: what is written goes on top", () => {
		const w = told(wrote({ title: "Mine" }), sent, { type: "overtaken", theirs: sheet(5) });
		expect(savingOf(w)).toBe("unsaved");
		expect(w.version).toBe(5);
	});
	test("saved while nothing is written here: it is taken over", () => {
		expect(told({ type: "read", sheet: sheet(3, { title: "Theirs" }) }).draft.title).toBe("Theirs");
	});
	test("saved while something is written here: that stays, and the next save finds out", () => {
		const w = told(wrote({ title: "Mine" }), { type: "read", sheet: sheet(3, { title: "Theirs" }) });
		expect([w.draft.title, w.version]).toEqual(["Mine", 1]);
	});
	test("an older reading changes nothing", () => {
		const w = told(wrote({ title: "C" }), sent, { type: "kept", sheet: sheet(2, { title: "C" }) });
		expect(next(w, { type: "read", sheet: sheet(1) })).toBe(w);
	});
});

test("two values say the same whatever the order of their fields", () => {
	expect(same({ a: 1, b: [1, { c: 2 }] }, { b: [1, { c: 2 }], a: 1 })).toBe(true);
	expect(same({ a: undefined }, {})).toBe(true);
	expect(same([1, 2], [2, 1])).toBe(false);
	expect(same([], {})).toBe(false);
	expect(same(null, {})).toBe(false);
});
