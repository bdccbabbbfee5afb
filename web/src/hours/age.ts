import { Temporal } from "temporal-polyfill";

/** How long ago something was: "4 min", "3 h", "2 days". */
export function age(instant: string, now: Temporal.Instant) {
	const minutes = Math.max(
		1,
		Math.floor((now.epochMilliseconds - Temporal.Instant.from(instant).epochMilliseconds) / 60_000),
	);
	if (minutes < 60) return `${minutes} min`;
	if (minutes < 48 * 60) return `${Math.floor(minutes / 60)} h`;
	return `${Math.floor(minutes / 1440)} days`;
}
