import { Temporal } from "temporal-polyfill";
import { language, many, marked, t } from "../tongue/tongue";

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const longDays = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
const months = [
	"January",
	"February",
	"March",
	"April",
	"May",
	"June",
	"July",
	"August",
	"September",
	"October",
	"November",
	"December",
];

/**
 * A day as the language of the page writes it: English in the way of this house, others as CLDR has it.
 */
const written =
	(english: (d: Temporal.PlainDate) => string, options: Intl.DateTimeFormatOptions) => (d: Temporal.PlainDate) => {
		if (language() === "en") return english(d);
		return language() === marked ? t(english(d)) : d.toLocaleString(language(), options);
	};

/** "Thu" */
export const weekday = written((d) => days[d.dayOfWeek - 1] ?? "", { weekday: "short" });
/** "Thursday" */
export const longWeekday = written((d) => longDays[d.dayOfWeek - 1] ?? "", { weekday: "long" });
/** "Thursday", for 4: the days of a week by number (ISO 8601). */
export const weekdayName = (n: number) => longWeekday(Temporal.PlainDate.from({ year: 2024, month: 1, day: n }));
/** "Thu", for 4. */
export const shortWeekdayName = (n: number) => weekday(Temporal.PlainDate.from({ year: 2024, month: 1, day: n }));
/** "December" */
export const month = written((d) => months[d.month - 1] ?? "", { month: "long" });
/** "Dec" */
export const shortMonth = written((d) => (months[d.month - 1] ?? "").slice(0, 3), { month: "short" });

/** "3 Dec" */
export const dayMonth = written((d) => `${d.day} ${shortMonth(d)}`, { day: "numeric", month: "short" });
/** "3 Dec 2026" */
export const dayMonthYear = written((d) => `${dayMonth(d)} ${d.year}`, {
	day: "numeric",
	month: "short",
	year: "numeric",
});
/** "Thu 3 Dec" */
export const shortDay = written((d) => `${weekday(d)} ${dayMonth(d)}`, {
	weekday: "short",
	day: "numeric",
	month: "short",
});
/** "Thu 3 Dec 2026" */
export const dayWithYear = written((d) => `${shortDay(d)} ${d.year}`, {
	weekday: "short",
	day: "numeric",
	month: "short",
	year: "numeric",
});
/** "Thu 3 Dec", with the year where it is not this one. */
export const dayNear = (d: Temporal.PlainDate, today: Temporal.PlainDate) =>
	d.year === today.year ? shortDay(d) : dayWithYear(d);
/** "3 Dec", with the year where a row of dates that begins with `first` has gone on for long. */
export const dayInRow = (d: Temporal.PlainDate, first: Temporal.PlainDate) =>
	first.until(d, { largestUnit: "days" }).days > 330 ? dayMonthYear(d) : dayMonth(d);

/** "Thursday 3 December" */
export const longDay = written((d) => `${longWeekday(d)} ${d.day} ${month(d)}`, {
	weekday: "long",
	day: "numeric",
	month: "long",
});
/** "Thursday 3 December 2026" */
export const longDayWithYear = written((d) => `${longDay(d)} ${d.year}`, {
	weekday: "long",
	day: "numeric",
	month: "long",
	year: "numeric",
});
/** "Thursday 3 December", with the year where it is not this one. */
export const longDayNear = (d: Temporal.PlainDate, today: Temporal.PlainDate) =>
	d.year === today.year ? longDay(d) : longDayWithYear(d);

/** "9:30" */
export const clock = (t: { hour: number; minute: number }) => `${t.hour}:${String(t.minute).padStart(2, "0")}`;

/** An instant of the contract as a clock in a zone shows it. */
export const inZone = (instant: string, zone: string) => Temporal.Instant.from(instant).toZonedDateTimeISO(zone);

/** "9:30 – 10:30", with the days where the end is on another one. */
export function times(start: string, end: string, zone: string) {
	const [a, b] = [inZone(start, zone), inZone(end, zone)];
	if (a.toPlainDate().equals(b.toPlainDate())) return `${clock(a)} – ${clock(b)}`;
	return `${clock(a)} – ${shortDay(b.toPlainDate())} ${clock(b)}`;
}

type Timed = { start: string; end: string; allDay?: boolean };

/** The zone in which something is shown: whole days are the same everywhere, and come as the midnights of UTC. */
export const zoneOf = (m: Timed, zone: string) => (m.allDay ? "UTC" : zone);

/** The days that something over whole days takes, the last one included, and how many they are. */
export function wholeDays(m: Timed) {
	const first = inZone(m.start, "UTC").toPlainDate();
	const last = inZone(m.end, "UTC").toPlainDate().subtract({ days: 1 });
	return { first, last, days: first.until(last).days + 1 };
}

/** When something is, to stand behind its first day: ", 9:30 – 10:30", ", all day", " – Sat 5 Dec, 3 days". */
export function spell(m: Timed, zone: string) {
	if (!m.allDay) return `, ${times(m.start, m.end, zone)}`;
	const { last, days } = wholeDays(m);
	return days < 2 ? `, ${t("all day")}` : ` – ${shortDay(last)}, ${many(days, "%d day", "%d days")}`;
}

/** "1 h 30", "45 min" */
export function length(minutes: number) {
	const [h, m] = [Math.floor(minutes / 60), minutes % 60];
	if (h === 0) return t("%s min", m);
	return m === 0 ? t("%s h", h) : t("%[1]s h %[2]s", h, m);
}

/** How people name a zone: "Lisbon". */
export const city = (zone: string) => t(zone.slice(zone.lastIndexOf("/") + 1).replaceAll("_", " "));

/** How many minutes it is until an instant, begun ones counted; none or fewer where it has come. */
export const minutesUntil = (instant: string, now: Temporal.Instant) =>
	Math.ceil((Temporal.Instant.from(instant).epochMilliseconds - now.epochMilliseconds) / 60_000);

/** "20 Nov 14:02", "today 14:02" */
export function moment(instant: string, zone: string, now: Temporal.Instant) {
	const at = inZone(instant, zone);
	const [day, today] = [at.toPlainDate(), now.toZonedDateTimeISO(zone).toPlainDate()];
	if (day.equals(today)) return t("today %s", clock(at));
	return `${day.year === today.year ? dayMonth(day) : dayMonthYear(day)} ${clock(at)}`;
}

/** Whether clocks in both zones show the same at that instant. */
export const sameClock = (instant: string, a: string, b: string) =>
	inZone(instant, a).offsetNanoseconds === inZone(instant, b).offsetNanoseconds;

export const monday = (d: Temporal.PlainDate) => d.subtract({ days: d.dayOfWeek - 1 });

/** The date that a text in its plain form (2026-12-03) says, if it says one. */
export function plainDate(text: string | null) {
	try {
		return text ? Temporal.PlainDate.from(text) : null;
	} catch {
		return null;
	}
}
