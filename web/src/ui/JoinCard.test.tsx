import { describe, expect, it } from "vitest";
import { markup, presses, text } from "../test/drawn";
import { type Card, JoinCard } from "./JoinCard";

const card = (change: Partial<Card>): Card => ({
	kind: "fresh",
	heading: "Join",
	name: "Kestle",
	url: "https://kestle.example/j/48-2190",
	shortUrl: "kestle.example/j/48-2190",
	follows: false,
	lines: [
		{ label: "Link", value: "https://kestle.example/j/48-2190", link: "https://kestle.example/j/48-2190", way: true },
		{ label: "Passcode", value: "veld-31" },
	],
	near: [],
	far: [],
	text: "all of it",
	chat: "in a line",
	...change,
});
const phone = (words: string, where: string, pin?: string) => ({ words, where, pin, link: `tel:${words}` });

describe("a join card", () => {
	it("shows the link short and opens it whole", () => {
		expect(text(<JoinCard card={card({})} />)).toContain(
			"Linkkestle.example/j/48-2190PasscodeVeld-31".replace("V", "v"),
		);
		expect(markup(<JoinCard card={card({})} />)).toContain('href="https://kestle.example/j/48-2190"');
	});

	it("names the kind of link, and of whom", () => {
		expect(text(<JoinCard card={card({ kind: "standing" })} />)).toContain("Kestle · standing link");
		expect(text(<JoinCard card={card({ kind: "given", name: "" })} />)).toContain("Join cardlink of somebody else");
	});

	it("offers to join and to copy", () => {
		expect(presses(<JoinCard card={card({})} />).slice(1)).toEqual([
			"Join",
			"Copy card",
			"Copy link",
			"Copy for a chat",
		]);
		expect(presses(<JoinCard card={card({ lines: [] })} withKey />)[1]).toBe("Copy cardc");
	});

	it("offers no link where phones alone lead in, and nothing while it is still to be made", () => {
		expect(presses(<JoinCard card={card({ url: "", lines: [] })} />)).toEqual(["Copy card", "Copy for a chat"]);
		expect(presses(<JoinCard card={card({ follows: true, lines: [] })} />)).toEqual([]);
	});

	it("folds phones of other countries, and keys in the PIN where there is one", () => {
		const phones = card({
			near: [phone("+351 21 000", "Portugal", "482190")],
			far: [phone("+81 3 000", "Japan")],
			countries: 13,
		});
		const said = text(<JoinCard card={phones} />);
		expect(said).toContain("By phone+351 21 000 Portugal, then 482190#13 more countries");
		expect(said).not.toContain("Japan");
		expect(text(<JoinCard card={{ ...phones, countries: 1 }} />)).toContain("1 more country");
	});

	it("shows what it was read from to who may see it", () => {
		expect(presses(<JoinCard card={card({ pasted: "Join us" })} />).at(-1)).toBe("the text that it was read from");
	});
});
