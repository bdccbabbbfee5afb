import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { answering, ask, silentAfter } from "./awake";

const request = () => new Request("http://127.0.0.1/api/me");

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});

test("a program that is silent for two seconds is said to be slow, until it answers", async () => {
	let answer: (r: Response) => void = () => {};
	vi.stubGlobal("fetch", () => new Promise<Response>((done) => (answer = done)));
	const seen: string[] = [];
	const stop = answering.subscribe(() => seen.push(answering.get()));
	const asked = ask(request());
	await vi.advanceTimersByTimeAsync(silentAfter - 1);
	expect(answering.get()).toBe("yes");
	await vi.advanceTimersByTimeAsync(1);
	expect(answering.get()).toBe("slow");
	answer(new Response("{}"));
	await asked;
	expect(seen).toEqual(["slow", "yes"]);
	stop();
});

test("a lost connection is noticed at once, and that it is back with the next answer", async () => {
	vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no network")));
	await expect(ask(request())).rejects.toThrow();
	expect(answering.get()).toBe("away");
	vi.stubGlobal("fetch", () => Promise.resolve(new Response("{}")));
	await ask(request());
	expect(answering.get()).toBe("yes");
});

test("what answers in the place of the program is not the program", async () => {
	vi.stubGlobal("fetch", () => Promise.resolve(new Response("", { status: 502 })));
	await ask(request());
	expect(answering.get()).toBe("away");
	vi.stubGlobal("fetch", () => Promise.resolve(new Response("", { status: 404 })));
	await ask(request());
	expect(answering.get()).toBe("yes");
});
