import { useCallback, useRef } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Temporal } from "temporal-polyfill";
import { ProblemError, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useSheets } from "../sheet/deeds";
import { useOpenSheet } from "../sheet/open";
import { titleOf } from "../sheet/titleOf";
import { useKeys } from "../shell/keys";
import { useTitle } from "../shell/title";
import { dayNear, monday, month, plainDate } from "../time/format";
import { useNow } from "../time/now";
import { HourScale } from "../timeline/Hours";
import { hourOf, hoursFor } from "../timeline/scale";
import { t } from "../tongue/tongue";
import { Button, Empty, Kbd, Note, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { DayRow } from "./DayRow";
import { useWatched, useWeek } from "./deeds";
import { MonthGlance } from "./MonthGlance";
import { Side } from "./Side";
import { Soon } from "./Soon";
import { Watching } from "./Watching";

/** Seven days of one's own, a row a day. */
export function Weeks() {
	const me = useSignedIn();
	const now = useNow();
	const [params, setParams] = useSearchParams();
	const today = now.toZonedDateTimeISO(me.zone).toPlainDate();
	const first = monday(plainDate(params.get("from")) ?? today);
	const chosen = params.get("meeting");
	const date = params.get("date") ?? "";
	const week = useWeek(first);
	const watched = useWatched(first).data?.items ?? none;
	const open = useOpenSheet();
	const go = (to: Temporal.PlainDate) => setParams(to.equals(monday(today)) ? {} : { from: to.toString() });
	const side = useRef<HTMLElement>(null);
	const toSide = useRef(false); // who chooses by key goes on in the panel
	useTitle(t("Week %s", first.weekOfYear));
	const navigate = useNavigate();
	const choose = (m: { id: string; on: string; outside?: boolean } | null, byKey = false) => {
		if (m?.outside) return navigate(`/invitation/${m.id}`);
		toSide.current = byKey;
		if (byKey && m && `${m.id} ${m.on}` === `${chosen} ${date}`) side.current?.focus();
		setParams((p) => {
			if (m) {
				p.set("meeting", m.id);
				p.set("date", m.on);
			} else {
				p.delete("meeting");
				p.delete("date");
			}
			return p;
		});
	};
	const panel = useCallback((element: HTMLElement | null) => {
		side.current = element;
		if (element && toSide.current) element.focus();
	}, []);
	const back = () => {
		const mark = document.querySelector<HTMLElement>(`[data-mark="${chosen} ${date}"]`);
		if (mark && side.current?.contains(document.activeElement)) mark.focus();
		else choose(null);
	};
	const move = (weeks: number) => () => go(first.add({ weeks }));
	useKeys({
		ArrowLeft: move(-1),
		ArrowRight: move(1),
		t: () => go(monday(today)),
		...(chosen && { Escape: back }),
	});
	const outside = week.error instanceof ProblemError && week.error.problem.status === 422;
	return (
		<div className="flex min-w-0 flex-1 flex-wrap lg:flex-nowrap">
			<main className="min-w-0 flex-1 py-3.5 pr-5 pl-5 max-sm:px-2">
				<div className="mb-2 flex flex-wrap items-center gap-2">
					<h1 className="text-[23px]">{t("Week %s", first.weekOfYear)}</h1>
					<span className="mr-1.5 text-quiet">{weekWords(first, today)}</span>
					<Button aria-label={t("Week before")} onClick={() => go(first.subtract({ days: 7 }))}>
						←
					</Button>
					<Button disabled={first.equals(monday(today))} onClick={() => go(monday(today))}>
						{t("This week")}
					</Button>
					<Button aria-label={t("Week after")} onClick={() => go(first.add({ days: 7 }))}>
						→
					</Button>
					<MonthGlance shown={first} today={today} onWeek={go} />
					<Watching watched={watched} />
					<a
						href={`/api/weeks/file?from=${first}`}
						className="text-small"
						title={t("This week as a calendar file (.ics)")}
					>
						.ics
					</a>
					<Button look="go" className="ml-auto" onClick={() => open({})}>
						{t("New meeting")}
						<Kbd onDark>m</Kbd>
					</Button>
				</div>
				<Unsent today={today} />
				{week.data && <Soon meetings={week.data.meetings} now={now} />}
				{week.data && week.data.broken.length > 0 && (
					<p className="mb-2 text-honey text-small">
						{t("%s cannot be read: what was known of it counts, and may be old.", week.data.broken.join(", "))}{" "}
						<Link to="/hours">{t("Look at it")}</Link>
					</p>
				)}
				{outside && (
					<Note>
						{problemOf(week.error).errors?.[0]?.detail}{" "}
						<Button look="bare" onClick={() => go(monday(today))}>
							{t("Go to this week")}
						</Button>
					</Note>
				)}
				{week.error && !outside && !week.data && <TryAgain error={week.error} again={() => week.refetch()} />}
				{week.isPending && <Skeleton lines={6} />}
				{week.data && !outside && (
					<Rows
						week={week.data}
						watched={watched}
						first={first}
						today={today}
						now={now}
						chosen={chosen && `${chosen} ${date}`}
						choose={choose}
					/>
				)}
				{week.data?.meetings.length === 0 && !outside && (
					<div className="mt-3">
						<Empty
							title={t("No meetings this week.")}
							action={<Button onClick={() => open({})}>{t("Set one up")}</Button>}
						>
							{t("Drag over a stretch of a day, or press m.")}
						</Empty>
					</div>
				)}
			</main>
			{chosen && <Side ref={panel} key={`${chosen} ${date}`} id={chosen} on={date} onClose={() => choose(null)} />}
		</div>
	);
}

/** "23 – 29 November", with the year where it is not this one. */
function weekWords(first: Temporal.PlainDate, today: Temporal.PlainDate) {
	const last = first.add({ days: 6 });
	const year = last.year === today.year && first.year === today.year ? "" : ` ${last.year}`;
	const from = first.month === last.month ? `${first.day}` : `${first.day} ${month(first)}`;
	return `${from}${first.year === last.year ? "" : ` ${first.year}`} – ${last.day} ${month(last)}${year}`;
}

const none: Schemas["WatchedTime"][] = [];

type RowsProps = {
	week: Schemas["Week"];
	watched: Schemas["WatchedTime"][];
	first: Temporal.PlainDate;
	today: Temporal.PlainDate;
	now: Temporal.Instant;
	chosen: string | null;
	choose: (m: Schemas["WeekMeeting"], byKey: boolean) => void;
};

function Rows({ week, watched, first, today, now, chosen, choose }: RowsProps) {
	const days = Array.from({ length: 7 }, (_, i) => first.add({ days: i }));
	const timed = [...week.meetings.filter((m) => !m.allDay), ...week.entries.filter((e) => !e.wholeDay)];
	const spans = timed.flatMap((m) =>
		days
			.map((d) => ({ from: hourOf(m.start, d, week.zone), until: hourOf(m.end, d, week.zone) }))
			.filter((s) => s.until > 0 && s.from < 24),
	);
	const hours = hoursFor(spans);
	return (
		<div className="overflow-hidden border border-rule bg-sheet">
			<div className="grid h-[26px] grid-cols-[104px_minmax(0,1fr)] max-sm:grid-cols-[58px_minmax(0,1fr)] border-rule border-b">
				<span />
				<HourScale scale={hours} />
			</div>
			{days.map((day) => (
				<DayRow
					key={day.toString()}
					week={week}
					watched={watched}
					scale={{ day, zone: week.zone, ...hours }}
					isToday={day.equals(today)}
					now={now}
					chosen={chosen}
					choose={choose}
				/>
			))}
		</div>
	);
}

/** The last sheets that were begun and not sent; all of them are one press away. */
function Unsent({ today }: { today: Temporal.PlainDate }) {
	const drafts = useSheets(few + 1).data?.items ?? [];
	if (drafts.length === 0) return null;
	return (
		<p className="mb-2 min-w-0 truncate text-small">
			<Link to="/drafts" className="text-quiet">
				{t("Not sent yet")}
			</Link>
			<span className="text-quiet">: </span>
			{drafts.slice(0, few).map((s, i) => (
				<span key={s.id}>
					{i > 0 && <span className="text-quiet"> · </span>}
					<Link to={`/sheet/${s.id}`} className="inline-block max-w-[220px] truncate align-bottom underline">
						{s.meetingId ? t("changes to %s", titleOf(s)) : titleOf(s)}
					</Link>
					<span className="text-quiet">
						{" "}
						{draftDay(s.start, today)}
						{s.sendAt && `, ${t("goes out by itself")}`}
					</span>
				</span>
			))}
			{drafts.length > few && (
				<>
					<span className="text-quiet"> · </span>
					<Link to="/drafts">{t("all of them")}</Link>
				</>
			)}
		</p>
	);
}

const few = 3;

function draftDay(start: string, today: Temporal.PlainDate) {
	const day = plainDate(start.slice(0, 10));
	return day ? dayNear(day, today) : "";
}
