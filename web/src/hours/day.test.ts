import { expect, test } from "vitest";
import { added, clockOf, moved, stretchesOf, worked, written } from "./day";

const day = stretchesOf([
	{ start: "9:00", end: "12:30" },
	{ start: "13:30", end: "24:00" },
]);

test("a day as it is typed", () => {
	expect(written(day)).toBe("9:00 – 12:30, 13:30 – 24:00");
	expect(worked(day)).toBe(14 * 60);
	expect(clockOf(65)).toBe("1:05");
});

test("an edge stops at the stretch beside it and at its own other edge", () => {
	expect(written(moved(day, 0, "end", 15 * 60))).toBe("9:00 – 13:30, 13:30 – 24:00");
	expect(written(moved(day, 1, "start", 2 * 60))).toBe("9:00 – 12:30, 12:30 – 24:00");
	expect(written(moved(day, 0, "start", 20 * 60))).toBe("12:15 – 12:30, 13:30 – 24:00");
	expect(written(moved(day, 0, "start", 8 * 60 + 4))).toBe("8:00 – 12:30, 13:30 – 24:00");
	expect(moved(day, 5, "end", 0)).toBe(day);
});

test("a stretch that is drawn is cut where others are", () => {
	expect(written(added(day, 6 * 60, 10 * 60))).toBe("6:00 – 9:00, 9:00 – 12:30, 13:30 – 24:00");
	expect(written(added([], 18 * 60, 10 * 60))).toBe("10:00 – 18:00");
	expect(added(day, 10 * 60, 11 * 60)).toBe(day);
	expect(added([], 600, 604)).toEqual([]);
});
