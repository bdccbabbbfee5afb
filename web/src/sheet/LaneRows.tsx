import { type ReactNode, useRef } from "react";
import type { Schemas } from "../api/client";
import { age } from "../hours/age";
import { city, clock, inZone, sameClock } from "../time/format";
import { useNow } from "../time/now";
import { Hours, Stretches } from "../timeline/Hours";
import { useWidth, wordsWidth } from "../timeline/measure";
import { percent, place, type Scale } from "../timeline/scale";
import { t } from "../tongue/tongue";

/** Columns of the rows: who or what, and their time. */
export const columns = "grid grid-cols-[226px_minmax(0,1fr)] max-sm:grid-cols-[118px_minmax(0,1fr)]";

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

export function PersonLane({
	lane,
	scale,
	zone,
	at,
	onAddress,
}: {
	lane: Schemas["Lane"];
	scale: Scale;
	zone: string;
	at: string;
	onAddress: () => void;
}) {
	const now = useNow();
	const note = lane.you ? t("you") : (apart(lane.zone, zone, at) ?? (lane.needed ? t("needed") : t("optional")));
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
				<span className="absolute top-1.5 left-1.5 z-[1] bg-sheet pr-1 text-[12px] text-quiet">
					{lane.hidden ? (
						t("their time is not shown to you")
					) : (
						<>
							{t("their calendar cannot be seen from here")}
							<button
								type="button"
								className="ml-1.5 text-moss underline underline-offset-2 hover:text-ink"
								onClick={onAddress}
							>
								{t("they publish it")}
								<span className="sr-only">: {lane.name}</span>
							</button>
						</>
					)}
				</span>
			)}
			{lane.staleSince && (
				<span
					title={t("One of their calendars cannot be read: what was known of it counts")}
					className="absolute right-0 bottom-0 z-[1] bg-sheet px-1 text-[11px] text-honey"
				>
					{t("part of it %s old", age(lane.staleSince, now))}
				</span>
			)}
			{lane.published && (
				<button
					type="button"
					title={t("Where they publish when they are busy")}
					className="absolute right-0 bottom-0 z-[1] bg-sheet px-1 text-[11px] text-quiet underline underline-offset-2 hover:text-ink"
					onClick={onAddress}
				>
					{t(lane.published.failing ? "%s old, not read since" : "%s old", age(lane.published.readAt, now))}
				</button>
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
	return `${city(theirs)} ${hours > 0 ? "+" : "−"}${t("%s h", Math.abs(hours))}`;
}

function busyWords(lane: Schemas["Lane"], zone: string) {
	if (!lane.timeKnown) return t("time not known");
	if (lane.busy.length === 0) return t("clear all day");
	return lane.busy
		.map(
			(b) =>
				`${b.kind === "maybe" ? t("maybe busy") : b.kind === "leave" ? t("on leave") : t("busy")} ${spokenSpan(b, zone)}`,
		)
		.join(", ");
}

const spokenSpan = (s: Schemas["Span"], zone: string) => {
	const [a, b] = [inZone(s.start, zone), inZone(s.end, zone)];
	return t("%s to %s", clock(a), clock(b));
};

const fitLooks: Record<Schemas["Stretch"]["kind"], string> = {
	fits: "bg-moss-wash border-moss border-b-4 text-moss",
	soft: "border-moss border-b-4 border-dotted text-moss",
	nearly: "border-honey border-b-4 border-dotted text-honey",
};

export function FitsLane({ day, scale, wantRoom }: { day: Schemas["Day"]; scale: Scale; wantRoom: boolean }) {
	const track = useRef<HTMLDivElement>(null);
	const width = useWidth(track);
	return (
		<Row
			scale={scale}
			height="h-[38px]"
			look="!border-y-2 !border-ink bg-[#faf7f1]"
			left={
				<>
					<b className="font-[650]">{t("Fits")}</b>
					<span className="ml-auto text-[12px] text-quiet">{wantRoom ? t("people and rooms") : t("people")}</span>
				</>
			}
		>
			<div ref={track} className="absolute inset-0" />
			{day.fits.length === 0 && (
				<span className="absolute top-2 left-2 text-honey text-small">{t("nothing fits on this day")}</span>
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

const kinds = [
	["booked", "mark-busy"],
	["asked", "mark-unanswered"],
	["hold", "mark-hold"],
	["refused", "mark-broken"],
] as const;

const heldBy = (lane: Schemas["RoomLane"], zone: string) =>
	lane.taken
		.filter((s) => s.kind === "hold" && s.until)
		.map((s) => `, ${t("held by %s until %s", s.by ?? t("somebody"), clock(inZone(s.until ?? "", zone)))}`)
		.join("");

type RoomProps = {
	lane: Schemas["RoomLane"];
	scale: Scale;
	/** Rooms of several buildings are shown: each names its own. */
	place: boolean;
	taken: boolean;
	onTake: () => void;
};

export function RoomRow({ lane, scale, place, taken, onTake }: RoomProps) {
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
						title={`${room.site}, ${room.floor}: ${room.equipment.join(", ")}${heldBy(lane, scale.zone)}`}
					>
						{room.seats} · {place ? room.site : room.floor}
					</span>
					<span className="sr-only">
						{lane.refuses ??
							(lane.clear ? (lane.asks ? t("clear then, asks its keeper") : t("clear then")) : t("taken then"))}
						{heldBy(lane, scale.zone)}
					</span>
				</label>
			}
		>
			<Stretches spans={lane.shut} scale={scale} mark="mark-off" />
			{kinds.map(([kind, mark]) => (
				<Bars key={kind} spans={lane.taken.filter((t) => t.kind === kind)} scale={scale} mark={mark} />
			))}
		</Row>
	);
}
