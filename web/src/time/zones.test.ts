import { rawTimeZones } from "@vvo/tzdb";
import { Temporal } from "temporal-polyfill";
import { expect, test } from "vitest";
import { choicesOf, find, offsetWords, readOffset } from "./zones";

const all = choicesOf(rawTimeZones);
const at = Temporal.Instant.from("2026-11-24T10:12:00Z");
const now = (zone: string) => at.toZonedDateTimeISO(zone).offsetNanoseconds / 6e10;
const names = (typed: string, likely: string[] = []) => find(all, typed, likely, now).map((z) => z.name);

test.each([
	["Tokyo", "Asia/Tokyo"],
	["kolkata", "Asia/Kolkata"],
	["calcutta", "Asia/Kolkata"],
	["Asia/Calcutta", "Asia/Kolkata"],
	["mumbai", "Asia/Kolkata"],
	["sao paulo", "America/Sao_Paulo"],
	["São Paulo", "America/Sao_Paulo"],
	["nairobi", "Africa/Nairobi"],
	["kenya", "Africa/Nairobi"],
	["japan", "Asia/Tokyo"],
	["portugal", "Europe/Lisbon"],
	["kyiv", "Europe/Kyiv"],
	["kiev", "Europe/Kyiv"],
	["utc", "UTC"],
	["gmt", "UTC"],
])("%s is among the first", (typed, want) => expect(names(typed).slice(0, 4)).toContain(want));

test("an offset finds the zones that have it now", () => {
	expect(names("UTC+5:30")).toContain("Asia/Kolkata");
	expect(names("+0545")).toEqual(["Asia/Kathmandu"]);
	expect(names("-3")).toContain("America/Sao_Paulo");
	expect([readOffset("gmt −3:30"), readOffset("+25"), readOffset("tokyo")]).toEqual([-210, null, null]);
});

test("without a word the likely ones come first", () => {
	expect(names("", ["Europe/Lisbon", "Asia/Tokyo"]).slice(0, 2)).toEqual(["Europe/Lisbon", "Asia/Tokyo"]);
	expect(names("xyzzy")).toEqual([]);
});

test("every zone of the list is one that the browser knows", () => {
	for (const z of all) expect(() => now(z.name)).not.toThrow();
	expect([330, 0, -180].map(offsetWords)).toEqual(["+5:30", "", "−3"]);
});
