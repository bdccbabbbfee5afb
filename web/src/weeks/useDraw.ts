import { type PointerEvent, type RefObject, useRef, useState } from "react";
import { clock } from "../time/format";
import type { Scale } from "../timeline/scale";

const quarter = 15;

/** Drawing a stretch on a day by pointer; a press without a drag draws nothing. */
export function useDraw(
	track: RefObject<HTMLElement | null>,
	scale: Scale,
	done: (start: string, end: string) => void,
) {
	const [drawn, setDrawn] = useState<{ from: number; to: number } | null>(null);
	// Where the pointer went down; the state may lag behind a fast hand.
	const from = useRef<number | null>(null);
	const forget = () => {
		from.current = null;
		setDrawn(null);
	};
	const minuteAt = (e: PointerEvent) => {
		const box = track.current?.getBoundingClientRect();
		if (!box) return 0;
		const part = Math.min(1, Math.max(0, (e.clientX - box.left) / box.width));
		return Math.round(((scale.from + part * (scale.until - scale.from)) * 60) / quarter) * quarter;
	};
	const local = (minute: number) => scale.day.toPlainDateTime().add({ minutes: minute }).toString().slice(0, 16);
	const total = (scale.until - scale.from) * 60;
	const span = drawn && sorted(drawn);
	return {
		band: span &&
			span.end > span.start && {
				left: (span.start - scale.from * 60) / total,
				width: (span.end - span.start) / total,
				words: `${words(span.start)} – ${words(span.end)}`,
			},
		handlers: {
			onPointerDown: (e: PointerEvent) => {
				if (e.button !== 0) return;
				e.currentTarget.setPointerCapture(e.pointerId);
				from.current = minuteAt(e);
				setDrawn({ from: from.current, to: from.current });
			},
			onPointerMove: (e: PointerEvent) => from.current !== null && setDrawn({ from: from.current, to: minuteAt(e) }),
			onPointerUp: (e: PointerEvent) => {
				if (from.current === null) return;
				const { start, end } = sorted({ from: from.current, to: minuteAt(e) });
				if (end - start >= quarter) done(local(start), local(end));
				forget();
			},
			onPointerCancel: forget,
		},
	};
}

const sorted = ({ from, to }: { from: number; to: number }) => ({ start: Math.min(from, to), end: Math.max(from, to) });

const words = (minute: number) => clock({ hour: Math.floor(minute / 60), minute: minute % 60 });
