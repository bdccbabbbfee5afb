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
