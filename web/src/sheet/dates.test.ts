import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { within } from "../series/Bracket";
import { lookAt } from "../series/looked";
import { bare, withDate } from "./dates";

test("what a sheet says of one date replaces what it said, in the order of the days", () => {
	const out = { ...bare("2026-12-17"), out: true };
	const moved = { ...bare("2026-12-03"), start: "2026-12-04T09:30", end: "2026-12-04T10:30" };
	const both = withDate(withDate([], out), moved);
	expect(both.map((d) => d.on)).toEqual(["2026-12-03", "2026-12-17"]);
	expect(withDate(both, { ...out, out: false, roomId: "r1" })).toHaveLength(2);
	expect(withDate(both, bare("2026-12-17"))).toEqual([moved]);
});

test("which dates lie under the bracket", () => {
	const cell = (day: string, fixed = false) => ({ day, fixed });
	const some = { from: "2026-12-03", to: "2026-12-17" };
	expect(
		[cell("2026-12-02"), cell("2026-12-03"), cell("2026-12-17"), cell("2026-12-31"), cell("")].map((c) =>
			within(c, some),
		),
	).toEqual([false, true, true, false, false]);
	expect(within(cell("2026-12-10", true), some)).toBe(false);
	// A date that the series has not yet is meant when all that come are.
	expect(within(cell(""), { from: "2026-12-03", to: "" })).toBe(true);
});

test("a series is looked at by one of its dates", () => {
	const date = { on: "2026-12-17", start: "b", end: "c", title: "Other", state: "coming" } as Schemas["SeriesDate"];
	const room = { name: "Map Room", place: "", seats: 8 };
	const series = { next: "2026-12-17", dates: [date] } as Schemas["Series"];
	const meeting = { start: "a", end: "b", title: "Crates", text: "Bring the log", room, series };
	expect(lookAt(meeting, null).shown).toMatchObject({ start: "b", title: "Other", text: "Bring the log" });
	expect(lookAt(meeting, "2026-12-17").shown.room).toBeUndefined();
	expect(lookAt({ ...meeting, series: undefined }, "2026-12-17").shown.start).toBe("a");
});
