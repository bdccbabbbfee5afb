import type { Temporal } from "temporal-polyfill";
import { weekdayName } from "../time/format";
import { t, term } from "../tongue/tongue";

export const weekdayCodes = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"] as const;
export type Weekday = (typeof weekdayCodes)[number];
export type Unit = "DAILY" | "WEEKLY" | "MONTHLY" | "YEARLY";

/** A rule that the sentence on the sheet can say; `on` is what it names of a month or year. */
export type Sentence = { unit: Unit; every: number; days: Weekday[]; on: string };

const working = "MO,TU,WE,TH,FR";

/** Reads a rule; null for one that the sentence cannot say: it is an own rule then. */
export function readRule(rule: string): Sentence | null {
	const parts = new Map(rule.split(";").map((p) => p.split("=", 2) as [string, string]));
	const unit = parts.get("FREQ");
	if (unit !== "DAILY" && unit !== "WEEKLY" && unit !== "MONTHLY" && unit !== "YEARLY") return null;
	const every = Number(parts.get("INTERVAL") ?? 1);
	parts.delete("FREQ");
	parts.delete("INTERVAL");
	if (unit === "WEEKLY") {
		const days = (parts.get("BYDAY") ?? "").split(",").filter((d): d is Weekday => weekdayCodes.includes(d as Weekday));
		parts.delete("BYDAY");
		return parts.size === 0 ? { unit, every, days, on: "" } : null;
	}
	const on = [...parts].map(([name, value]) => `${name}=${value}`).join(";");
	if (unit === "DAILY") return on === "" ? { unit, every, days: [], on } : null;
	const known =
		unit === "MONTHLY"
			? /^(BYMONTHDAY=-?\d+|BYDAY=-?\d(MO|TU|WE|TH|FR|SA|SU)|BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-?\d)$/
			: /^BYMONTH=\d+;BYMONTHDAY=\d+$/;
	return known.test(on) ? { unit, every, days: [], on } : null;
}

export function writeRule(s: Sentence): string {
	const parts = [`FREQ=${s.unit}`];
	if (s.every > 1) parts.push(`INTERVAL=${s.every}`);
	if (s.unit === "WEEKLY" && s.days.length > 0)
		parts.push(`BYDAY=${weekdayCodes.filter((d) => s.days.includes(d)).join(",")}`);
	if (s.on) parts.push(s.on);
	return parts.join(";");
}

const code = (d: Temporal.PlainDate): Weekday => weekdayCodes[d.dayOfWeek - 1] ?? "MO";
const nthOf = (d: Temporal.PlainDate) => Math.floor((d.day - 1) / 7) + 1;
const isLast = (d: Temporal.PlainDate) => d.day + 7 > d.daysInMonth;

export const ordinal = (n: number) => {
	const teen = Math.floor((n % 100) / 10) === 1;
	return t((!teen && ordinals[n % 10]) || term("%sth"), n);
};
const ordinals = [term("%sth"), term("%sst"), term("%snd"), term("%srd")];

export const dayName = (c: Weekday) => weekdayName(weekdayCodes.indexOf(c) + 1);

/** What a month can be named by, for a series that starts on a day; what the rule names already comes too. */
export function monthChoices(start: Temporal.PlainDate, current = ""): [string, string][] {
	const c = code(start);
	const all: [string, string][] = [
		[`BYMONTHDAY=${start.day}`, t("the %s", ordinal(start.day))],
		[`BYDAY=${nthOf(start)}${c}`, t("the %s %s", ordinal(nthOf(start)), dayName(c))],
	];
	if (isLast(start)) all.push([`BYDAY=-1${c}`, t("the last %s", dayName(c))]);
	all.push(["BYMONTHDAY=-1", t("the last day")]);
	all.push([`BYDAY=${working};BYSETPOS=1`, t("the 1st working day")]);
	all.push([`BYDAY=${working};BYSETPOS=-1`, t("the last working day")]);
	if (current && !all.some(([on]) => on === current)) all.unshift([current, monthWords(current)]);
	return all;
}

/** "the 2nd Friday", for a part of a rule. */
function monthWords(on: string) {
	const dom = /^BYMONTHDAY=(-?\d+)$/.exec(on);
	if (dom) return Number(dom[1]) < 0 ? t("day %s from the end", dom[1]) : t("the %s", ordinal(Number(dom[1])));
	const nth = /^BYDAY=(-?\d)([A-Z]{2})$/.exec(on);
	if (!nth) return t("another day");
	const n = Number(nth[1]);
	const which = n === -1 ? t("last") : n < 0 ? t("%s last", ordinal(-n)) : ordinal(n);
	return t("the %s %s", which, dayName(nth[2] as Weekday));
}

const yearly = (d: Temporal.PlainDate) => `BYMONTH=${d.month};BYMONTHDAY=${d.day}`;

/** A sentence turned to another unit, with what goes with the start. */
export function withUnit(s: Sentence, unit: Unit, start: Temporal.PlainDate): Sentence {
	const on = unit === "MONTHLY" ? (monthChoices(start)[1]?.[0] ?? "") : unit === "YEARLY" ? yearly(start) : "";
	return { unit, every: s.every, days: unit === "WEEKLY" ? [code(start)] : [], on };
}

/** What people mostly mean, as rules for a series that starts on a day. */
export function phrases(start: Temporal.PlainDate): [string, string][] {
	const c = code(start);
	const nth: [string, string] = isLast(start)
		? [`FREQ=MONTHLY;BYDAY=-1${c}`, t("the last %s of a month", dayName(c))]
		: [`FREQ=MONTHLY;BYDAY=${nthOf(start)}${c}`, t("the %s %s of a month", ordinal(nthOf(start)), dayName(c))];
	return [
		[`FREQ=WEEKLY;BYDAY=${c}`, t("every %s", dayName(c))],
		[`FREQ=WEEKLY;INTERVAL=2;BYDAY=${c}`, t("every 2nd %s", dayName(c))],
		[`FREQ=WEEKLY;BYDAY=${working}`, t("every working day")],
		nth,
		["FREQ=MONTHLY;BYMONTHDAY=-1", t("the last day of a month")],
		[`FREQ=MONTHLY;BYDAY=${working};BYSETPOS=-1`, t("the last working day of a month")],
		[`FREQ=YEARLY;${yearly(start)}`, t("every year")],
	];
}
