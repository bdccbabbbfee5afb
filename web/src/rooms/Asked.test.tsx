import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { markup, presses, text } from "../test/drawn";
import { Asked } from "./Asked";

type Request = Schemas["AskedRoom"];

const request = (change: Partial<Request>): Request => ({
	id: "q",
	roomId: "r",
	room: "Courtyard Hall",
	title: "Night opening",
	by: "Tomé Akande",
	people: 12,
	when: "Thu 26 Nov 2026, 17:00 – 19:00",
	why: "It asks its keeper.",
	lapsesAt: "2026-11-25T17:00:00Z",
	dates: 1,
	without: 0,
	instead: [],
	day: "2026-11-26",
	...change,
});
const asked = (...changes: Partial<Request>[]) => <Asked asked={changes.map(request)} zone="Europe/Lisbon" />;

describe("what is asked of who keeps a room", () => {
	it("says so where nothing is", () => {
		expect(text(asked())).toBe("Asked of you Nothing waits for your answer. What is asked comes here and under New.");
	});

	it("says who asks for how many, when, and until when an answer counts", () => {
		const said = text(asked({}));
		expect(said).toContain("Courtyard Hall · Thu 26 Nov 2026, 17:00 – 19:00 · Tomé Akande, 12 people");
		expect(said).toContain("25 Nov 17:00");
		expect(text(asked({ people: 1 }))).toContain("Tomé Akande, alone");
	});

	it("opens the room in the week of the first date", () => {
		expect(markup(asked({}))).toContain('href="/room/r?from=2026-11-23"');
	});

	it("says how many dates a yes is for, and how many do without", () => {
		const said = text(asked({ dates: 6, without: 1, repeats: "every Thursday until 7 January" }));
		expect(said).toContain("19:00, 6 dates · Tomé Akande");
		expect(said).toContain("every Thursday until 7 January");
		expect(said).toContain("One more date does without the room.");
		expect(text(asked({ dates: 6, without: 3 }))).toContain("3 more dates do without the room.");
	});

	it("offers a yes to all, and another room with a no", () => {
		expect(presses(asked({ dates: 6 }))[1]).toBe("Yes to 6 to Night opening");
		expect(presses(asked({}))[1]).toBe("Yes to Night opening");
		expect(presses(asked({ instead: [{ id: "x", name: "Map Room", seats: 8 }] })).join()).toContain(
			"No, Map Room is clear",
		);
	});
});
