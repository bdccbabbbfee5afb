import { useMemo, useRef } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useOpenSheet } from "../sheet/open";
import { length, longDay, weekday, wholeDays } from "../time/format";
import { Hours, Stretches } from "../timeline/Hours";
import { wordsWidth } from "../timeline/measure";
import { Drawn, NowLine } from "../timeline/RowMarks";
import { hourOf, rowWords, type Scale } from "../timeline/scale";
import { usePlaced } from "../timeline/usePlaced";
import { many, t } from "../tongue/tongue";
import { Beside, besideHeight, useBeside } from "./Beside";
import { MeetingMark } from "./MeetingMark";
import { useDraw } from "./useDraw";
import { WholeDay } from "./WholeDay";

const laneHeight = 35;
const wholeHeight = 27;

/** Whether a meeting over whole days takes a day. */
const takes = (m: Schemas["WeekMeeting"], day: Temporal.PlainDate) => {
	const { first, last } = wholeDays(m);
	return Temporal.PlainDate.compare(first, day) <= 0 && Temporal.PlainDate.compare(day, last) <= 0;
};

type Props = {
	week: Schemas["Week"];
	watched: Schemas["WatchedTime"][];
	scale: Scale;
	isToday: boolean;
	now: Temporal.Instant;
	chosen: string | null;
	choose: (m: Schemas["WeekMeeting"], byKey: boolean) => void;
};

/** One day: what it holds at the left, its meetings along the hours. */
export function DayRow({ week, watched, scale, isToday, now, chosen, choose }: Props) {
	const track = useRef<HTMLDivElement>(null);
	const open = useOpenSheet();
	const { day, zone } = scale;
	const draw = useDraw(track, scale, (start, end) => open({ start, end }));
	const timed = useMemo(() => week.meetings.filter((m) => !m.allDay), [week.meetings]);
	const { placed, lanes, width } = usePlaced(track, timed, scale, (m) =>
		labelWidth(m, rowWords(m.start, m.end, scale)),
	);
	const whole = week.meetings.filter((m) => m.allDay && takes(m, day));
	const beside = useBeside(track, week, watched, scale);
	const holiday = week.holidays.find((h) => h.day === day.toString())?.name;
	const off = complement(week.working, scale);
	const weekend = day.dayOfWeek > 5 && lanes + whole.length + beside.lanes === 0;
	const below = 7 + whole.length * wholeHeight;
	const meetingsEnd = below + lanes * laneHeight;
	const height = Math.max(weekend ? 40 : 78, meetingsEnd + beside.lanes * besideHeight + 6);
	return (
		<section
			aria-label={longDay(day)}
			data-row={day.toString()}
			className={`grid grid-cols-[104px_minmax(0,1fr)] max-sm:grid-cols-[58px_minmax(0,1fr)] border-rule border-b last:border-b-0 ${isToday ? "bg-[linear-gradient(90deg,var(--color-moss-wash),transparent_140px)]" : ""}`}
		>
			<DayHead
				day={day}
				small={weekend}
				counted={[...placed.map((p) => p.thing), ...whole]}
				week={week}
				holiday={holiday}
				scale={scale}
				onNew={() => open(morning(day))}
			/>
			<Hours ref={track} scale={scale} style={{ height }} className="touch-pan-y select-none">
				<Stretches spans={off} scale={scale} mark="mark-off" />
				<Stretches spans={week.leave} scale={scale} mark={t("mark-leave opacity-50")} className="bottom-0 h-2" />
				<div className="absolute inset-0 cursor-crosshair" {...draw.handlers} />
				<Drawn band={draw.band} />
				<NowLine now={isToday ? now : null} scale={scale} />
				{whole.map((m, i) => (
					<WholeDay
						key={`${m.id} ${m.on}`}
						meeting={m}
						day={day}
						top={4 + i * wholeHeight}
						chosen={chosen === `${m.id} ${m.on}` || chosen === `${m.id} `}
						onChoose={(byKey) => choose(m, byKey)}
					/>
				))}
				{width > 0 &&
					placed.map(({ thing: m, at, lane, shift }) => (
						<MeetingMark
							key={`${m.id} ${m.on}`}
							meeting={m}
							scale={scale}
							rowWidth={width}
							zone={zone}
							at={at}
							top={below + lane * laneHeight}
							shift={shift}
							chosen={chosen === `${m.id} ${m.on}` || chosen === `${m.id} `}
							onChoose={(byKey) => choose(m, byKey)}
						/>
					))}
				<Beside beside={beside} top={meetingsEnd} scale={scale} />
			</Hours>
		</section>
	);
}

/** The words of a meeting's flag take this many pixels. */
function labelWidth(m: Schemas["WeekMeeting"], when: string) {
	const bold = "650 13px 'Atkinson Hyperlegible Next Variable'";
	let width = wordsWidth(when, bold) + 5 + wordsWidth(m.title) + 10;
	if (m.standing === "broken") width += wordsWidth(` · ${t("not delivered")}`) + 4;
	if (m.room) width += wordsWidth(m.room, "600 11px 'Atkinson Hyperlegible Next Variable'") + 19;
	if (m.link) width += 17;
	if (m.private) width += 17;
	if (m.series) width += 17;
	return width;
}

function DayHead(props: {
	day: Temporal.PlainDate;
	small: boolean;
	counted: Schemas["WeekMeeting"][];
	week: Schemas["Week"];
	holiday?: string;
	scale: Scale;
	onNew: () => void;
}) {
	const { day, small, week, scale } = props;
	const attended = props.counted.filter((m) => m.standing !== "declined");
	const clear = clearMinutes(week, attended, scale);
	return (
		<div className={`pl-3.5 max-sm:pl-2 ${small ? "pt-[7px]" : "pt-[9px]"}`}>
			<button
				type="button"
				onClick={props.onNew}
				title={t("New meeting on %s", longDay(day))}
				className="rounded-[3px] text-left hover:text-moss hover:underline"
			>
				<b
					className={`mr-1 max-sm:block font-[650] font-display leading-none ${small ? "text-[18px]" : "text-[24px]"}`}
				>
					{day.day}
				</b>
				{weekday(day)}
				<span className="sr-only">: {t("new meeting")}</span>
			</button>
			{!small && (
				<div className="text-quiet text-small max-sm:hidden">
					{many(attended.length, "1 meeting", "%d meetings")}
					{clear > 0 && <br />}
					{clear > 0 && t("%s clear", length(clear))}
					{props.holiday && (
						<span className="block truncate" title={t("public holiday: %s", props.holiday)}>
							{props.holiday}
						</span>
					)}
				</div>
			)}
		</div>
	);
}

/** Minutes of the working day in which nothing is. */
function clearMinutes(week: Schemas["Week"], meetings: Schemas["WeekMeeting"][], { day, zone }: Scale) {
	const minute = (instant: string) => Math.round(hourOf(instant, day, zone) * 60);
	const taken = new Set<number>();
	const others = week.entries.filter((e) => e.counts && e.kind !== "free");
	for (const m of [...meetings.filter((m) => !m.allDay), ...week.leave, ...others])
		for (let at = Math.max(0, minute(m.start)); at < Math.min(1440, minute(m.end)); at++) taken.add(at);
	let clear = 0;
	for (const w of week.working)
		for (let at = Math.max(0, minute(w.start)); at < Math.min(1440, minute(w.end)); at++) if (!taken.has(at)) clear++;
	return clear;
}

/** The parts of the row outside the working hours. */
function complement(working: Schemas["Span"][], { day, zone, from, until }: Scale): Schemas["Span"][] {
	const at = (hour: number) =>
		day
			.toPlainDateTime()
			.add({ minutes: Math.round(hour * 60) })
			.toZonedDateTime(zone)
			.toInstant()
			.toString();
	const out: Schemas["Span"][] = [];
	let edge = from;
	for (const w of working) {
		const [a, b] = [hourOf(w.start, day, zone), hourOf(w.end, day, zone)];
		if (b <= from || a >= until) continue;
		if (a > edge) out.push({ start: at(edge), end: at(a) });
		edge = Math.max(edge, b);
	}
	if (edge < until) out.push({ start: at(edge), end: at(until) });
	return out;
}

const morning = (day: Temporal.PlainDate) => ({ start: `${day}T09:00`, end: `${day}T10:00` });
