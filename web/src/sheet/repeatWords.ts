import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { dayMonth, shortDay } from "../time/format";
import { many, t } from "../tongue/tongue";

/** How a series ends: "no end", "7 dates", "until 18 Dec · 7 dates". */
export function endWords(repeat: Schemas["DraftRepeat"], dates: Schemas["SheetDates"] | undefined) {
	if (repeat.ends === "open") return t("no end");
	const count = dates && dates.count > 0 ? many(dates.count, "1 date", "%d dates") : "";
	if (repeat.ends === "after") return count || many(repeat.count, "once", "%d times");
	try {
		const day = Temporal.PlainDate.from(repeat.until);
		return [t("until %s", dayMonth(day)), count].filter(Boolean).join(" · ");
	} catch {
		return t("until when?");
	}
}

/** "every 2 weeks, on Thursday, until 21 January · 7 dates · 2 to mend" */
export function headWords(dates: Schemas["SheetDates"]) {
	const said = dates.dates.filter((d) => d.inScope && d.repairs.length > 0);
	const own = said.filter((d) => d.state === "fits").length;
	const bad = said.length - own;
	const count = dates.open ? t("no end") : many(dates.count, "1 date", "%d dates");
	return [dates.words, count, bad > 0 && t("%s to mend", bad), own > 0 && t("%s unlike the others", own)]
		.filter(Boolean)
		.join(" · ");
}

/** "Tue 8 Dec (Imaculada Conceição), Sun 28 Mar (1:30 is not on the clock that day)" */
export function skippedWords(skipped: Schemas["Skipped"][]) {
	const some = skipped.slice(0, 6).map((s) => `${shortDay(Temporal.PlainDate.from(s.on))} (${s.why})`);
	return skipped.length > 6 ? t("%s and %s more", some.join(", "), skipped.length - 6) : some.join(", ");
}
