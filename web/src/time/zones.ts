import type { RawTimeZone } from "@vvo/tzdb";
import { city } from "./format";

/** A time zone as it is looked for: by its name, its cities, its country and its names before. */
export type ZoneChoice = { name: string; words: string; country: string; folded: string; minutes: number };

export const fold = (text: string) =>
	text
		.normalize("NFD")
		.replace(/\p{Mn}/gu, "")
		.toLowerCase();

/** "+5:30", "−3", "" for none. */
export function offsetWords(minutes: number) {
	if (minutes === 0) return "";
	const [h, m] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
	return `${minutes > 0 ? "+" : "−"}${h}${m ? `:${String(m).padStart(2, "0")}` : ""}`;
}

/** The zones of the time zone database, with the names that the Unicode CLDR has for them. */
export function choicesOf(raw: RawTimeZone[]): ZoneChoice[] {
	const listed = raw.map((z) => ({
		name: z.name,
		words: [...new Set([city(z.name), ...z.mainCities])].slice(0, 3).join(", "),
		country: z.countryName,
		folded: fold(
			[
				z.name.replaceAll(/[/_]/g, " "),
				...z.group.map((g) => g.replaceAll(/[/_]/g, " ")),
				z.alternativeName,
				z.countryName,
			]
				.concat(z.mainCities, z.abbreviation)
				.join(" "),
		),
		minutes: z.rawOffsetInMinutes,
	}));
	return [
		...listed,
		{ name: "UTC", words: "UTC, GMT", country: "", folded: "utc gmt zulu universal time", minutes: 0 },
	];
}

/** An offset that is typed: "UTC+5:30", "+0530", "gmt-3". Null where it is none. */
export function readOffset(text: string): number | null {
	const found = /^(?:utc|gmt|z)?\s*([+\-−–])\s*(\d{1,2})(?::?(\d{2}))?$/i.exec(text.trim());
	if (!found) return null;
	const minutes = Number(found[2]) * 60 + Number(found[3] ?? 0);
	return minutes > 14 * 60 ? null : found[1] === "+" ? minutes : -minutes;
}

/** The zones that are meant by what is typed, the likely ones first; `now` gives a zone's offset in minutes. */
export function find(all: ZoneChoice[], typed: string, likely: string[], now: (zone: string) => number): ZoneChoice[] {
	const first = likely.flatMap((name) => all.find((z) => z.name === name || isOld(z, name)) ?? []);
	const ordered = [...new Set([...first, ...all])];
	const offset = readOffset(typed);
	if (offset !== null) return ordered.filter((z) => now(z.name) === offset).slice(0, most);
	const words = fold(typed.trim())
		.split(/[\s/_,]+/)
		.filter(Boolean);
	if (words.length === 0) return ordered.slice(0, most);
	const begins = (z: ZoneChoice) => words.every((w) => z.folded.split(" ").some((x) => x.startsWith(w)));
	const named = (z: ZoneChoice) =>
		fold(z.words)
			.split(", ")
			.some((w) => w.startsWith(words.join(" ")));
	return ordered
		.filter(begins)
		.sort((a, b) => Number(named(b)) - Number(named(a)))
		.slice(0, most);
}

const most = 8;

/** Whether a name is one that the zone had before: Asia/Calcutta. */
const isOld = (z: ZoneChoice, name: string) => z.folded.includes(fold(name.replaceAll(/[/_]/g, " ")));
