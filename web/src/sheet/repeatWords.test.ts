import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { endWords, headWords, skippedWords } from "./repeatWords";

type Dates = Schemas["SheetDates"];

const repeat = (change: Partial<Schemas["DraftRepeat"]>) =>
	({ rule: "FREQ=WEEKLY", ends: "on", until: "2026-12-18", count: 0, ...change }) as Schemas["DraftRepeat"];
const dates = (change: object) =>
	({ words: "every week", count: 4, open: false, dates: [], ...change }) as unknown as Dates;
const date = (state: string, repairs: object[] = [{}], inScope = true) => ({ state, repairs, inScope });

describe("how a series ends", () => {
	it.each<[string, Partial<Schemas["DraftRepeat"]>, Dates | undefined, string]>([
		["never", { ends: "open" }, dates({}), "no end"],
		["on a day", {}, dates({}), "until 18 Dec · 4 dates"],
		["on a day, its dates not known yet", {}, undefined, "until 18 Dec"],
		["on no day yet", { until: "" }, undefined, "until when?"],
		["on what is no day", { until: "soon" }, undefined, "until when?"],
		["after some", { ends: "after", count: 7 }, undefined, "7 times"],
		["after one", { ends: "after", count: 1 }, undefined, "once"],
		["after some of which one is left out", { ends: "after", count: 5 }, dates({ count: 4 }), "4 dates"],
		["after one date", { ends: "after", count: 1 }, dates({ count: 1 }), "1 date"],
	])("%s", (_, change, known, says) => {
		expect(endWords(repeat(change), known)).toBe(says);
	});
});

describe("what stands above the dates", () => {
	it("counts what has to be mended, and what is as the others are not", () => {
		expect(headWords(dates({}))).toBe("every week · 4 dates");
		expect(headWords(dates({ count: 1 }))).toBe("every week · 1 date");
		expect(headWords(dates({ open: true, dates: [date("busy"), date("noroom"), date("fits")] }))).toBe(
			"every week · no end · 2 to mend · 1 unlike the others",
		);
	});

	it("leaves out what the change is not for, and what needs nothing", () => {
		expect(headWords(dates({ dates: [date("busy", [{}], false), date("busy", [])] }))).toBe("every week · 4 dates");
	});

	it("names six days that are left out", () => {
		const out = (n: number) => Array.from({ length: n }, (_, i) => ({ on: `2026-12-0${i + 1}`, why: "closed" }));
		expect(skippedWords(out(1))).toBe("Tue 1 Dec (closed)");
		expect(skippedWords(out(8))).toMatch(/^Tue 1 Dec \(closed\), .*Sun 6 Dec \(closed\) and 2 more$/);
	});
});
