import { Temporal } from "temporal-polyfill";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { text } from "../test/drawn";
import { age } from "./age";
import { Calendars } from "./Calendars";

type Calendar = Schemas["HoursPage"]["calendars"][number];

const calendar = (change: Partial<Calendar>): Calendar =>
	({
		id: "c",
		name: "Lessons",
		host: "lessons.example",
		counts: true,
		file: false,
		empty: false,
		entries: 12,
		unread: 0,
		addedAt: "2026-11-20T10:00:00Z",
		readAt: "2026-11-24T10:08:00Z",
		...change,
	}) as Calendar;
const list = (change: Partial<Calendar>) =>
	text(<Calendars page={{ calendars: [calendar(change)] } as unknown as Schemas["HoursPage"]} />);

describe("a calendar kept elsewhere", () => {
	it("says where it is kept, how much is in it and how old that is", () => {
		expect(list({})).toContain("lessons.example · 12 entries4 min old");
		expect(list({ entries: 1, unread: 2 })).toContain("1 entry, 2 not readable");
		expect(list({ file: true })).toContain("file of 20 Nov 10:00 · 12 entries");
	});

	it("says since when it cannot be read, why, and that what was known counts", () => {
		const failing = { failingSince: "2026-11-24T09:00:00Z", problem: "Nothing is there any more (404)." };
		expect(list(failing)).toContain(
			"Not read since today 9:00. Nothing is there any more (404). What was known until then counts.",
		);
		expect(list({ ...failing, readAt: undefined })).not.toContain("What was known");
	});

	it("says whether it makes anybody busy", () => {
		expect(list({})).toContain("counts");
		expect(list({ counts: false })).toContain("shown only");
	});
});

it("says how long ago something was", () => {
	const now = Temporal.Instant.from("2026-11-24T10:12:00Z");
	const ages = [
		"2026-11-24T10:11:50Z",
		"2026-11-24T09:13:00Z",
		"2026-11-24T09:12:00Z",
		"2026-11-22T10:13:00Z",
		"2026-11-22T10:12:00Z",
	];
	expect(ages.map((at) => age(at, now))).toEqual(["1 min", "59 min", "1 h", "47 h", "2 days"]);
});
