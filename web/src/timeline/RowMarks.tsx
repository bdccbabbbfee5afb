import type { Temporal } from "temporal-polyfill";
import { hourOf, percent, type Scale } from "./scale";

/** The stretch that is being drawn on a row. */
export const Drawn = ({ band }: { band: { left: number; width: number; words: string } | null | undefined | false }) =>
	band && (
		<div
			className="pointer-events-none absolute inset-y-0 rounded-[3px] border-2 border-fig bg-fig/10 px-1 text-fig text-small"
			style={{ left: percent(band.left), width: percent(band.width) }}
		>
			{band.words}
		</div>
	);

/** Where the present moment is on a row, if it is there. */
export function NowLine({ now, scale }: { now: Temporal.Instant | null; scale: Scale }) {
	const hour = now ? hourOf(now.toString(), scale.day, scale.zone) : -1;
	if (hour <= scale.from || hour >= scale.until) return null;
	return (
		<i
			aria-hidden
			className="absolute inset-y-0 w-0.5 bg-fig"
			style={{ left: percent((hour - scale.from) / (scale.until - scale.from)) }}
		/>
	);
}
