import { Temporal } from "temporal-polyfill";
import { many, t } from "../tongue/tongue";

/** How long ago something was: "4 min", "3 h", "2 days". */
export function age(instant: string, now: Temporal.Instant) {
	const minutes = Math.max(
		1,
		Math.floor((now.epochMilliseconds - Temporal.Instant.from(instant).epochMilliseconds) / 60_000),
	);
	if (minutes < 60) return t("%s min", minutes);
	if (minutes < 48 * 60) return t("%s h", Math.floor(minutes / 60));
	return many(Math.floor(minutes / 1440), "%d day", "%d days");
}
