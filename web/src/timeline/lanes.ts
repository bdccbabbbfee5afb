/** Something on a row: a bar, and words that may run past its end. All in pixels. */
export type Item = { left: number; width: number; words: number };
export type Packed = { lane: number; shift: number };

const gap = 8;

/**
 * Puts items into lanes so that neither bars nor words touch: each goes into the first lane in which it has room.
 * Words that would run off the row begin further left, by shift. Items are taken in the order of their left edge.
 */
export function pack(items: Item[], row: number): { packed: Packed[]; lanes: number } {
	const ends: number[] = [];
	const packed: Packed[] = new Array(items.length);
	const order = items.map((_, i) => i).sort((a, b) => (items[a]?.left ?? 0) - (items[b]?.left ?? 0) || a - b);
	for (const i of order) {
		const item = items[i];
		if (!item) continue;
		const shift = Math.min(item.left, Math.max(0, item.left + item.words - row));
		const [start, end] = [item.left - shift, Math.max(item.left + item.width, item.left - shift + item.words)];
		let lane = ends.findIndex((e) => e + gap <= start);
		if (lane < 0) lane = ends.length;
		ends[lane] = end;
		packed[i] = { lane, shift };
	}
	return { packed, lanes: ends.length };
}
