import { describe, expect, it } from "vitest";
import { markup, presses, text } from "../test/drawn";
import { sentLine as line } from "../test/sent";
import type { SentMeeting } from "./deeds";
import { SentCard } from "./SentCard";

const sent = (change: Partial<SentMeeting>): SentMeeting => ({
	id: "m",
	title: "Crate sizes, loan 14",
	words: "Tue 24 Nov, 10:30 – 11:30",
	organiser: "Ilse Marrant",
	mine: true,
	calledOff: false,
	all: 1,
	reached: 1,
	lines: [line({})],
	...change,
});
const card = (change: Partial<SentMeeting>, chosen = "") => (
	<SentCard sent={sent(change)} chosen={chosen} onChoose={() => {}} />
);
const lost = line({
	stage: "none",
	trouble: "refused",
	code: "5.7.1",
	broke: true,
	lost: true,
	troubled: true,
	reached: false,
});

describe("what went out about one meeting", () => {
	it("is folded once everybody was reached, unless one of them is looked at", () => {
		expect(markup(card({}))).not.toContain("<details open");
		expect(markup(card({}, "l"))).toContain("<details open");
		expect(markup(card({ reached: 0, lines: [lost] }))).toContain("<details open");
	});

	it("counts who was reached", () => {
		expect(text(card({}))).toContain("all reached");
		expect(text(card({ all: 5, reached: 4, lines: [lost] }))).toContain("4 of 5 reached");
	});

	it("says whom it did not reach and offers other ways", () => {
		expect(text(card({ reached: 0, lines: [lost] }))).toContain("not reached");
		expect(presses(card({ reached: 0, lines: [lost] }))).toEqual(["Other ways for Freight desk", "Open the meeting"]);
		expect(presses(card({}))).toEqual(["Look for Freight desk", "Open the meeting"]);
	});

	it("leaves the ways to who organises it", () => {
		expect(presses(card({ mine: false, reached: 0, lines: [lost] }))).toEqual([]);
		expect(text(card({ mine: false }))).toContain("10:30 – 11:30 · Ilse Marrant");
	});

	it("names the address once where it is the name", () => {
		const bare = line({ name: "freight@veerhaven.example" });
		expect(markup(card({ lines: [bare] }))).not.toContain("title=");
		expect(markup(card({}))).toContain('title="freight@veerhaven.example"');
	});

	it("counts those who need nothing, and says what was called off", () => {
		expect(text(card({ all: 30, reached: 30 }))).toContain("and 29 more who need nothing · Open the meeting");
		expect(text(card({ calledOff: true }))).toContain("called off");
		expect(text(card({ title: "" }))).toContain("Private");
	});
});
