import { Temporal } from "temporal-polyfill";
import { expect, test } from "vitest";
import { hoursFor, placeOrEdge, rowWords, type Scale } from "./scale";

const zone = "Europe/Lisbon";
const day = (text: string) => Temporal.PlainDate.from(text);
const scale = (text: string): Scale => ({ day: day(text), zone, from: 7, until: 19 });
const night = ["2026-12-07T23:00:00Z", "2026-12-08T02:30:00Z"] as const; // Monday to Tuesday
const fair = ["2026-12-07T15:00:00Z", "2026-12-10T00:00:00Z"] as const; // Monday to the midnight after Wednesday

test("a row says from when and until when what goes over midnight is", () => {
	const words = (span: readonly [string, string], on: string) => rowWords(span[0], span[1], { day: day(on), zone });
	expect(words(night, "2026-12-07")).toBe("23:00");
	expect(words(night, "2026-12-08")).toBe("until 2:30");
	expect(words(fair, "2026-12-07")).toBe("15:00");
	expect(words(fair, "2026-12-08")).toBe("from Mon 15:00");
	expect(words(fair, "2026-12-09")).toBe("until 24:00");
});

test("the hours grow only where something begins or ends", () => {
	expect(hoursFor([])).toEqual({ from: 7, until: 19 });
	expect(hoursFor([{ from: 6.5, until: 8 }])).toEqual({ from: 6, until: 19 });
	expect(
		hoursFor([
			{ from: 23, until: 26.5 },
			{ from: -1, until: 2.5 },
		]),
	).toEqual({ from: 7, until: 24 });
	expect(
		hoursFor([
			{ from: 15, until: 57 },
			{ from: -9, until: 33 },
			{ from: -33, until: 9 },
		]),
	).toEqual({ from: 7, until: 19 });
});

test("what is on the day outside of the hours shown stands at their edge", () => {
	expect(placeOrEdge(...night, scale("2026-12-08"))).toEqual({ left: 0, width: 0 });
	expect(placeOrEdge(...night, scale("2026-12-07"))).toEqual({ left: 1, width: 0 });
	expect(placeOrEdge(...night, scale("2026-12-09"))).toBeNull();
	expect(placeOrEdge(...fair, scale("2026-12-08"))).toEqual({ left: 0, width: 1 });
});
