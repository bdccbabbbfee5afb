import { describe, expect, it } from "vitest";
import { presses, text } from "../test/drawn";
import type { Proposal } from "./deeds";
import { ProposalCard } from "./ProposalCard";

const proposal = (change: Partial<Proposal>): Proposal => ({
	id: "p",
	name: "S. Onari",
	words: "Fri 4 Dec, 8:00 – 9:00",
	start: "2026-12-04T08:00:00Z",
	end: "2026-12-04T09:00:00Z",
	comment: "",
	at: "2026-11-24T09:00:00Z",
	troubles: [],
	unseen: 0,
	roomClear: false,
	rooms: [],
	...change,
});
const card = (change: Partial<Proposal>) => <ProposalCard meetingId="m" p={proposal(change)} />;
const trouble = (name: string, short: string, needed = true) =>
	({
		name,
		short,
		needed,
		email: `${name}@marrowby.example`,
		blocks: true,
		hard: true,
	}) as Proposal["troubles"][number];
const room = (name: string) => ({ id: name, name, seats: 8 });

describe("another time that is proposed", () => {
	it("says who can", () => {
		expect(text(card({}))).toContain("proposed by S. OnariEverybody whose time can be seen is clear then.");
		expect(
			text(card({ troubles: [trouble("Rui Calado", "busy"), trouble("Freya Holm", "on leave", false)] })),
		).toContain("Rui Calado busy; Freya Holm on leave (optional)");
		expect(text(card({ unseen: 1 }))).toContain("1 person’s time cannot be seen from here.");
		expect(text(card({ unseen: 4 }))).toContain("4 people’s time cannot be seen from here.");
	});

	it.each<[string, Partial<Proposal>, string, string[]]>([
		["without a room", {}, "", ["Move it there"]],
		["the room is clear", { room: "Map Room", roomClear: true }, "Map Room is clear then", ["Move it there"]],
		[
			"the room is taken, others are clear",
			{ room: "Map Room", rooms: [room("Long Table"), room("Loft Studio")] },
			"Map Room cannot be had then",
			["Move it there, in Long Table", "Move it there, in Loft Studio"],
		],
		[
			"no room is clear",
			{ room: "Map Room" },
			"Map Room cannot be had then; no other room that would do is clear either",
			[],
		],
	])("can be taken where there is a room: %s", (_, change, says, moves) => {
		expect(text(card(change))).toContain(says);
		expect(presses(card(change)).filter((words) => words.startsWith("Move"))).toEqual(moves);
	});

	it("can be left, with a word or for an opening", () => {
		expect(presses(card({}))).toEqual(["Move it there", "Keep the time", "with a word…", "Take an opening instead…"]);
	});
});
