import type { Schemas } from "../api/client";

export type Stretch = { start: number; end: number }; // minutes since midnight

const minutes = (clock: string) => {
	const [h, m] = clock.split(":").map(Number);
	return (h ?? 0) * 60 + (m ?? 0);
};

export const clockOf = (at: number) => `${Math.floor(at / 60)}:${String(at % 60).padStart(2, "0")}`;

export const stretchesOf = (hours: Schemas["DayHours"]): Stretch[] =>
	hours.map((h) => ({ start: minutes(h.start), end: minutes(h.end) }));

/** As it is typed: "9:00 – 12:30, 13:30 – 18:00". */
export const written = (all: Stretch[]) => all.map((s) => `${clockOf(s.start)} – ${clockOf(s.end)}`).join(", ");

/** How long is worked on a day, in minutes. */
export const worked = (all: Stretch[]) => all.reduce((sum, s) => sum + s.end - s.start, 0);

const quarter = 15;

/** A minute of the day on the grid of quarters. */
export const onGrid = (at: number) => Math.min(1440, Math.max(0, Math.round(at / quarter) * quarter));

/** A day with one edge of a stretch moved; it stops at its other edge and at the stretches beside it. */
export function moved(all: Stretch[], at: number, edge: "start" | "end", to: number): Stretch[] {
	const s = all[at];
	if (!s) return all;
	const before = all[at - 1]?.end ?? 0;
	const after = all[at + 1]?.start ?? 1440;
	const low = edge === "start" ? before : s.start + quarter;
	const high = edge === "start" ? s.end - quarter : after;
	const value = Math.min(high, Math.max(low, onGrid(to)));
	return all.map((x, i) => (i === at ? { ...x, [edge]: value } : x));
}

/** A day with a stretch more, cut where others are; the same where there is no room. */
export function added(all: Stretch[], from: number, to: number): Stretch[] {
	let start = onGrid(Math.min(from, to));
	let end = onGrid(Math.max(from, to));
	for (const s of all) {
		if (s.start <= start && start < s.end) start = s.end;
		else if (start < s.start) end = Math.min(end, s.start);
	}
	return end - start < quarter ? all : [...all, { start, end }].sort((a, b) => a.start - b.start);
}
