import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { moveStart, settled, shift, stretch } from "./when";

const draft = (start: string, end: string) => ({ start, end }) as Schemas["Draft"];
const morning = draft("2026-12-03T09:30", "2026-12-03T10:30");

test("a new start keeps the length", () => {
	expect(moveStart(morning, "2026-12-04T23:45")).toEqual({ start: "2026-12-04T23:45", end: "2026-12-05T00:45" });
});
test("what is no time yet is kept as it is typed", () => {
	expect(moveStart(morning, "2026-12-03Tnine")).toEqual({ start: "2026-12-03Tnine" });
	expect(settled(draft("2026-12-03Tnine", "2026-12-03T10:30"))).toBeNull();
});
test("moving by quarters", () => {
	expect(shift(morning, -15)).toEqual({ start: "2026-12-03T09:15", end: "2026-12-03T10:15" });
	expect(stretch(morning, 15)).toEqual({ end: "2026-12-03T10:45" });
	expect(stretch(draft("2026-12-03T09:30", "2026-12-03T09:45"), -15)).toEqual({});
});
test("an end before the start is not settled", () => {
	expect(settled(draft("2026-12-03T09:30", "2026-12-03T09:00"))).toBeNull();
	expect(settled(morning)?.minutes).toBe(60);
});
