import { Temporal } from "temporal-polyfill";
import { afterEach, describe, expect, it } from "vitest";
import { city, dayInRow, length, longDayNear, moment, shortDay, spell, weekdayName } from "../time/format";
import { english, language, many, marked, row, speak, t, term } from "./tongue";

afterEach(() => speak(english));

const day = Temporal.PlainDate.from("2026-12-03");

describe("English", () => {
	it("puts things into a sentence in their order, or by their number", () => {
		expect(t("%s asks for %s", "Ilse", "Map Room")).toBe("Ilse asks for Map Room");
		expect(t("%[2]s, %[1]s", "a", "b")).toBe("b, a");
		expect(t("%s is %s", "it", undefined)).toBe("it is ");
		expect(t("100 % sure")).toBe("100 % sure");
		expect(t("%s copied", "50 %s")).toBe("50 %s copied");
		expect(t(term("called off"))).toBe("called off");
	});

	it("counts", () => {
		expect([0, 1, 2].map((n) => many(n, "1 date", "%d dates"))).toEqual(["0 dates", "1 date", "2 dates"]);
		expect(many(1, "One of %[2]d is there", "%d of %d are there", 3)).toBe("One of 3 is there");
	});

	it("makes a row", () => {
		expect([row([]), row(["a"]), row(["a", "b"]), row(["a", "b", "c"])]).toEqual(["", "a", "a and b", "a, b and c"]);
		expect(row(["a", "b"], "disjunction")).toBe("a or b");
	});
});

describe("another language", () => {
	const polish = {
		language: "pl",
		messages: {
			"%d dates one": "%d termin",
			"%d dates few": "%d terminy",
			"%d dates many": "%d terminów",
			"%s asks for %s": "%[2]s: prosi %[1]s",
			Lisbon: "Lizbona",
		},
	};

	it("says its own sentence, in its own order, and English where it has none", () => {
		speak(polish);
		expect(language()).toBe("pl");
		expect(t("%s asks for %s", "Ilse", "Map Room")).toBe("Map Room: prosi Ilse");
		expect(t("Throw away")).toBe("Throw away");
		expect(city("Europe/Lisbon")).toBe("Lizbona");
	});

	// Unicode CLDR, plural rules of Polish: one 1; few 2–4, 22–24; many 0, 5–21.
	it("counts by its own forms", () => {
		speak(polish);
		expect([1, 3, 5, 12, 22].map((n) => many(n, "1 date", "%d dates"))).toEqual([
			"1 termin",
			"3 terminy",
			"5 terminów",
			"12 terminów",
			"22 terminy",
		]);
		expect(many(3, "1 seat", "%d seats")).toBe("3 seats");
	});

	it("writes its days as CLDR has them, and goes back", () => {
		speak({ language: "pt", messages: { "today %s": "hoje %s", "%d days other": "%d dias" } });
		const now = Temporal.Instant.from("2026-12-03T09:00:00Z");
		expect(longDayNear(day, day)).toBe("quinta-feira, 3 de dezembro");
		expect(weekdayName(1)).toBe("segunda-feira");
		expect(moment("2026-12-03T08:05:00Z", "Europe/Lisbon", now)).toBe("hoje 8:05");
		expect(moment("2025-12-02T08:05:00Z", "Europe/Lisbon", now)).toMatch(/^2.*dez.*2025 8:05$/);
		expect(
			spell({ start: "2026-12-03T00:00:00Z", end: "2026-12-06T00:00:00Z", allDay: true }, "Europe/Lisbon"),
		).toMatch(/5.*dez.*, 3 dias$/);
		speak(english);
		expect([longDayNear(day, day), shortDay(day), weekdayName(7)]).toEqual([
			"Thursday 3 December",
			"Thu 3 Dec",
			"Sunday",
		]);
	});
});

describe("the marked language", () => {
	it("marks all that is said, and nothing else", () => {
		speak({ language: marked, messages: {} });
		expect(t("%s copied", "Link")).toBe("⟦Link copied⟧");
		expect(many(2, "1 date", "%d dates")).toBe("⟦2 dates⟧");
		expect(length(90)).toBe("⟦1 h 30⟧");
		expect(dayInRow(day, day)).toContain("⟦");
	});
});
