import type { Schemas } from "../api/client";

type DraftDate = Schemas["DraftDate"];

/** Nothing said of a date: it is as the rule has it. */
export const bare = (on: string): DraftDate => ({ on, out: false, start: "", end: "", roomId: "", noRoom: false });

const empty = (x: DraftDate) => !x.out && !x.start && !x.end && !x.roomId && !x.noRoom;

/** The list with what a sheet says of one date now; nothing of its own is not listed. */
export function withDate(dates: DraftDate[], x: DraftDate) {
	const others = dates.filter((d) => d.on !== x.on);
	return empty(x) ? others : [...others, x].sort((a, b) => (a.on < b.on ? -1 : 1));
}
