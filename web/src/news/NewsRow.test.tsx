import { describe, expect, it } from "vitest";
import { markup, presses, text } from "../test/drawn";
import type { NewsItem } from "./deeds";
import { NewsRow } from "./NewsRow";

const news = (change: Partial<NewsItem>): NewsItem => ({
	id: "n",
	meetingId: "m",
	kind: "changed",
	at: "2026-11-24T09:40:00Z",
	unread: true,
	canOpen: true,
	title: "Crate sizes, loan 14",
	words: "Tomé Akande changed it",
	lines: [],
	decides: false,
	clashes: [],
	...change,
});
const row = (change: Partial<NewsItem>, fresh = false) => <NewsRow item={news(change)} fresh={fresh} />;

describe("one thing that is new", () => {
	it("says when it was, and marks what is fresh", () => {
		expect(text(row({}))).toContain("Crate sizes, loan 14today 9:40Tomé Akande changed it");
		expect(text(row({}, true))).toContain("Crate sizes, loan 14newtoday 9:40");
	});

	it("says what it was and is, to those who hear it as well", () => {
		const lines = [
			{ what: "time", was: "Thu 3 Dec, 9:30", is: "Fri 4 Dec, 9:30" },
			{ what: "link", is: "Kestle" },
		];
		expect(text(row({ lines }))).toContain("timeThu 3 Dec, 9:30 is now→ Fri 4 Dec, 9:30linkKestle");
	});

	it("says the word that came with it as it was written", () => {
		expect(text(row({ word: "<b>Sorry</b>" }))).toContain("“&lt;b&gt;Sorry&lt;/b&gt;”");
	});

	it("opens the date that it is about, or the sheet", () => {
		expect(markup(row({ on: "2026-12-03" }))).toContain('href="/meeting/m?date=2026-12-03"');
		expect(markup(row({ sheetId: "s", meetingId: undefined, canOpen: false }))).toContain('href="/sheet/s"');
		expect(presses(row({ canOpen: false }))).toEqual([]);
	});

	it("leads who keeps a room to the room, to decide as long as it waits", () => {
		expect(presses(row({ roomId: "r", decides: true }))).toEqual(["Decide"]);
		expect(presses(row({ roomId: "r" }))).toEqual(["The room"]);
		expect(markup(row({ roomId: "r", decides: true }))).toContain('aria-label="Decide about Crate sizes, loan 14"');
	});

	it("is answered in place where it asks", () => {
		expect(presses(row({ kind: "asked", asks: { sequence: 0 } }))).toEqual([
			"Open",
			"Accept",
			"Maybe",
			"Decline",
			"with a word…",
		]);
	});

	it("says what one has oneself then", () => {
		expect(text(row({ clashes: ["a", "b", "c", "d"] }))).toContain("You have a; b; c then, and 1 more.");
	});
});
