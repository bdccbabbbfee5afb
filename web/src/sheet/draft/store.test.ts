import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ProblemError, type Schemas } from "../../api/client";
import { savingOf } from "./reducer";
import { DraftStore, pause } from "./store";

type Draft = Schemas["Draft"];
type Sheet = Schemas["Sheet"];
const draft = (title: string) => ({ title, text: "", people: [], dates: [] }) as unknown as Draft;
const sheet = (version: number, title: string) => ({ id: "s", version, draft: draft(title) }) as Sheet;

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A program that stores, and counts what it was asked. */
function program() {
	const at = { version: 1, asked: [] as string[], fail: null as unknown };
	const put = async (version: number, d: Draft) => {
		at.asked.push(d.title);
		if (at.fail) throw at.fail;
		at.version = version + 1;
		return { id: "s", version: at.version, draft: d } as Sheet;
	};
	return { at, store: new DraftStore(sheet(1, ""), put, () => {}) };
}

test("eleven letters are one save", async () => {
	const { at, store } = program();
	for (const n of [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]) {
		store.change({ title: "Crate sizes".slice(0, n) });
		await vi.advanceTimersByTimeAsync(120);
	}
	await vi.advanceTimersByTimeAsync(pause);
	expect(at.asked).toEqual(["Crate sizes"]);
	expect(savingOf(store.get())).toBe("saved");
});

test("who never pauses is saved all the same", async () => {
	const { at, store } = program();
	for (let n = 0; n < 60; n++) {
		store.change({ title: `${n}` });
		await vi.advanceTimersByTimeAsync(200);
	}
	expect(at.asked.length).toBeGreaterThanOrEqual(2);
	expect(at.asked.length).toBeLessThanOrEqual(4);
});

test("a lost connection is tried again by itself, a refusal is not", async () => {
	const { at, store } = program();
	at.fail = new TypeError("no network");
	store.change({ title: "C" });
	await vi.advanceTimersByTimeAsync(pause);
	expect(savingOf(store.get())).toBe("failed");
	at.fail = null;
	await vi.advanceTimersByTimeAsync(3000);
	expect(savingOf(store.get())).toBe("saved");
	at.fail = new ProblemError({ type: "/problems/invalid", title: "", status: 422 });
	store.change({ title: "D" });
	await vi.advanceTimersByTimeAsync(60_000);
	expect(at.asked.filter((t) => t === "D")).toHaveLength(1);
	expect(store.get().draft.title).toBe("D");
});

test("a link that came meanwhile is no conflict: the save goes on top of it", async () => {
	const { at, store } = program();
	at.fail = new ProblemError({ type: "/problems/sheet-changed", title: "", status: 412, sheet: sheet(4, "") });
	store.change({ title: "C" });
	const saving = store.save();
	at.fail = null;
	expect(await saving).toBe(true);
	expect(at.asked).toEqual(["C", "C"]);
	expect(store.get().version).toBe(5);
});

test("in a conflict nothing is sent until one of both is taken", async () => {
	const { at, store } = program();
	at.fail = new ProblemError({ type: "/problems/sheet-changed", title: "", status: 412, sheet: sheet(4, "Theirs") });
	store.change({ title: "Mine" });
	expect(await store.save()).toBe(false);
	at.fail = null;
	expect(await store.save()).toBe(false);
	store.resolve("mine");
	await vi.advanceTimersByTimeAsync(0);
	expect(at.asked.at(-1)).toBe("Mine");
	expect(savingOf(store.get())).toBe("saved");
});

test("two who wait for a save under way both wait for what was written since", async () => {
	const asked: string[] = [];
	const put = async (version: number, d: Draft) => {
		asked.push(d.title);
		await new Promise((over) => setTimeout(over, 50));
		return { id: "s", version: version + 1, draft: d } as Sheet;
	};
	const store = new DraftStore(sheet(1, ""), put, () => {});
	store.change({ title: "a" });
	void store.save();
	store.change({ title: "ab" });
	const waiting = [store.save(), store.save()].map((s) => s.then((ok) => [ok, savingOf(store.get())]));
	await vi.advanceTimersByTimeAsync(200);
	expect(await Promise.all(waiting)).toEqual([
		[true, "saved"],
		[true, "saved"],
	]);
	expect(asked).toEqual(["a", "ab"]);
});

test("a file that is under way is waited for, and one that did not arrive is told", async () => {
	const { store } = program();
	expect(await store.arrived()).toBe(true);
	let here = () => {};
	store.awaits(new Promise<void>((resolve) => (here = resolve)));
	expect(store.stuck()).toBe(true); // leaving the window would lose it
	const arrived = store.arrived();
	here();
	expect(await arrived).toBe(true);
	expect(store.stuck()).toBe(false);
	store.awaits(Promise.reject(new Error("too large")));
	expect(await store.arrived()).toBe(false);
	await vi.advanceTimersByTimeAsync(0);
	expect(store.stuck()).toBe(false); // it can be sent without it
});
