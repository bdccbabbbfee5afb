import { describe, expect, it } from "vitest";
import { lookAt } from "./looked";

const once = { start: "2026-12-03T09:30:00Z", end: "2026-12-03T10:30:00Z", title: "Crate sizes", text: "All of them." };
const date = (on: string, change: object = {}) => ({ on, start: `${on}T09:30:00Z`, end: `${on}T10:30:00Z`, ...change });
const series = (dates: object[]) => ({ ...once, series: { next: "2026-12-10", dates } }) as never;

describe("the date of a series that is looked at", () => {
	it("is the one that is asked for, else the next one", () => {
		const all = series([date("2026-12-03"), date("2026-12-10"), date("2026-12-17")]);
		expect(lookAt(all, "2026-12-17").shown).toMatchObject({ start: "2026-12-17T09:30:00Z", title: "Crate sizes" });
		for (const none of [null, "", "2027-01-01"]) expect(lookAt(all, none).date?.on).toBe("2026-12-10");
	});

	it("has its own title and text where it has any, and its own room or none", () => {
		const all = series([date("2026-12-10", { title: "Crate sizes, last", text: "" })]);
		expect(lookAt({ ...(all as object), room: { name: "Map Room" } } as never, null).shown).toMatchObject({
			title: "Crate sizes, last",
			text: "",
			room: undefined,
		});
	});

	it("is the meeting itself where it does not repeat", () => {
		expect(lookAt(once, "2026-12-10")).toEqual({ shown: once });
		expect(lookAt(series([]), null).date).toBeUndefined();
	});
});
