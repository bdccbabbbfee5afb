import { type PointerEvent, useRef, useState } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useChangeMeeting } from "../meeting/deeds";
import { clock, inZone } from "../time/format";
import type { Scale } from "../timeline/scale";

const quarter = 15;
/** Less than this many pixels is a press, not a drag. */
const still = 5;

/**
 * Dragging a meeting of one's own to another time or day: it opens the sheet with the change, where it is looked at and
 * sent. A date of a series moves alone at first; the bracket there says which others are meant.
 */
export function useMove(m: Schemas["WeekMeeting"], scale: Scale, rowWidth: number) {
	const change = useChangeMeeting(m.id);
	const [by, setBy] = useState<{ x: number; y: number; words: string } | null>(null);
	const held = useRef<{ x: number; y: number } | null>(null);
	const moved = useRef(false);
	const mine = m.standing === "mine" || m.standing === "broken";
	const target = (e: PointerEvent) => {
		const from = held.current ?? { x: e.clientX, y: e.clientY };
		const perPixel = ((scale.until - scale.from) * 60) / rowWidth;
		const minutes = Math.round(((e.clientX - from.x) * perPixel) / quarter) * quarter;
		const row = document
			.elementsFromPoint(e.clientX, e.clientY)
			.map((x) => x.closest<HTMLElement>("[data-row]")?.dataset.row)
			.find(Boolean);
		const days = row ? scale.day.until(Temporal.PlainDate.from(row)).days : 0;
		const start = inZone(m.start, scale.zone).toPlainDateTime().add({ days, minutes });
		return { start: start.toZonedDateTime(scale.zone).toInstant().toString(), words: clock(start) };
	};
	const forget = () => {
		held.current = null;
		setBy(null);
	};
	return {
		mine,
		by,
		/** Whether a press was one, and not the end of a drag. */
		still: () => {
			const was = moved.current;
			moved.current = false;
			return !was;
		},
		handlers: mine
			? {
					onPointerDown: (e: PointerEvent) => {
						if (e.button !== 0) return;
						held.current = { x: e.clientX, y: e.clientY };
						moved.current = false;
						e.currentTarget.setPointerCapture(e.pointerId);
					},
					onPointerMove: (e: PointerEvent) => {
						if (!held.current) return;
						const [x, y] = [e.clientX - held.current.x, e.clientY - held.current.y];
						if (!moved.current && Math.hypot(x, y) < still) return;
						moved.current = true;
						setBy({ x, y, words: target(e).words });
					},
					onPointerUp: (e: PointerEvent) => {
						if (moved.current) {
							const { start } = target(e);
							const same = Temporal.Instant.from(start).equals(Temporal.Instant.from(m.start));
							if (!same) change.mutate({ at: m.on, start, one: m.series });
						}
						forget();
					},
					onPointerCancel: forget,
				}
			: {},
	};
}
