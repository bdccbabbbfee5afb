import { Temporal } from "temporal-polyfill";
import { describe, expect, test } from "vitest";
import { type Item, pack } from "./lanes";
import { hourOf, hoursFor, place } from "./scale";

const day = Temporal.PlainDate.from("2026-12-03");
const scale = { day, zone: "Europe/Lisbon", from: 8, until: 18 };

describe("place", () => {
	test("inside", () => {
		const at = place("2026-12-03T09:00:00Z", "2026-12-03T10:00:00Z", scale);
		expect(at?.left).toBeCloseTo(0.1);
		expect(at?.width).toBeCloseTo(0.1);
	});
	test("cut at the edges", () => {
		expect(place("2026-12-03T05:00:00Z", "2026-12-03T23:00:00Z", scale)).toEqual({ left: 0, width: 1 });
	});
	test("not on the row", () => expect(place("2026-12-03T18:00:00Z", "2026-12-03T19:00:00Z", scale)).toBeNull());
	test("another day", () => expect(hourOf("2026-12-04T01:30:00Z", day, "Europe/Lisbon")).toBe(25.5));
});

test("the row grows to hold early and late meetings", () => {
	expect(hoursFor([])).toEqual({ from: 7, until: 19 });
	expect(
		hoursFor([
			{ from: 5.5, until: 6 },
			{ from: 20, until: 21.25 },
		]),
	).toEqual({ from: 5, until: 22 });
});

describe("pack", () => {
	const overlap = (a: [number, number], b: [number, number]) => a[0] < b[1] && b[0] < a[1];
	test("words and bars never touch, whatever the items", () => {
		let seed = 7;
		const next = (n: number) => {
			seed = (seed * 1103515245 + 12345) % 2147483648;
			return seed % n;
		};
		for (let round = 0; round < 300; round++) {
			const row = 800;
			const items: Item[] = Array.from({ length: next(12) }, () => ({
				left: next(780),
				width: 10 + next(200),
				words: 40 + next(300),
			}));
			const { packed, lanes } = pack(items, row);
			const extent = (i: number): [number, number] => {
				const [item, p] = [items[i] as Item, packed[i] ?? { lane: 0, shift: 0 }];
				return [item.left - p.shift, Math.max(item.left + item.width, item.left - p.shift + item.words)];
			};
			for (let i = 0; i < items.length; i++) {
				expect(packed[i]?.lane).toBeLessThan(lanes);
				expect(extent(i)[0]).toBeGreaterThanOrEqual(0);
				const item = items[i] as Item;
				expect(item.left - (packed[i]?.shift ?? 0) + item.words).toBeLessThanOrEqual(row + 0.001);
				for (let j = 0; j < i; j++)
					if (packed[i]?.lane === packed[j]?.lane) expect(overlap(extent(i), extent(j))).toBe(false);
			}
		}
	});
	test("what has room beside each other shares a lane", () => {
		expect(
			pack(
				[
					{ left: 0, width: 50, words: 60 },
					{ left: 100, width: 50, words: 60 },
				],
				800,
			).lanes,
		).toBe(1);
	});
});
