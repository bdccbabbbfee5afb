import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { presses, text } from "../test/drawn";
import { DayList } from "./DayList";
import type { TodayItem } from "./deeds";

const item = (change: Partial<TodayItem>): TodayItem => ({
	start: "2026-11-24T10:30:00Z",
	end: "2026-11-24T11:30:00Z",
	title: "Crate sizes, loan 14",
	meetingId: "m",
	on: "2026-11-24",
	standing: "mine",
	people: 5,
	coming: 3,
	missing: [],
	noRoom: false,
	reminders: [],
	...change,
});
const day = (items: TodayItem[], more: Partial<Schemas["Today"]> = {}) =>
	({ items, clear: [], wholeDay: [], ...more }) as unknown as Schemas["Today"];
const row = (change: Partial<TodayItem>) => text(<DayList today={day([item(change)])} />);

describe("the day from top to bottom", () => {
	it("says how long it is until the next one", () => {
		expect(row({})).toContain("Crate sizes, loan 14 in 18 min");
		expect(row({ start: "2026-11-24T10:12:00Z" })).toContain("Crate sizes, loan 14 now");
		expect(row({ start: "2026-11-24T13:12:00Z", end: "2026-11-24T14:12:00Z" })).toContain("loan 14 in 3 h");
	});

	it.each<[string, Partial<TodayItem>, string]>([
		["one's own: who comes", {}, "1 h · 3 of 5 come"],
		["one's own, alone", { people: 0 }, "1 h"],
		["accepted", { standing: "accepted", organiser: "Tomé Akande" }, "1 h · from Tomé Akande · accepted"],
		["maybe", { standing: "maybe" }, "1 h · maybe"],
		["not answered", { standing: "unanswered" }, "1 h · not answered"],
		["in a room, with a call", { room: "Map Room", provider: "Kestle" }, "1 h · Map Room · Kestle · 3 of 5 come"],
	])("%s", (_, change, says) => {
		expect(row(change)).toContain(says);
	});

	it("names three of those missing, and counts the others", () => {
		expect(row({ missing: ["Rui Calado"] })).toContain("missing: Rui Calado");
		expect(row({ missing: ["A", "B", "C", "D", "E"] })).toContain("missing: A, B, C and 2 more");
		expect(row({ noRoom: true })).toContain("has no room");
	});

	it("asks nothing of what is over", () => {
		const over = row({ start: "2026-11-24T08:00:00Z", end: "2026-11-24T09:00:00Z", missing: ["Rui Calado"] });
		expect(over).toContain("over");
		expect(over).not.toContain("missing");
	});

	it("offers the call of the next one only", () => {
		const join = { join: "https://call.example/1", card: "Join: https://call.example/1" };
		const later = { ...join, start: "2026-11-24T15:00:00Z", end: "2026-11-24T16:00:00Z" };
		const calls = (items: TodayItem[]) =>
			presses(<DayList today={day(items)} />).filter((words) => words === "Join" || words === "Copy card");
		expect(calls([item(join), item(later)])).toEqual(["Join", "Copy card"]);
		expect(calls([item({ ...join, standing: "declined" })])).toEqual([]);
		expect(calls([item({})])).toEqual([]);
	});

	it("stands in order with what is clear, counted from now", () => {
		const clear = [{ start: "2026-11-24T09:00:00Z", end: "2026-11-24T10:30:00Z" }];
		expect(text(<DayList today={day([item({})], { clear })} />)).toMatch(/^18 min clear10:30Crate sizes/);
	});

	it("names what others keep to themselves as busy", () => {
		expect(row({ meetingId: undefined, title: "", standing: undefined })).toContain("In another calendar");
	});
});
