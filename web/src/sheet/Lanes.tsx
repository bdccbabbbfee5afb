import { memo, type ReactNode, useRef, useState } from "react";
import { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { city, inZone, longDayNear, monday, month, sameClock, weekday } from "../time/format";
import { useNow } from "../time/now";
import { HourScale, Hours, Stretches } from "../timeline/Hours";
import { useWidth, useWindowHeight, wordsWidth } from "../timeline/measure";
import { hourOf, hoursFor, percent, place, type Scale } from "../timeline/scale";
import { Button, Empty, Note, Skeleton } from "../ui/kit";
import { Band } from "./Band";
import type { Filter, Part } from "./part";
import { RoomFilter } from "./RoomFilter";
import { useStable } from "./useStable";
import { dayPart, instant, moveDay, readLocal, settled, type Times } from "./when";

type Props = Part & { error: unknown; filter: Filter; setFilter: (f: Filter) => void };

/** Columns of the rows: who or what, and their time. */
const columns = "grid grid-cols-[226px_minmax(0,1fr)] max-sm:grid-cols-[118px_minmax(0,1fr)]";

/** From so many people on, those who are clear fold away, so that the line of what fits and the rooms stay in sight. */
const many = 9;
/** How many rooms are shown at least. */
const fewest = 4;

/** Everybody's time above, rooms below, and between them where both fit. */
export const Lanes = memo(function Lanes({ draft, change, day, dates, error, filter, setFilter, sheet }: Props) {
	const rows = useRef<HTMLDivElement>(null);
	const [allRooms, setAllRooms] = useState(false);
	const [everybody, setEverybody] = useState(false);
	const height = useWindowHeight();
	const rooms = useStable(
		day?.rooms ?? [],
		JSON.stringify([draft.start, draft.end, draft.people.map((p) => p.email), filter, sheet.id]),
	);
	const date = readDate(dayPart(draft.start));
	if (!date)
		return (
			<Empty title="No time yet.">Give a day, a start and an end at the left; then everybody’s day is here.</Empty>
		);
	const chosen = chosenSpan(draft);
	const scale: Scale = {
		day: date,
		zone: draft.zone,
		...hoursFor([{ from: hourOf(chosen.start, date, draft.zone), until: hourOf(chosen.end, date, draft.zone) }], {
			from: 8,
			until: 19,
		}),
	};
	const lanes = day?.lanes ?? [];
	const folded = lanes.length >= many && !everybody;
	const troubled = new Set(day?.troubles.map((t) => t.email.toLowerCase()));
	const people = folded ? lanes.filter((l) => l.you || troubled.has(l.email.toLowerCase())).slice(0, many - 2) : lanes;
	const spare = Math.floor((height - 270 - (dates ? 230 : 0) - people.length * 31) / 31);
	const some = Math.max(fewest, spare);
	const shown = allRooms ? rooms : rooms.filter((r, i) => i < some || r.room.id === draft.roomId);
	const places = new Set(rooms.map((r) => r.room.siteId)).size > 1;
	return (
		<>
			<Days date={date} onDay={(d) => change(moveDay(draft, d))} />
			{error !== null && !day && <Note tone="brick">{problemOf(error).detail}</Note>}
			{!day && error === null && <Skeleton lines={6} />}
			{day && (
				<div className="relative border border-rule bg-sheet" ref={rows}>
					<div className={`${columns} h-6 border-[#eae4d8] border-b`}>
						<div className="truncate px-3 text-quiet text-small leading-6">{city(draft.zone)} time</div>
						<HourScale scale={scale} />
					</div>
					{people.map((l) => (
						<PersonLane key={l.email} lane={l} scale={scale} zone={draft.zone} at={chosen.start} />
					))}
					{lanes.length >= many && (
						<Fold
							words={
								everybody ? "Fold those who are clear" : `${lanes.length - people.length} more people are clear then`
							}
							onPress={() => setEverybody(!everybody)}
						/>
					)}
					<FitsLane day={day} scale={scale} wantRoom={!draft.noRoom} />
					{!draft.noRoom && (
						<div data-part="Rooms">
							<RoomFilter day={day} filter={filter} setFilter={setFilter} />
							<fieldset>
								<legend className="sr-only">Room</legend>
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
							{rooms.length > some && (
								<Fold
									words={allRooms ? "Fewer rooms" : `${rooms.length - shown.length} more rooms`}
									onPress={() => setAllRooms(!allRooms)}
								/>
							)}
							{day.rooms.length === 0 && (
								<p className="p-3 text-quiet text-small">
									No room has {day.seats} seats and what is asked for. Ask for less, or meet by link.
								</p>
							)}
						</div>
					)}
					<Band rows={rows} scale={scale} draft={draft} change={change} key={sheet.id} />
				</div>
			)}
		</>
	);
});

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

function readDate(text: string) {
	try {
		return Temporal.PlainDate.from(text);
	} catch {
		return null;
	}
}

function Days({ date, onDay }: { date: Temporal.PlainDate; onDay: (d: Temporal.PlainDate) => void }) {
	const { zone } = useSignedIn();
	const today = useNow().toZonedDateTimeISO(zone).toPlainDate();
	const first = monday(date);
	return (
		<div className="mb-2.5 flex flex-wrap items-center gap-1.5">
			<h2 className="mr-auto text-[17px]">{longDayNear(date, today)}</h2>
			<Button aria-label="Week before" onClick={() => onDay(date.subtract({ days: 7 }))}>
				←
			</Button>
			{Array.from({ length: 7 }, (_, i) => first.add({ days: i })).map((d) => (
				<button
					key={d.toString()}
					type="button"
					aria-pressed={d.equals(date)}
					onClick={() => onDay(d)}
					className={`rounded-[4px] border bg-sheet px-2 py-[5px] leading-[21px] hover:border-ink ${d.equals(date) ? "border-fig font-[650] shadow-[inset_0_-3px_0_var(--color-fig)]" : "border-rule"} ${d.dayOfWeek > 5 ? "text-quiet" : ""}`}
				>
					{weekday(d)} {d.day}
					<span className="sr-only"> {month(d)}</span>
				</button>
			))}
			<Button aria-label="Week after" onClick={() => onDay(date.add({ days: 7 }))}>
				→
			</Button>
		</div>
	);
}

/** A row of the day: who or what at the left, their time at the right. */
function Row(props: { scale: Scale; left: ReactNode; children: ReactNode; look?: string; height?: string }) {
	return (
		<div
			className={`${columns} ${props.height ?? "h-[31px]"} border-[#eae4d8] border-b last:border-b-0 ${props.look ?? ""}`}
		>
			<div className="flex min-w-0 items-center gap-1.5 whitespace-nowrap pr-2 pl-[11px] text-body">{props.left}</div>
			<Hours scale={props.scale} className="overflow-hidden">
				{props.children}
			</Hours>
		</div>
	);
}

function Bars({ spans, scale, mark }: { spans: Schemas["Span"][]; scale: Scale; mark: string }) {
	return <Stretches spans={spans} scale={scale} mark={`${mark} rounded-[2px]`} className="top-2 h-[15px]" />;
}

const marks = { busy: "mark-busy", maybe: "mark-busy-maybe", leave: "mark-leave" } as const;

function PersonLane({ lane, scale, zone, at }: { lane: Schemas["Lane"]; scale: Scale; zone: string; at: string }) {
	const note = lane.you ? "you" : (apart(lane.zone, zone, at) ?? (lane.needed ? "needed" : "optional"));
	return (
		<Row
			scale={scale}
			left={
				<>
					<span className={`truncate ${lane.needed ? "" : "text-quiet"}`}>{lane.name}</span>
					<span className="ml-auto text-[12px] text-quiet">{note}</span>
					<span className="sr-only">{busyWords(lane, zone)}</span>
				</>
			}
		>
			<Stretches spans={lane.off} scale={scale} mark="mark-off" />
			{!lane.timeKnown && (
				<span className="absolute top-1.5 left-1.5 bg-sheet pr-1 text-[12px] text-quiet">
					their calendar cannot be seen from here
				</span>
			)}
			{(["busy", "maybe", "leave"] as const).map((kind) => (
				<Bars key={kind} spans={lane.busy.filter((b) => b.kind === kind)} scale={scale} mark={marks[kind]} />
			))}
		</Row>
	);
}

/** "Tokyo +9 h", for somebody whose clock shows another time. */
function apart(theirs: string | undefined, zone: string, at: string) {
	if (!theirs || sameClock(at, theirs, zone)) return null;
	const hours = (inZone(at, theirs).offsetNanoseconds - inZone(at, zone).offsetNanoseconds) / 3.6e12;
	return `${city(theirs)} ${hours > 0 ? "+" : "−"}${Math.abs(hours)} h`;
}

function busyWords(lane: Schemas["Lane"], zone: string) {
	if (!lane.timeKnown) return "time not known";
	if (lane.busy.length === 0) return "clear all day";
	return lane.busy
		.map(
			(b) => `${b.kind === "maybe" ? "maybe busy" : b.kind === "leave" ? "on leave" : "busy"} ${spokenSpan(b, zone)}`,
		)
		.join(", ");
}

const spokenSpan = (s: Schemas["Span"], zone: string) => {
	const [a, b] = [inZone(s.start, zone), inZone(s.end, zone)];
	return `${a.hour}:${String(a.minute).padStart(2, "0")} to ${b.hour}:${String(b.minute).padStart(2, "0")}`;
};

const fitLooks: Record<Schemas["Stretch"]["kind"], string> = {
	fits: "bg-moss-wash border-moss border-b-4 text-moss",
	soft: "border-moss border-b-4 border-dotted text-moss",
	nearly: "border-honey border-b-4 border-dotted text-honey",
};

function FitsLane({ day, scale, wantRoom }: { day: Schemas["Day"]; scale: Scale; wantRoom: boolean }) {
	const track = useRef<HTMLDivElement>(null);
	const width = useWidth(track);
	return (
		<Row
			scale={scale}
			height="h-[38px]"
			look="!border-y-2 !border-ink bg-[#faf7f1]"
			left={
				<>
					<b className="font-[650]">Fits</b>
					<span className="ml-auto text-[12px] text-quiet">{wantRoom ? "people and rooms" : "people"}</span>
				</>
			}
		>
			<div ref={track} className="absolute inset-0" />
			{day.fits.length === 0 && (
				<span className="absolute top-2 left-2 text-honey text-small">nothing fits on this day</span>
			)}
			{day.fits.map((s) => {
				const at = place(s.start, s.end, scale);
				if (!at) return null;
				const room = at.width * width > wordsWidth(s.words, fitFont) + 8;
				return (
					<span
						key={s.start}
						title={`${spokenSpan(s, scale.zone)}: ${s.words}`}
						className={`absolute inset-y-0 overflow-hidden whitespace-nowrap pt-[5px] pl-1 text-[11.5px] ${fitLooks[s.kind]}`}
						style={{ left: percent(at.left), width: percent(at.width) }}
					>
						{room ? s.words : <span className="sr-only">{s.words}</span>}
					</span>
				);
			})}
		</Row>
	);
}

const fitFont = "400 11.5px 'Atkinson Hyperlegible Next Variable'";

type RoomProps = {
	lane: Schemas["RoomLane"];
	scale: Scale;
	/** Rooms of several buildings are shown: each names its own. */
	place: boolean;
	taken: boolean;
	onTake: () => void;
};

function RoomRow({ lane, scale, place, taken, onTake }: RoomProps) {
	const { room } = lane;
	return (
		<Row
			scale={scale}
			look={taken ? "bg-fig-wash" : ""}
			left={
				<label className="flex w-full min-w-0 cursor-pointer items-center gap-1.5">
					<input type="radio" name="room" className="accent-fig" checked={taken} onChange={onTake} />
					<span className={`shrink-0 truncate max-sm:shrink ${taken ? "font-[650]" : ""}`}>{room.name}</span>
					<span
						className="ml-auto min-w-0 truncate text-[12px] text-quiet max-sm:hidden"
						title={`${room.site}, ${room.floor}: ${room.equipment.join(", ")}`}
					>
						{room.seats} · {place ? room.site : room.floor}
					</span>
					<span className="sr-only">{lane.clear ? "clear then" : "taken then"}</span>
				</label>
			}
		>
			<Bars spans={lane.taken} scale={scale} mark="mark-busy" />
		</Row>
	);
}
