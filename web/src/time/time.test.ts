import { Temporal } from "temporal-polyfill";
import { expect, test } from "vitest";
import { city, dayInRow, length, longDayNear, moment, monday, plainDate, shortDay, times } from "./format";

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
	expect(moment("2025-11-20T14:02:00Z", "Europe/Lisbon", now)).toBe("20 Nov 2025 14:02");
	expect(longDayNear(thursday, thursday)).toBe("Thursday 3 December");
	expect(longDayNear(thursday, Temporal.PlainDate.from("2027-01-01"))).toBe("Thursday 3 December 2026");
});

test("a text says a date or none", () => {
	expect(plainDate("2026-12-03")?.toString()).toBe("2026-12-03");
	for (const text of [null, "", "soon", "2026-02-30", "9999999-01-01"]) expect(plainDate(text)).toBeNull();
});
