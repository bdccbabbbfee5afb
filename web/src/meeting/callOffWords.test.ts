import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { buttonWords, effectWords } from "./callOffWords";
import { clashWords } from "./clashWords";

type Effect = Schemas["CallOffEffect"];

const effect = (change: Partial<Effect>): Effect => ({
	names: ["Tomé Akande"],
	whole: true,
	dates: 0,
	more: false,
	held: false,
	rooms: [],
	link: "none",
	...change,
});
const names = (n: number) => Array.from({ length: n }, (_, i) => `Volunteer ${i + 1}`);

describe("what calling off does", () => {
	it.each<[string, Partial<Effect>, boolean, string]>([
		["nobody invited", { names: [] }, false, "Nobody else has to hear of it."],
		["one", {}, false, "Tomé Akande hears of it now."],
		["some", { names: names(3) }, false, "Volunteer 1, Volunteer 2, Volunteer 3 hear of it now."],
		["many", { names: names(5) }, false, "5 people hear of it now."],
		["some dates, one person", { whole: false }, true, "Tomé Akande hears of it now, of their own dates only."],
		["some dates", { whole: false, names: names(5) }, true, "5 people hear of it now, each of their own dates only."],
		["a room", { rooms: ["Map Room"] }, false, "Tomé Akande hears of it now. Map Room becomes clear."],
		["rooms", { rooms: ["A", "B"] }, false, "Tomé Akande hears of it now. A, B become clear."],
		["the link", { link: "withdrawn" }, false, "Tomé Akande hears of it now. The link is withdrawn."],
		[
			"the link stays for other dates",
			{ link: "stays", whole: false },
			true,
			"Tomé Akande hears of it now, of their own dates only. The link stays as it is for the other dates.",
		],
		["the link stays with what was held: nothing is said", { link: "stays" }, true, "Tomé Akande hears of it now."],
		[
			"no date is left",
			{ held: true },
			true,
			"Tomé Akande hears of it now. No date is left then; those held stay as they are.",
		],
	])("%s", (_, change, series, says) => {
		expect(effectWords(effect(change), series)).toBe(says);
	});

	it.each<[Partial<Effect>, boolean, string]>([
		[{}, false, "Call off and tell 1 person"],
		[{ names: [] }, false, "Call off"],
		[{ names: names(4), whole: false, dates: 1 }, true, "Call off 1 date and tell 4 people"],
		[{ whole: false, dates: 3 }, true, "Call off 3 dates and tell 1 person"],
		[{ whole: false, more: true, dates: 50 }, true, "Call off these and all later dates and tell 1 person"],
		[{}, true, "Call off and tell 1 person"],
		[{ held: true, dates: 2 }, true, "Call off 2 dates and tell 1 person"],
	])("the button says it: %o", (change, series, says) => {
		expect(buttonWords(effect(change), series)).toBe(says);
	});
});

it("names three clashes and counts the others", () => {
	expect(clashWords(["Crate sizes, 9:30 – 10:30"])).toBe("You have Crate sizes, 9:30 – 10:30 then.");
	expect(clashWords(["a", "b", "c"])).toBe("You have a; b; c then.");
	expect(clashWords(["a", "b", "c", "d", "e"])).toBe("You have a; b; c then, and 2 more.");
});
