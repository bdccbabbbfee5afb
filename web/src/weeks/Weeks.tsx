import { Link, useSearchParams } from "react-router";
import { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useOpenSheet } from "../sheet/deeds";
import { monday, month, shortDay } from "../time/format";
import { useNow } from "../time/now";
import { HourScale } from "../timeline/Hours";
import { hourOf, hoursFor } from "../timeline/scale";
import { Button, Empty, Kbd, Note, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { DayRow } from "./DayRow";
import { useDrafts, useWeek } from "./deeds";
import { Side } from "./Side";

/** Seven days of one's own, a row a day. */
export function Weeks() {
	const me = useSignedIn();
	const now = useNow();
	const [params, setParams] = useSearchParams();
	const today = now.toZonedDateTimeISO(me.zone).toPlainDate();
	const first = monday(readDay(params.get("from")) ?? today);
	const chosen = params.get("meeting");
	const date = params.get("date") ?? "";
	const week = useWeek(first);
	const open = useOpenSheet();
	const go = (to: Temporal.PlainDate) => setParams(to.equals(monday(today)) ? {} : { from: to.toString() });
	const choose = (m: { id: string; on: string } | null) =>
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
	const last = first.add({ days: 6 });
	return (
		<div className="flex flex-1 flex-wrap lg:flex-nowrap">
			<main className="min-w-0 flex-1 py-3.5 pr-5 pl-5">
				<div className="mb-2 flex flex-wrap items-center gap-2">
					<h1 className="text-[23px]">Week {first.weekOfYear}</h1>
					<span className="mr-1.5 text-quiet">
						{first.month === last.month ? first.day : `${first.day} ${month(first)}`} – {last.day} {month(last)}
					</span>
					<Button aria-label="Week before" onClick={() => go(first.subtract({ days: 7 }))}>
						←
					</Button>
					<Button disabled={first.equals(monday(today))} onClick={() => go(monday(today))}>
						This week
					</Button>
					<Button aria-label="Week after" onClick={() => go(first.add({ days: 7 }))}>
						→
					</Button>
					<Button look="go" className="ml-auto" busy={open.isPending} onClick={() => open.mutate({})}>
						New meeting<Kbd onDark>m</Kbd>
					</Button>
				</div>
				<Drafts />
				{open.error && <Note tone="brick">{problemOf(open.error).detail}</Note>}
				{week.error && !week.data && <TryAgain error={week.error} again={() => week.refetch()} />}
				{week.isPending && <Skeleton lines={6} />}
				{week.data && (
					<Rows
						week={week.data}
						first={first}
						today={today}
						now={now}
						chosen={chosen && `${chosen} ${date}`}
						choose={choose}
					/>
				)}
				{week.data?.meetings.length === 0 && (
					<div className="mt-3">
						<Empty title="No meetings this week." action={<Button onClick={() => open.mutate({})}>Set one up</Button>}>
							Drag over a stretch of a day, or press m.
						</Empty>
					</div>
				)}
			</main>
			{chosen && <Side key={`${chosen} ${date}`} id={chosen} on={date} onClose={() => choose(null)} />}
		</div>
	);
}

function readDay(text: string | null) {
	try {
		return text ? Temporal.PlainDate.from(text) : null;
	} catch {
		return null;
	}
}

type RowsProps = {
	week: Schemas["Week"];
	first: Temporal.PlainDate;
	today: Temporal.PlainDate;
	now: Temporal.Instant;
	chosen: string | null;
	choose: (m: { id: string; on: string } | null) => void;
};

function Rows({ week, first, today, now, chosen, choose }: RowsProps) {
	const days = Array.from({ length: 7 }, (_, i) => first.add({ days: i }));
	const spans = week.meetings.flatMap((m) =>
		days
			.map((d) => ({ from: hourOf(m.start, d, week.zone), until: hourOf(m.end, d, week.zone) }))
			.filter((s) => s.until > 0 && s.from < 24),
	);
	const hours = hoursFor(spans);
	return (
		<div className="border border-rule bg-sheet">
			<div className="grid h-[26px] grid-cols-[104px_minmax(0,1fr)] border-rule border-b">
				<span />
				<HourScale scale={hours} />
			</div>
			{days.map((day) => (
				<DayRow
					key={day.toString()}
					week={week}
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

/** Sheets that were begun and not sent. */
function Drafts() {
	const drafts = useDrafts().data?.items ?? [];
	if (drafts.length === 0) return null;
	return (
		<p className="mb-2 text-small">
			<span className="text-quiet">Not sent yet: </span>
			{drafts.map((s, i) => (
				<span key={s.id}>
					{i > 0 && <span className="text-quiet"> · </span>}
					<Link to={`/sheet/${s.id}`}>
						{s.meetingId ? "changes to " : ""}
						{s.title.trim() || "untitled"}
					</Link>
					<span className="text-quiet"> {draftDay(s.start)}</span>
				</span>
			))}
		</p>
	);
}

function draftDay(start: string) {
	const day = readDay(start.slice(0, 10));
	return day ? shortDay(day) : "";
}
