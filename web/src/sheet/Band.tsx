import { type KeyboardEvent, type PointerEvent, type RefObject, useRef, useState } from "react";
import { clock, longDay } from "../time/format";
import { percent, place, type Scale } from "../timeline/scale";
import { t } from "../tongue/tongue";
import { instant, later, moveDay, moveStart, settled, shift, stretch, type Times, writeLocal } from "./when";

type Props = {
	rows: RefObject<HTMLDivElement | null>;
	scale: Scale;
	draft: Times;
	change: (part: Partial<Times>) => void;
};

const quarter = 15;
/** The column of names, on a wide screen and on a narrow one. */
const nameColumn = () => (window.innerWidth < 640 ? 118 : 226);

/** The time being settled, across all rows: moved and stretched by pointer or keys, or put where a press lands. */
export function Band({ rows, scale, draft: kept, change }: Props) {
	const held = useRef<{ part: "move" | "start" | "end"; x: number; draft: Times } | null>(null);
	// While it is dragged it is only drawn elsewhere: nothing is written or asked before it is let go.
	const [drawn, setDrawn] = useState<Times | null>(null);
	const draft = drawn ?? kept;
	const time = settled(draft);
	if (!time) return null;
	const at = place(instant(time.start, scale.zone) ?? "", instant(time.end, scale.zone) ?? "", scale);
	const minutesPer = () => {
		const width = (rows.current?.clientWidth ?? nameColumn() + 1) - nameColumn();
		return ((scale.until - scale.from) * 60) / width;
	};
	const grab = (part: "move" | "start" | "end") => (e: PointerEvent) => {
		if (e.button !== 0) return;
		e.stopPropagation();
		e.currentTarget.setPointerCapture(e.pointerId);
		held.current = { part, x: e.clientX, draft: kept };
	};
	const under = (e: PointerEvent): Times | null => {
		if (!held.current) return null;
		const { part, x, draft } = held.current;
		const minutes = Math.round(((e.clientX - x) * minutesPer()) / quarter) * quarter;
		return minutes === 0 ? draft : { ...draft, ...dragged(part, draft, minutes) };
	};
	const drag = (e: PointerEvent) => {
		if (held.current) setDrawn(under(e));
	};
	// Where it is let go counts, drawn by now or not: a quick hand is ahead of the picture.
	const drop = (e: PointerEvent) => {
		const to = under(e);
		if (to && to !== held.current?.draft) change({ start: to.start, end: to.end });
		forget();
	};
	const forget = () => {
		held.current = null;
		setDrawn(null);
	};
	// A press beside the band puts it there.
	const put = (e: PointerEvent) => {
		if (e.button !== 0) return;
		const box = e.currentTarget.getBoundingClientRect();
		const minute = Math.floor((scale.from * 60 + (e.clientX - box.left) * minutesPer()) / quarter) * quarter;
		const start = scale.day.toPlainDateTime().add({ minutes: minute });
		change(moveStart(draft, start));
	};
	const keys = (e: KeyboardEvent) => {
		const part = byKey(e, draft);
		if (!part) return;
		e.preventDefault();
		change(part);
	};
	const words = t("%s, %s to %s", longDay(time.start.toPlainDate()), clock(time.start), clock(time.end));
	const handle = "absolute top-[3px] h-[26px] w-2 cursor-ew-resize touch-none rounded-[3px] bg-fig";
	return (
		<div className="absolute top-6 right-0 bottom-0" style={{ left: nameColumn() }} onPointerDown={put}>
			{at && (
				<div
					role="slider"
					tabIndex={0}
					aria-label={t("Chosen time")}
					aria-valuemin={0}
					aria-valuemax={1440}
					aria-valuenow={time.start.hour * 60 + time.start.minute}
					aria-valuetext={words}
					className="absolute inset-y-0 cursor-grab touch-none rounded-[3px] border-2 border-fig bg-fig/10"
					style={{ left: percent(at.left), width: percent(at.width) }}
					onPointerDown={grab("move")}
					onPointerMove={drag}
					onPointerUp={drop}
					onPointerCancel={forget}
					onKeyDown={keys}
				>
					{drawn && (
						<span
							aria-hidden
							className="-top-[22px] absolute left-0 rounded-[3px] bg-fig px-1.5 text-[12px] text-white leading-5 whitespace-nowrap"
						>
							{clock(time.start)} – {clock(time.end)}
						</span>
					)}
					<i
						aria-hidden
						className={`${handle} -left-[5px]`}
						onPointerDown={grab("start")}
						onPointerMove={drag}
						onPointerUp={drop}
					/>
					<i
						aria-hidden
						className={`${handle} -right-[5px]`}
						onPointerDown={grab("end")}
						onPointerMove={drag}
						onPointerUp={drop}
					/>
				</div>
			)}
		</div>
	);
}

function dragged(part: "move" | "start" | "end", draft: Times, minutes: number): Partial<Times> {
	if (part === "move") return shift(draft, minutes);
	if (part === "end") return stretch(draft, minutes);
	const time = settled(draft);
	if (!time || time.minutes - minutes < quarter) return {};
	return { start: writeLocal(later(time.start, minutes, draft.zone)) };
}

/** What a key does to the time, null for one that does nothing. */
export function byKey(
	e: Pick<KeyboardEvent, "key" | "ctrlKey" | "altKey" | "metaKey" | "shiftKey">,
	draft: Times,
): Partial<Times> | null {
	if (e.ctrlKey || e.altKey || e.metaKey) return null;
	const time = settled(draft);
	const move = e.shiftKey ? stretch : shift;
	switch (e.key) {
		case "ArrowLeft":
		case "ArrowDown":
			return move(draft, -quarter);
		case "ArrowRight":
		case "ArrowUp":
			return move(draft, quarter);
		case "PageUp":
			return time ? moveDay(draft, time.start.toPlainDate().subtract({ days: 1 })) : {};
		case "PageDown":
			return time ? moveDay(draft, time.start.toPlainDate().add({ days: 1 })) : {};
	}
	return null;
}
