import { Temporal } from "temporal-polyfill";

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

export const weekday = (d: Temporal.PlainDate) => days[d.dayOfWeek - 1] ?? "";
export const month = (d: Temporal.PlainDate) => months[d.month - 1] ?? "";

/** "Thu 3 Dec" */
export const shortDay = (d: Temporal.PlainDate) => `${weekday(d)} ${d.day} ${month(d).slice(0, 3)}`;
/** "Thu 3 Dec 2026" */
export const dayWithYear = (d: Temporal.PlainDate) => `${shortDay(d)} ${d.year}`;
/** "Thu 3 Dec", with the year where it is not this one. */
export const dayNear = (d: Temporal.PlainDate, today: Temporal.PlainDate) =>
	d.year === today.year ? shortDay(d) : dayWithYear(d);
/** "3 Dec", with the year where a row of dates that begins with `first` has gone on for long. */
export const dayInRow = (d: Temporal.PlainDate, first: Temporal.PlainDate) =>
	`${shortDay(d).slice(4)}${first.until(d, { largestUnit: "days" }).days > 330 ? ` ${d.year}` : ""}`;

/** "Thursday 3 December" */
export const longDay = (d: Temporal.PlainDate) => `${longDays[d.dayOfWeek - 1]} ${d.day} ${month(d)}`;

/** "Thursday 3 December", with the year where it is not this one. */
export const longDayNear = (d: Temporal.PlainDate, today: Temporal.PlainDate) =>
	d.year === today.year ? longDay(d) : `${longDay(d)} ${d.year}`;

/** "9:30" */
export const clock = (t: { hour: number; minute: number }) => `${t.hour}:${String(t.minute).padStart(2, "0")}`;

/** An instant of the contract as a clock in a zone shows it. */
export const inZone = (instant: string, zone: string) => Temporal.Instant.from(instant).toZonedDateTimeISO(zone);

/** "9:30 – 10:30", with the days where the end is on another one. */
export function times(start: string, end: string, zone: string, day = shortDay) {
	const [a, b] = [inZone(start, zone), inZone(end, zone)];
	if (a.toPlainDate().equals(b.toPlainDate())) return `${clock(a)} – ${clock(b)}`;
	return `${clock(a)} – ${day(b.toPlainDate())} ${clock(b)}`;
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
	return days < 2 ? ", all day" : ` – ${shortDay(last)}, ${days} days`;
}

/** "1 h 30", "45 min" */
export function length(minutes: number) {
	const [h, m] = [Math.floor(minutes / 60), minutes % 60];
	if (h === 0) return `${m} min`;
	return m === 0 ? `${h} h` : `${h} h ${m}`;
}

/** How people name a zone: "Lisbon". */
export const city = (zone: string) => zone.slice(zone.lastIndexOf("/") + 1).replaceAll("_", " ");

/** How many minutes it is until an instant, begun ones counted; none or fewer where it has come. */
export const minutesUntil = (instant: string, now: Temporal.Instant) =>
	Math.ceil((Temporal.Instant.from(instant).epochMilliseconds - now.epochMilliseconds) / 60_000);

/** "20 Nov 14:02", "today 14:02" */
export function moment(instant: string, zone: string, now: Temporal.Instant) {
	const at = inZone(instant, zone);
	const [day, today] = [at.toPlainDate(), now.toZonedDateTimeISO(zone).toPlainDate()];
	if (day.equals(today)) return `today ${clock(at)}`;
	return `${day.day} ${month(day).slice(0, 3)} ${day.year === today.year ? "" : `${day.year} `}${clock(at)}`;
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
