import { Temporal } from "temporal-polyfill";
import { describe, expect, test } from "vitest";
import { sentLine as line } from "../test/sent";
import { cellsOf } from "./cells";
import type { SentLine } from "./deeds";

const now = Temporal.Instant.from("2026-12-01T12:00:00Z");

const looks = (change: Partial<SentLine>) => cellsOf(line(change), "Europe/Lisbon", now).map((c) => c.look);
const words = (change: Partial<SentLine>) => cellsOf(line(change), "Europe/Lisbon", now).map((c) => c.words);

describe("how far a message came", () => {
	test.each<[string, Partial<SentLine>, string[]]>([
		["on its way", { state: "queued", stage: "none" }, ["open", "ahead", "ahead", "ahead"]],
		["taken by our own server", {}, ["done", "open", "ahead", "ahead"]],
		["taken by theirs", { stage: "relayed" }, ["done", "done", "open", "ahead"]],
		["in the mailbox", { stage: "delivered" }, ["done", "done", "done", "ahead"]],
		[
			"answered",
			{ stage: "delivered", answeredAt: "2026-12-01T10:00:00Z", answer: "accepted" },
			["done", "done", "done", "done"],
		],
		[
			"refused by their server",
			{ trouble: "refused", broke: true, code: "5.7.1" },
			["done", "broken", "ahead", "ahead"],
		],
		[
			"refused by the mailbox",
			{ trouble: "returned", broke: true, code: "5.2.1" },
			["done", "done", "broken", "ahead"],
		],
		["late", { trouble: "delayed", code: "4.4.1" }, ["done", "open", "ahead", "ahead"]],
		["deleted unread", { stage: "delivered", trouble: "discarded" }, ["done", "done", "broken", "ahead"]],
		["shown inside", { outside: false, stage: "delivered" }, ["done", "done", "open", "ahead"]],
		[
			"seen inside",
			{ outside: false, stage: "seen", stageAt: "2026-12-01T10:30:00Z" },
			["done", "done", "done", "ahead"],
		],
	])("%s", (_, change, want) => {
		expect(looks(change)).toEqual(want);
	});

	test("what is tried again says so", () => {
		expect(words({ state: "queued", stage: "none", trouble: "notYet" })[0]).toBe("tried again");
		expect(words({ state: "queued", stage: "none" })[0]).toBe("on its way");
	});

	test("a code is said where it broke, a full mailbox in words", () => {
		expect(words({ trouble: "refused", broke: true, code: "5.7.1" })[1]).toBe("refused 5.7.1");
		expect(words({ trouble: "returned", broke: true, code: "5.2.2" })[2]).toBe("mailbox full 5.2.2");
	});

	test("what broke stays so, with how it was mended", () => {
		const mended = { trouble: "refused", broke: true, code: "5.1.1", mended: "told" } as const;
		expect(looks(mended)[1]).toBe("broken");
		expect(words(mended)[3]).toBe("told by telephone");
	});

	test("clocks are those of who reads", () => {
		const at = { stage: "seen", stageAt: "2026-12-01T10:30:00Z" } as const;
		expect(cellsOf(line(at), "Asia/Tokyo", now)[2]?.words).toBe("opened 19:30");
		expect(cellsOf(line(at), "Europe/Lisbon", now)[2]?.words).toBe("opened 10:30");
	});
});
