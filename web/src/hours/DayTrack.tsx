import { type PointerEvent, useRef, useState } from "react";
import { percent } from "../timeline/scale";
import { t } from "../tongue/tongue";
import { added, clockOf, moved, onGrid, type Stretch, written } from "./day";

/** The hours that a row shows. */
export type Shown = { from: number; until: number };

type Grip = { kind: "edge"; at: number; edge: "start" | "end" } | { kind: "draw"; from: number };

/**
 * A day as a row of time: stretches whose edges are dragged, and more where something is drawn. The field beside it says
 * the same in words: that is the way by keyboard.
 */
export function DayTrack({
	label,
	hours,
	shown,
	set,
}: {
	label: string;
	hours: Stretch[];
	shown: Shown;
	set?: (hours: Stretch[]) => void;
}) {
	const track = useRef<HTMLDivElement>(null);
	const grip = useRef<Grip>(null);
	const [held, setHeld] = useState<Stretch[] | null>(null);
	const now = held ?? hours;
	const minuteAt = (e: PointerEvent) => {
		const box = track.current?.getBoundingClientRect();
		if (!box) return 0;
		return (shown.from + ((e.clientX - box.left) / box.width) * (shown.until - shown.from)) * 60;
	};
	const take = (g: Grip) => (e: PointerEvent) => {
		if (!set || e.button !== 0) return;
		e.stopPropagation();
		e.preventDefault();
		track.current?.setPointerCapture(e.pointerId);
		grip.current = g;
		setHeld(hours);
	};
	const move = (e: PointerEvent) => {
		const g = grip.current;
		if (!g) return;
		setHeld(g.kind === "edge" ? moved(hours, g.at, g.edge, minuteAt(e)) : added(hours, g.from, minuteAt(e)));
	};
	const drop = () => {
		if (grip.current && held && written(held) !== written(hours)) set?.(held);
		grip.current = null;
		setHeld(null);
	};
	const at = (minute: number) =>
		percent(Math.min(1, Math.max(0, (minute / 60 - shown.from) / (shown.until - shown.from))));
	return (
		<div
			ref={track}
			role="img"
			aria-label={`${label}: ${written(now) || t("nothing worked")}`}
			className={`hour-lines relative h-10 touch-pan-y select-none border-rule border-l ${set ? "cursor-crosshair" : ""}`}
			style={{ "--hour": percent(1 / (shown.until - shown.from)) } as React.CSSProperties}
			onPointerDown={(e) => take({ kind: "draw", from: onGrid(minuteAt(e)) })(e)}
			onPointerMove={move}
			onPointerUp={drop}
			onPointerCancel={() => {
				grip.current = null;
				setHeld(null);
			}}
		>
			{now.map((s, i) => (
				<div
					// biome-ignore lint/suspicious/noArrayIndexKey: a stretch keeps its place while it is dragged
					key={`${i}-${now.length}`}
					className="absolute inset-y-1.5 rounded-[3px] border border-moss bg-moss-wash"
					style={{ left: at(s.start), width: `calc(${at(s.end)} - ${at(s.start)})` }}
				>
					{set &&
						(["start", "end"] as const).map((edge) => (
							<i
								key={edge}
								aria-hidden
								data-edge={edge}
								className={`absolute inset-y-1 w-[5px] cursor-ew-resize rounded-[2px] bg-moss before:absolute before:-inset-x-2 before:inset-y-0 ${edge === "start" ? "-left-[3px]" : "-right-[3px]"}`}
								onPointerDown={take({ kind: "edge", at: i, edge })}
							/>
						))}
					{held && (
						<span className="pointer-events-none absolute inset-0 truncate px-2 text-moss text-small leading-[26px]">
							{clockOf(s.start)} – {clockOf(s.end)}
						</span>
					)}
				</div>
			))}
		</div>
	);
}
