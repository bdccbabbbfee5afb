import { Temporal } from "temporal-polyfill";
import { describe, expect, test } from "vitest";
import { monthChoices, ordinal, phrases, readRule, withUnit, writeRule } from "./rule";

const day = (text: string) => Temporal.PlainDate.from(text);
const thursday = day("2026-12-03");

describe("a rule that the sentence says is written as it is read", () => {
	test.each([
		"FREQ=DAILY",
		"FREQ=WEEKLY;INTERVAL=2;BYDAY=TH",
		"FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR",
		"FREQ=MONTHLY;BYMONTHDAY=-1",
		"FREQ=MONTHLY;INTERVAL=3;BYDAY=1TH",
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
		"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=3",
	])("%s", (rule) => expect(writeRule(readRule(rule) ?? { unit: "DAILY", every: 99, days: [], on: "" })).toBe(rule));

	test.each(["FREQ=YEARLY;BYWEEKNO=20", "FREQ=WEEKLY;BYMONTH=3", "every blue moon", "FREQ=HOURLY", ""])(
		"%s is an own rule",
		(rule) => expect(readRule(rule)).toBeNull(),
	);
});

test("what people mostly mean, for a start", () => {
	expect(phrases(thursday).map(([, words]) => words)).toEqual([
		"every Thursday",
		"every 2nd Thursday",
		"every working day",
		"the 1st Thursday of a month",
		"the last day of a month",
		"the last working day of a month",
		"every year",
	]);
	expect(phrases(day("2026-12-31"))[3]).toEqual(["FREQ=MONTHLY;BYDAY=-1TH", "the last Thursday of a month"]);
	for (const [rule] of phrases(thursday)) expect(readRule(rule)).not.toBeNull();
});

test("what a month can be named by keeps what the rule names", () => {
	expect(monthChoices(thursday, "BYDAY=2FR")[0]).toEqual(["BYDAY=2FR", "the 2nd Friday"]);
	expect(monthChoices(thursday).map(([, words]) => words)).toContain("the 3rd");
});

test("another unit takes what goes with the start", () => {
	const weekly = { unit: "WEEKLY" as const, every: 2, days: ["TH" as const], on: "" };
	expect(writeRule(withUnit(weekly, "MONTHLY", thursday))).toBe("FREQ=MONTHLY;INTERVAL=2;BYDAY=1TH");
	expect(writeRule(withUnit(weekly, "DAILY", thursday))).toBe("FREQ=DAILY;INTERVAL=2");
	expect(writeRule(withUnit(weekly, "YEARLY", thursday))).toBe("FREQ=YEARLY;INTERVAL=2;BYMONTH=12;BYMONTHDAY=3");
});

test("ordinals", () => {
	expect([1, 2, 3, 4, 11, 12, 13, 21, 22].map(ordinal)).toEqual([
		"1st",
		"2nd",
		"3rd",
		"4th",
		"11th",
		"12th",
		"13th",
		"21st",
		"22nd",
	]);
});
