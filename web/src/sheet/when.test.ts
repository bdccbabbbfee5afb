import { Temporal } from "temporal-polyfill";
import { expect, test } from "vitest";
import { moveDay, moveStart, settled, shift, stretch } from "./when";

const draft = (start: string, end: string) => ({ start, end, zone: "Europe/Lisbon" });
const at = (text: string) => Temporal.PlainDateTime.from(text);
const morning = draft("2026-12-03T09:30", "2026-12-03T10:30");

test("a new start keeps the length, also over midnight", () => {
	expect(moveStart(morning, at("2026-12-04T23:45"))).toEqual({ start: "2026-12-04T23:45", end: "2026-12-05T00:45" });
});

test("a new day keeps both times", () => {
	const night = draft("2026-12-03T23:00", "2026-12-04T00:30");
	expect(moveDay(night, Temporal.PlainDate.from("2026-12-10"))).toEqual({
		start: "2026-12-10T23:00",
		end: "2026-12-11T00:30",
	});
});

test("both ends move, and a quarter of an hour stays", () => {
	expect(shift(morning, -15)).toEqual({ start: "2026-12-03T09:15", end: "2026-12-03T10:15" });
	expect(stretch(morning, -30)).toEqual({ end: "2026-12-03T10:00" });
	expect(stretch(morning, -50)).toEqual({});
});

test("what ends before it starts is no meeting yet", () => {
	expect(settled(draft("2026-12-03T09:30", "2026-12-03T09:00"))).toBeNull();
	expect(settled(draft("2026-12-03Tnine", "2026-12-03T10:30"))).toBeNull();
	expect(settled(morning)?.minutes).toBe(60);
});

test("on the nights of a clock change lengths are of instants", () => {
	const spring = draft("2027-03-28T00:30", "2027-03-28T02:30");
	const autumn = draft("2027-10-31T00:30", "2027-10-31T02:30");
	expect(settled(spring)?.minutes).toBe(60);
	expect(settled(autumn)?.minutes).toBe(180);
	expect(shift(draft("2027-03-28T00:45", "2027-03-28T02:15"), 15)).toEqual({
		start: "2027-03-28T02:00",
		end: "2027-03-28T02:30",
	});
	expect(stretch(draft("2027-03-28T00:30", "2027-03-28T00:45"), 30)).toEqual({ end: "2027-03-28T02:15" });
});
