import { type KeyboardEvent, type PointerEvent, type ReactNode, type RefObject, useEffect, useRef } from "react";
import { useKeys } from "../shell/keys";
import { t } from "../tongue/tongue";
import { Kbd } from "../ui/kit";

/** One date under the bracket. `day` is empty for one that the series does not have yet; `fixed` ones cannot be meant. */
export type Cell = { key: string; day: string; fixed: boolean; look: string; label: string; content: ReactNode };

/** Which dates are meant: from one to another; `to` is empty for all that come. */
export type Reach = { from: string; to: string };

type Props = {
	cells: Cell[];
	reach: Reach;
	at: string;
	onReach: (reach: Reach) => void;
	chosen?: string;
	onChoose?: (key: string) => void;
};

export const within = (cell: Pick<Cell, "day" | "fixed">, reach: Reach) =>
	!cell.fixed &&
	(cell.day === "" ? reach.to === "" : cell.day >= reach.from && (reach.to === "" || cell.day <= reach.to));

/** The dates of a series under a bracket: dragged at its ends, moved by arrow keys there, or set by 1, 2 and 3. */
export function Bracket({ cells, reach, at, onReach, chosen, onChoose }: Props) {
	const box = useRef<HTMLOListElement>(null);
	const held = useRef<"from" | "to" | null>(null);
	const free = cells.filter((c) => !c.fixed && c.day !== "");
	const last = free.at(-1)?.day ?? "";
	const set = (end: "from" | "to", day: string) => {
		if (end === "from") onReach({ from: day, to: reach.to !== "" && reach.to < day ? day : reach.to });
		else onReach({ from: day < reach.from ? day : reach.from, to: day === last ? "" : day });
	};
	const presets = usePresets(free, at, reach, onReach, box);
	const drag = (e: PointerEvent) => {
		if (!held.current) return;
		const under = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>("[data-day]");
		const day = under?.dataset.day;
		if (day && box.current?.contains(under) && free.some((c) => c.day === day)) set(held.current, day);
	};
	const grip = (end: "from" | "to") => ({
		onPointerDown: (e: PointerEvent) => {
			e.preventDefault();
			e.stopPropagation();
			(e.currentTarget as HTMLElement).focus();
			held.current = end;
		},
		onKeyDown: (e: KeyboardEvent) => {
			const step =
				e.key === "ArrowRight" || e.key === "ArrowUp" ? 1 : e.key === "ArrowLeft" || e.key === "ArrowDown" ? -1 : 0;
			if (step === 0) return;
			e.preventDefault();
			const now = end === "from" ? reach.from : reach.to || last;
			const next = free[free.findIndex((c) => c.day === now) + step];
			if (next) set(end, next.day);
		},
	});
	useEffect(() => {
		const drop = () => {
			held.current = null;
		};
		window.addEventListener("pointerup", drop);
		return () => window.removeEventListener("pointerup", drop);
	}, []);
	const inside = cells.filter((c) => within(c, reach));
	return (
		<>
			<p className="mb-2 text-quiet text-small">
				{t("Which dates? Drag the ends of the bracket, or press")}{" "}
				{presets.map((p, i) => (
					<span key={p.words} className="whitespace-nowrap">
						<button type="button" className="hover:text-ink" aria-pressed={p.on} onClick={p.use}>
							<Kbd>{i + 1}</Kbd> <span className={p.on ? "font-[650] text-fig" : ""}>{p.words}</span>
						</button>{" "}
					</span>
				))}
			</p>
			<ol
				ref={box}
				aria-label={t("Dates")}
				className="grid grid-cols-[repeat(auto-fill,minmax(104px,1fr))] gap-y-3 pt-2"
				onPointerMove={drag}
			>
				{cells.map((c) => {
					const meant = within(c, reach);
					const first = meant && c === inside[0];
					const end = meant && c === inside.at(-1);
					return (
						<li
							key={c.key}
							data-day={c.day}
							className={`relative border border-rule ${c.look} ${meant ? "shadow-[0_-3px_0_var(--color-fig)]" : ""} ${c.key === chosen ? "relative z-10 outline-2 outline-fig" : ""}`}
						>
							<DateButton cell={c} chosen={c.key === chosen} onChoose={onChoose} />
							{first && <Grip name={t("First date meant")} day={c.label} side="left" {...grip("from")} />}
							{end && <Grip name={t("Last date meant")} day={c.label} side="right" {...grip("to")} />}
							{meant && <span className="sr-only">{t("meant")}</span>}
						</li>
					);
				})}
			</ol>
		</>
	);
}

/** A cell of the strip; it can be looked at closer where there is more to see. */
export function DateButton({
	cell,
	chosen,
	onChoose,
}: {
	cell: Cell;
	chosen: boolean;
	onChoose?: (key: string) => void;
}) {
	if (!onChoose) return <div className="px-2 py-1.5">{cell.content}</div>;
	return (
		<button
			type="button"
			aria-pressed={chosen}
			className="flex size-full flex-col px-2 py-1.5 text-left hover:bg-ink/5"
			onClick={() => onChoose(cell.key)}
		>
			{cell.content}
		</button>
	);
}

function Grip({
	name,
	day,
	side,
	...rest
}: {
	name: string;
	day: string;
	side: "left" | "right";
	onPointerDown: (e: PointerEvent) => void;
	onKeyDown: (e: KeyboardEvent) => void;
}) {
	return (
		<span
			role="slider"
			tabIndex={0}
			aria-label={name}
			aria-valuenow={0}
			aria-valuetext={day}
			className={`absolute -top-[9px] z-10 size-[15px] cursor-ew-resize touch-none rounded-full bg-fig ${side === "left" ? "-left-[3px]" : "-right-[3px]"}`}
			{...rest}
		/>
	);
}

/** One, from here on, all to come: by press or by the keys 1, 2, 3. */
function usePresets(
	free: Cell[],
	at: string,
	now: Reach,
	onReach: (reach: Reach) => void,
	box: RefObject<HTMLElement | null>,
) {
	const first = free[0]?.day ?? "";
	const here = free.some((c) => c.day === at) ? at : first;
	const presets = [
		{ words: t("one"), reach: { from: here, to: here } },
		{ words: t("from here on"), reach: { from: here, to: "" } },
		{ words: t("all to come"), reach: { from: first, to: "" } },
	];
	useKeys(Object.fromEntries(presets.map((p, i) => [String(i + 1), () => onReach(p.reach)])), box);
	return presets.map((p) => ({
		...p,
		on: p.reach.from === now.from && p.reach.to === now.to,
		use: () => onReach(p.reach),
	}));
}
