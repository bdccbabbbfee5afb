import { Temporal } from "temporal-polyfill";

const dayNames = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
const monthNames = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/**
 * Reads a day as people type it: "3 dec", "Thu 3 Dec", "3.12.", "3/12/2026" (the day comes first), "2026-12-03", "thu", "tomorrow". Without a
 * year it is the next such day from `today` on. Null when it is none.
 */
export function parseDay(typed: string, today: Temporal.PlainDate): Temporal.PlainDate | null {
	const text = typed.trim().toLowerCase().replace(/,/g, " ");
	if (text === "today") return today;
	if (text === "tomorrow") return today.add({ days: 1 });
	const name = dayNames.indexOf(text.slice(0, 3));
	if (name >= 0 && /^[a-z]+$/.test(text)) return today.add({ days: (name + 1 - today.dayOfWeek + 7) % 7 });
	const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(text);
	if (iso) return dayFrom(Number(iso[1]), Number(iso[2]), Number(iso[3]));
	const numbers = /^(\d{1,2})\s*[./]\s*(\d{1,2})\s*[./]?\s*(\d{4})?$/.exec(text);
	if (numbers) return withYear(Number(numbers[1]), Number(numbers[2]), numbers[3], today);
	const words = /^(?:[a-z]+\s+)?(\d{1,2})\.?\s+([a-z]{3,})\.?(?:\s+(\d{4}))?$/.exec(text);
	if (!words) return null;
	return withYear(Number(words[1]), monthNames.indexOf(words[2]?.slice(0, 3) ?? "") + 1, words[3], today);
}

function dayFrom(year: number, month: number, day: number) {
	try {
		return Temporal.PlainDate.from({ year, month, day }, { overflow: "reject" });
	} catch {
		return null;
	}
}

function withYear(day: number, month: number, year: string | undefined, today: Temporal.PlainDate) {
	if (year) return dayFrom(Number(year), month, day);
	const soon = dayFrom(today.year, month, day);
	return soon && Temporal.PlainDate.compare(soon, today) >= 0 ? soon : (dayFrom(today.year + 1, month, day) ?? soon);
}

/**
 * Reads a time as people type it: "9", "930", "9:30", "9.30", "9h30", "14 h". Gives "09:30", or null when it is none.
 */
export function parseClock(typed: string): string | null {
	const text = typed.trim().toLowerCase();
	const found =
		/^(\d{1,2})\s*(?:[:.h]\s*(\d{2})|h)?$/.exec(text) ??
		(/^\d{3,4}$/.test(text) ? [text, text.slice(0, -2), text.slice(-2)] : null);
	if (!found) return null;
	const [hour, minute] = [Number(found[1]), Number(found[2] ?? 0)];
	if (hour > 23 || minute > 59) return null;
	return `${String(hour).padStart(2, "0")}:${String(minute).padStart(2, "0")}`;
}
