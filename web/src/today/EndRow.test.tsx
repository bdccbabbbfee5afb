import { describe, expect, it } from "vitest";
import { presses, text } from "../test/drawn";
import type { LooseEnd } from "./deeds";
import { EndRow } from "./EndRow";

const end = (change: Partial<LooseEnd>): LooseEnd => ({
	key: "k",
	kind: "noRoom",
	worst: 0,
	meetingId: "m",
	on: "2026-11-24",
	title: "Mount trial",
	start: "2026-11-24T14:30:00Z",
	words: "Mount trial, 14:30 today",
	detail: "Crate Bench is out of order.",
	rooms: [],
	...change,
});
const room = (name: string) => ({ id: name, name, seats: 8 });

describe("what mends a loose end", () => {
	it.each<[string, Partial<LooseEnd>, string[]]>([
		["no room, none clear", {}, ["Find a room"]],
		[
			"no room, three clear: two are offered",
			{ rooms: [room("Map Room"), room("Long Table"), room("Loft Studio")] },
			["Take Map Room", "Take Long Table", "Find a room"],
		],
		[
			"not reached, with another address",
			{ kind: "notReached", address: "ops@veerhaven.example" },
			["Use ops@…", "Mark as told", "Other ways"],
		],
		["not reached, no other address", { kind: "notReached" }, ["Mark as told", "Other ways"]],
		["under way: nobody has to be told yet", { kind: "underway" }, ["Other ways"]],
		["a sheet that did not go out", { kind: "unsent", sheetId: "s" }, ["Go on with it", "Let it be"]],
		["declined", { kind: "declined" }, ["Look for another time", "Let it be"]],
		["silent", { kind: "silent" }, ["Ask again", "Let it be"]],
		["another time is proposed", { kind: "proposed" }, ["Who can, and where"]],
		["the call cannot be had", { kind: "call" }, ["Take another call"]],
		["the series ends", { kind: "ends", until: "18 June" }, ["Extend to 18 June", "Let it end"]],
		["a clash", { kind: "clash" }, ["Look", "Let it be"]],
		[
			"whose answer: one is likely",
			{ kind: "unclear", asks: "whose", suggested: "p", suggestedName: "S. Onari" },
			["Count it for S. Onari", "Leave it", "Look"],
		],
		[
			"whose answer: nobody is likely",
			{ kind: "unclear", asks: "whose", invited: [room("S. Onari")] },
			["Count it", "Leave it", "Look"],
		],
		["what is meant", { kind: "unclear", asks: "meaning", suggested: "p" }, ["It is a yes", "A no", "Neither"]],
		[
			"somebody is sent instead",
			{ kind: "unclear", asks: "instead", instead: "k.abe@kirisame.example" },
			["Invite k.abe@kirisame.example", "Leave it"],
		],
	])("%s", (_, change, offered) => {
		expect(presses(<EndRow end={end(change)} />)).toEqual(offered);
	});

	it("asks whose answer it is before it can be counted", () => {
		const all = [room("S. Onari"), room("Tomé Akande")];
		const said = text(<EndRow end={end({ kind: "unclear", asks: "whose", invited: all })} />);
		expect(said).toContain("Whose is it?S. OnariTomé Akande");
	});

	it("says what was written", () => {
		expect(text(<EndRow end={end({ kind: "unclear", asks: "meaning", said: "Works for me <b>!" })} />)).toContain(
			"“Works for me &lt;b&gt;!”",
		);
	});
});
