import { useRef } from "react";
import { useNavigate } from "react-router";
import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { clock, inZone } from "../time/format";
import { Hours, Stretches } from "../timeline/Hours";
import { wordsWidth } from "../timeline/measure";
import { Drawn, NowLine } from "../timeline/RowMarks";
import { percent, type Scale } from "../timeline/scale";
import { type Placed, usePlaced } from "../timeline/usePlaced";
import { t } from "../tongue/tongue";
import { useDraw } from "../weeks/useDraw";
import { spokenUse } from "./spokenUse";

type RoomUse = Schemas["RoomUse"];

const laneHeight = 33;

type Props = {
	uses: RoomUse[];
	shut: Schemas["Span"][];
	scale: Scale;
	now: Temporal.Instant | null;
	/** Said where nothing is: "clear all day". */
	empty?: string;
	onDraw: (start: string, end: string) => void;
};

/** What a room is taken by along a day; a stretch drawn on it starts a sheet. */
export function Uses({ uses, shut, scale, now, empty, onDraw }: Props) {
	const track = useRef<HTMLDivElement>(null);
	const navigate = useNavigate();
	const draw = useDraw(track, scale, onDraw);
	const { placed, lanes, width } = usePlaced(track, uses, scale, (u) => wordsWidth(spokenUse(u, scale.zone)) + 8);
	return (
		<Hours
			ref={track}
			scale={scale}
			style={{ height: Math.max(46, 6 + lanes * laneHeight + 4) }}
			className="touch-pan-y select-none"
		>
			<Stretches spans={shut} scale={scale} mark="mark-off" />
			<div className="absolute inset-0 cursor-crosshair" {...draw.handlers} />
			{empty && uses.length === 0 && (
				<span className="pointer-events-none absolute top-3 left-1.5 text-quiet text-small">{empty}</span>
			)}
			<Drawn band={draw.band} />
			<NowLine now={now} scale={scale} />
			{width > 0 &&
				placed.map((p) => (
					<Use
						key={p.thing.start}
						placed={p}
						zone={scale.zone}
						rowWidth={width}
						onOpen={
							p.thing.meetingId
								? () => navigate(`/meeting/${p.thing.meetingId}${p.thing.on ? `?date=${p.thing.on}` : ""}`)
								: undefined
						}
					/>
				))}
		</Hours>
	);
}

const marks = (u: RoomUse) =>
	u.kind === "hold" ? "mark-hold" : u.kind === "asked" ? "mark-unanswered" : u.mine ? "mark-mine" : "mark-busy";

const inks = (u: RoomUse) =>
	u.kind === "hold" ? "text-fig" : u.kind === "asked" ? "text-honey" : u.mine ? "font-[650]" : "text-quiet";

type UseProps = { placed: Placed<RoomUse>; zone: string; rowWidth: number; onOpen: (() => void) | undefined };

function Use({ placed: { thing: use, at, lane, shift }, zone, rowWidth, onOpen }: UseProps) {
	const times = `${clock(inZone(use.start, zone))} – ${clock(inZone(use.end, zone))}`;
	const style = {
		left: at.left === 1 ? "calc(100% - 6px)" : percent(at.left),
		width: `calc(${percent(at.width)} - 2px)`,
		top: 6 + lane * laneHeight,
		minWidth: 4,
	};
	const inner = (
		<>
			<i className={`block h-2 rounded-[2px] ${marks(use)}`} />
			<span
				className={`relative mt-px block h-5 truncate rounded-[2px] bg-sheet pr-1 text-left text-small leading-5 ${inks(use)}`}
				style={{ marginLeft: -shift, maxWidth: rowWidth, width: "max-content" }}
			>
				{spokenUse(use, zone)}
				<span className="sr-only">, {times}</span>
			</span>
		</>
	);
	if (!onOpen)
		return (
			<div title={times} className="pointer-events-none absolute" style={style}>
				{inner}
			</div>
		);
	return (
		<button
			type="button"
			title={t("%s, press to open", times)}
			onClick={onOpen}
			className="absolute block"
			style={style}
		>
			{inner}
		</button>
	);
}
