import { Temporal } from "temporal-polyfill";
import { describe, expect, test } from "vitest";
import { city, dayInRow, length, moment, monday, shortDay, times } from "./format";
import { parseClock, parseDay } from "./parse";

describe("a time as people type it", () => {
	test.each([
		["9", "09:00"],
		["930", "09:30"],
		["0930", "09:30"],
		["9:30", "09:30"],
		["9.30", "09:30"],
		["9h30", "09:30"],
		["14 h", "14:00"],
		[" 23:59 ", "23:59"],
	])("%s", (typed, want) => expect(parseClock(typed)).toBe(want));

	test.each(["", "24:00", "9:60", "half past", "9:3", "12345", "-1"])("%s is none", (typed) => {
		expect(parseClock(typed)).toBeNull();
	});
});

describe("a day as people type it", () => {
	const today = Temporal.PlainDate.from("2026-11-24"); // a Tuesday
	test.each([
		["3 dec", "2026-12-03"],
		["Thu 3 Dec", "2026-12-03"],
		["3 December 2027", "2027-12-03"],
		["3.12.", "2026-12-03"],
		["3/12/2026", "2026-12-03"],
		["2026-12-03", "2026-12-03"],
		["23 nov", "2027-11-23"],
		["24 Nov", "2026-11-24"],
		["thu", "2026-11-26"],
		["Tuesday", "2026-11-24"],
		["mon", "2026-11-30"],
		["tomorrow", "2026-11-25"],
		["29.2.2028", "2028-02-29"],
	])("%s", (typed, want) => expect(parseDay(typed, today)?.toString()).toBe(want));
	test.each(["", "31.2.", "3 foo", "12", "30/2/2028", "soon"])("%s is none", (typed) => {
		expect(parseDay(typed, today)).toBeNull();
	});
});

test("times name the day where the end is on another one", () => {
	expect(times("2026-12-03T09:30:00Z", "2026-12-03T10:30:00Z", "Europe/Lisbon")).toBe("9:30 – 10:30");
	expect(times("2026-12-03T14:30:00Z", "2026-12-03T15:30:00Z", "Asia/Tokyo")).toBe("23:30 – Fri 4 Dec 0:30");
});

test("lengths", () => {
	expect([30, 60, 90, 255].map(length)).toEqual(["30 min", "1 h", "1 h 30", "4 h 15"]);
});

test("days and zones", () => {
	const thursday = Temporal.PlainDate.from("2026-12-03");
	expect(shortDay(thursday)).toBe("Thu 3 Dec");
	expect(dayInRow(Temporal.PlainDate.from("2027-01-07"), thursday)).toBe("7 Jan");
	expect(dayInRow(Temporal.PlainDate.from("2027-12-02"), thursday)).toBe("2 Dec 2027");
	expect(monday(thursday).toString()).toBe("2026-11-30");
	expect(monday(Temporal.PlainDate.from("2026-11-30")).toString()).toBe("2026-11-30");
	expect(city("America/Sao_Paulo")).toBe("Sao Paulo");
	const now = Temporal.Instant.from("2026-11-24T10:12:00Z");
	expect(moment("2026-11-24T09:40:00Z", "Europe/Lisbon", now)).toBe("today 9:40");
	expect(moment("2026-11-20T14:02:00Z", "Europe/Lisbon", now)).toBe("20 Nov 14:02");
});
