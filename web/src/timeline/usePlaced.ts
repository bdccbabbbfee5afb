import { type RefObject, useMemo } from "react";
import { pack } from "./lanes";
import { useFonts, useWidth } from "./measure";
import { placeOrEdge, type Scale } from "./scale";

export type Placed<T> = { thing: T; at: { left: number; width: number }; lane: number; shift: number };

/**
 * Things of a row of time, packed into lanes so that neither bars nor words touch. words is how many pixels the words
 * of a thing take; ready is false until the row has a width.
 */
export function usePlaced<T extends { start: string; end: string }>(
	track: RefObject<HTMLElement | null>,
	things: T[],
	scale: Scale,
	words: (thing: T) => number,
): { placed: Placed<T>[]; lanes: number; width: number } {
	const width = useWidth(track);
	const fonts = useFonts();
	// biome-ignore lint/correctness/useExhaustiveDependencies: words follow from the things and the fonts
	return useMemo(() => {
		const at = things.flatMap((thing) => {
			const at = placeOrEdge(thing.start, thing.end, scale);
			return at ? [{ thing, at }] : [];
		});
		const { packed, lanes } = pack(
			at.map(({ thing, at }) => ({
				left: at.left * width,
				width: Math.max(4, at.width * width),
				words: Math.min(width, words(thing)),
			})),
			width,
		);
		return {
			placed: at.map((x, i) => ({ ...x, lane: packed[i]?.lane ?? 0, shift: packed[i]?.shift ?? 0 })),
			lanes,
			width,
		};
	}, [things, scale.day.toString(), scale.zone, scale.from, scale.until, width, fonts]);
}
