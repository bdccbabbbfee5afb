import type { Schemas } from "../api/client";
import { many, t } from "../tongue/tongue";

type Effect = Schemas["CallOffEffect"];

/** "Tomé Akande and 3 others hear of it now. Map Room becomes clear. The link is withdrawn." */
export function effectWords(e: Effect, series: boolean) {
	const n = e.names.length;
	const who = n <= 4 ? e.names.join(", ") : t("%s people", n);
	const some = series && !e.whole;
	return [
		n === 0
			? t("Nobody else has to hear of it.")
			: some
				? n === 1
					? t("%s hears of it now, of their own dates only.", who)
					: t("%s hear of it now, each of their own dates only.", who)
				: n === 1
					? t("%s hears of it now.", who)
					: t("%s hear of it now.", who),
		e.rooms.length === 1
			? t("%s becomes clear.", e.rooms[0])
			: e.rooms.length > 1 && t("%s become clear.", e.rooms.join(", ")),
		e.link === "withdrawn" && t("The link is withdrawn."),
		e.link === "stays" && some && t("The link stays as it is for the other dates."),
		e.whole && e.held && series && t("No date is left then; those held stay as they are."),
	]
		.filter(Boolean)
		.join(" ");
}

/** "Call off these and all later dates and tell 4 people" */
export function buttonWords(e: Effect, series: boolean) {
	const what = series && (!e.whole || e.held) && (e.more ? t("these and all later dates") : dateCount(e.dates));
	const n = e.names.length;
	return [t("Call off"), what, n > 0 && many(n, "and tell 1 person", "and tell %d people")].filter(Boolean).join(" ");
}

const dateCount = (n: number) => many(n, "1 date", "%d dates");
