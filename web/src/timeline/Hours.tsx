import type { CSSProperties, ReactNode, Ref } from "react";
import type { Schemas } from "../api/client";
import { percent, place, type Scale } from "./scale";

/** The line of hours above rows of time. */
export function HourScale({ scale }: { scale: Pick<Scale, "from" | "until"> }) {
	const hours: number[] = [];
	for (let h = scale.from + 1; h < scale.until; h++) hours.push(h);
	return (
		<div aria-hidden className="relative h-full text-quiet text-small">
			{hours.map((h) => (
				<span
					key={h}
					className="-translate-x-1/2 absolute top-1"
					style={{ left: percent((h - scale.from) / (scale.until - scale.from)) }}
				>
					{h}
				</span>
			))}
		</div>
	);
}

/** One row of time with a line at every hour. */
export function Hours(props: {
	scale: Scale;
	children: ReactNode;
	className?: string;
	style?: CSSProperties;
	ref?: Ref<HTMLDivElement>;
}) {
	const style = { "--hour": percent(1 / (props.scale.until - props.scale.from)), ...props.style } as CSSProperties;
	return (
		<div ref={props.ref} className={`hour-lines relative border-rule border-l ${props.className ?? ""}`} style={style}>
			{props.children}
		</div>
	);
}

/** Stretches of a row that only look: off hours, leave. */
export function Stretches({
	spans,
	scale,
	mark,
	className = "inset-y-0",
}: {
	spans: Schemas["Span"][];
	scale: Scale;
	mark: string;
	className?: string;
}) {
	return spans.map((s) => {
		const at = place(s.start, s.end, scale);
		return (
			at && (
				<i
					key={s.start}
					aria-hidden
					className={`absolute ${className} ${mark}`}
					style={{ left: percent(at.left), width: percent(at.width) }}
				/>
			)
		);
	});
}
