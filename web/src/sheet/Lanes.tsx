import { memo, useRef, useState } from "react";
import type { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { city, longDayNear, monday, month, plainDate, weekday } from "../time/format";
import { useNow } from "../time/now";
import { HourScale } from "../timeline/Hours";
import { useWindowHeight } from "../timeline/measure";
import { hourOf, hoursFor, type Scale } from "../timeline/scale";
import { many, t } from "../tongue/tongue";
import { Button, Empty, Note, Skeleton } from "../ui/kit";
import { Band } from "./Band";
import { columns, FitsLane, PersonLane, RoomRow } from "./LaneRows";
import type { Filter, Part } from "./part";
import { RoomFilter } from "./RoomFilter";
import { TheirAddress } from "./TheirAddress";
import { useStable } from "./useStable";
import { dayPart, instant, moveDay, readLocal, settled, type Times } from "./when";

type Props = Part & { good: Map<string, number>; error: unknown; filter: Filter; setFilter: (f: Filter) => void };

/** From so many people on, those who are clear fold away, so that the line of what fits and the rooms stay in sight. */
const unfolded = 9;
/** How many rooms are shown at least. */
const fewest = 4;

/** Everybody's time above, rooms below, and between them where both fit. */
export const Lanes = memo(function Lanes({ draft, change, day, good, error, filter, setFilter, sheet }: Props) {
	const rows = useRef<HTMLDivElement>(null);
	const [allRooms, setAllRooms] = useState(false);
	const [everybody, setEverybody] = useState(false);
	const [asking, setAsking] = useState<Schemas["Lane"] | null>(null);
	const height = useWindowHeight();
	const rooms = useStable(
		day?.rooms ?? [],
		JSON.stringify([draft.start, draft.end, draft.people.map((p) => p.email), filter, sheet.id]),
	);
	const date = plainDate(dayPart(draft.start));
	if (!date)
		return (
			<Empty title={t("No time yet.")}>
				{t("Give a day, a start and an end at the left; then everybody’s day is here.")}
			</Empty>
		);
	const chosen = chosenSpan(draft);
	const scale: Scale = {
		day: date,
		zone: draft.zone,
		...hoursFor(
			draft.allDay
				? []
				: [{ from: hourOf(chosen.start, date, draft.zone), until: hourOf(chosen.end, date, draft.zone) }],
			{
				from: 8,
				until: 19,
			},
		),
	};
	const lanes = day?.lanes ?? [];
	const folded = lanes.length >= unfolded && !everybody;
	const troubled = new Set(day?.troubles.map((t) => t.email.toLowerCase()));
	const people = folded
		? lanes.filter((l) => l.you || troubled.has(l.email.toLowerCase())).slice(0, unfolded - 2)
		: lanes;
	const spare = Math.floor((height - 270 - (draft.repeat || draft.scope ? 230 : 130) - people.length * 31) / 31);
	const some = Math.max(fewest, spare);
	const shown = allRooms ? rooms : rooms.filter((r, i) => i < some || r.room.id === draft.roomId);
	const places = new Set(rooms.map((r) => r.room.siteId)).size > 1;
	return (
		<>
			<Days date={date} good={good} onDay={(d) => change(moveDay(draft, d))} />
			{error !== null && !day && <Note tone="brick">{problemOf(error).detail}</Note>}
			{!day && error === null && <Skeleton lines={6} />}
			{day && (
				<div className="relative border border-rule bg-sheet" ref={rows}>
					<div className={`${columns} h-6 border-[#eae4d8] border-b`}>
						<div className="truncate px-3 text-quiet text-small leading-6">{t("%s time", city(draft.zone))}</div>
						<HourScale scale={scale} />
					</div>
					{people.map((l) => (
						<PersonLane
							key={l.email}
							lane={l}
							scale={scale}
							zone={draft.zone}
							at={chosen.start}
							onAddress={() => setAsking(l)}
						/>
					))}
					{lanes.length >= unfolded && (
						<Fold
							words={
								everybody
									? t("Fold those who are clear")
									: restWords(
											lanes.filter((l) => !people.includes(l)),
											troubled,
										)
							}
							onPress={() => setEverybody(!everybody)}
						/>
					)}
					<FitsLane day={day} scale={scale} wantRoom={!draft.noRoom} />
					{!draft.noRoom && (
						<div data-part="Rooms">
							<RoomFilter day={day} filter={filter} setFilter={setFilter} />
							<fieldset>
								<legend className="sr-only">{t("Room")}</legend>
								{shown.map((r) => (
									<RoomRow
										key={r.room.id}
										lane={r}
										scale={scale}
										place={places}
										taken={draft.roomId === r.room.id}
										onTake={() => change({ roomId: r.room.id })}
									/>
								))}
							</fieldset>
							{(rooms.length > shown.length || (allRooms && rooms.length > some)) && (
								<Fold
									words={
										allRooms ? t("Fewer rooms") : many(rooms.length - shown.length, "1 more room", "%d more rooms")
									}
									onPress={() => setAllRooms(!allRooms)}
								/>
							)}
							{day.rooms.length === 0 && (
								<p className="p-3 text-quiet text-small">
									{t("No room has %s seats and what is asked for. Ask for less, or meet by link.", day.seats)}
								</p>
							)}
						</div>
					)}
					{asking && <TheirAddress lane={asking} onClose={() => setAsking(null)} />}
					{!draft.allDay && <Band rows={rows} scale={scale} draft={draft} change={change} key={sheet.id} />}
				</div>
			)}
		</>
	);
});

/** "12 more people, 2 busy then" */
function restWords(rest: { email: string }[], troubled: Set<string>) {
	const busy = rest.filter((l) => troubled.has(l.email.toLowerCase())).length;
	if (busy > 0)
		return many(rest.length, "1 more person, %[2]d not clear then", "%[1]d more people, %[2]d not clear then", busy);
	return many(rest.length, "1 more person is clear then", "%d more people are clear then");
}

const Fold = ({ words, onPress }: { words: string; onPress: () => void }) => (
	<div className="relative z-10 border-[#eae4d8] border-b bg-sheet px-[11px]">
		<Button look="bare" className="text-small" onClick={onPress}>
			{words}
		</Button>
	</div>
);

/** The time on the sheet as instants; where it makes no meeting, an hour from its start, so that the day stays in sight. */
function chosenSpan(draft: Times) {
	const time = settled(draft);
	const start = time?.start ?? readLocal(draft.start);
	const end = time?.end ?? start?.add({ hours: 1 });
	return {
		start: (start && instant(start, draft.zone)) ?? "1970-01-01T00:00:00Z",
		end: (end && instant(end, draft.zone)) ?? "1970-01-01T00:00:00Z",
	};
}

/** How many good openings a day holds: up to three marks. */
const Marks = ({ good }: { good: number }) => (
	<span className="mt-px flex h-1 gap-0.5">
		{[1, 2, 3].slice(0, good).map((n) => (
			<i key={n} aria-hidden className="block h-1 w-2.5 rounded-[1px] bg-moss" />
		))}
		{good > 0 && <span className="sr-only">{good === 3 ? t("three good openings or more") : t("%s good", good)}</span>}
	</span>
);

type DaysProps = { date: Temporal.PlainDate; good: Map<string, number>; onDay: (d: Temporal.PlainDate) => void };

function Days({ date, good, onDay }: DaysProps) {
	const { zone } = useSignedIn();
	const today = useNow().toZonedDateTimeISO(zone).toPlainDate();
	const first = monday(date);
	return (
		<div className="mb-2.5 flex flex-wrap items-center gap-1.5">
			<h2 className="mr-auto text-[17px]">{longDayNear(date, today)}</h2>
			<Button aria-label={t("Week before")} onClick={() => onDay(date.subtract({ days: 7 }))}>
				←
			</Button>
			{Array.from({ length: 7 }, (_, i) => first.add({ days: i })).map((d) => (
				<button
					key={d.toString()}
					type="button"
					aria-pressed={d.equals(date)}
					onClick={() => onDay(d)}
					className={`rounded-[4px] border bg-sheet px-2 py-[2px] leading-[21px] hover:border-ink ${d.equals(date) ? "border-fig font-[650] shadow-[inset_0_-3px_0_var(--color-fig)]" : "border-rule"} ${d.dayOfWeek > 5 ? "text-quiet" : ""}`}
				>
					{weekday(d)} {d.day}
					<span className="sr-only"> {month(d)}</span>
					<Marks good={good.get(d.toString()) ?? 0} />
				</button>
			))}
			<Button aria-label={t("Week after")} onClick={() => onDay(date.add({ days: 7 }))}>
				→
			</Button>
		</div>
	);
}
