import { memo, type ReactNode } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { problemOf } from "../api/client";
import { useKeys } from "../shell/keys";
import { clock, inZone, shortDay } from "../time/format";
import { t } from "../tongue/tongue";
import { Button, Kbd, Note, Plate } from "../ui/kit";
import type { Part } from "./part";
import { instant, readLocal, writeLocal } from "./when";

type Opening = Schemas["Opening"];

/** Between which hours, and within how long, openings are looked for. */
export type Within = { from: number; to: number; days: number };
export const usually: Within = { from: 8 * 60, to: 19 * 60, days: 14 };

type Props = Pick<Part, "draft" | "change"> & {
	openings: Schemas["Openings"] | undefined;
	error: unknown;
	within: Within;
	setWithin: (w: Within) => void;
};

const edges: Record<Opening["kind"], string> = {
	good: "border-l-moss",
	soft: "border-l-moss border-dotted",
	nearly: "border-l-honey border-dotted",
};

/** Walks through openings by key, and takes each. */
export function useSteps<T>(items: T[], chosen: number, take: (o: T) => void) {
	const step = (by: 1 | -1) => () => {
		const next = items[(Math.max(chosen, by > 0 ? -1 : 0) + by + items.length) % items.length];
		if (next) take(next);
	};
	useKeys({ o: step(1), O: step(-1) });
}

type CardButtonProps = { kind: Opening["kind"]; on: boolean; onTake: () => void; children: ReactNode };

/** An opening to take at one press. */
export const CardButton = ({ kind, on, onTake, children }: CardButtonProps) => (
	<button
		type="button"
		aria-pressed={on}
		onClick={onTake}
		className={`flex size-full flex-col items-start rounded-[4px] border border-rule border-l-[5px] bg-sheet px-3 py-1.5 text-left text-small hover:border-ink ${edges[kind]} ${on ? "outline-2 outline-fig" : ""}`}
	>
		{children}
	</button>
);

/** The best times for everybody and a room; one press takes time and room. */
export const Openings = memo(function Openings({ draft, change, openings, error, within, setWithin }: Props) {
	const items = openings?.items.slice(0, 3) ?? [];
	const chosen = chosenOf(items, draft);
	const take = (o: Opening) => change(taken(o, draft));
	useSteps(items, chosen, take);
	return (
		<section aria-label={t("Openings")} className="mt-3">
			<div className="mb-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1">
				<h2 className="text-[17px]">
					{t("Openings")}
					<Kbd>o</Kbd>
				</h2>
				<Hours within={within} setWithin={setWithin} />
			</div>
			{error !== null && !openings && (
				<Note tone="brick">{problemOf(error).errors?.[0]?.detail ?? problemOf(error).detail}</Note>
			)}
			{openings && items.length === 0 && (
				<p className="text-quiet text-small">
					{t("Nothing fits then, not even without one person. Look further ahead, at other hours, or make it shorter.")}
				</p>
			)}
			<ol className="grid gap-2.5 md:grid-cols-3">
				{items.map((o, i) => (
					<li key={o.start}>
						<Card opening={o} zone={draft.zone} on={i === chosen} wantRoom={!draft.noRoom} onTake={() => take(o)} />
						<Mends opening={o} draft={draft} change={change} />
					</li>
				))}
			</ol>
		</section>
	);
});

/** What would make an opening fit that nearly does, each at one press. */
function Mends({ opening: o, draft, change }: { opening: Opening } & Pick<Props, "draft" | "change">) {
	if (o.mends.length === 0) return null;
	const mend = (m: Opening["mends"][number]) =>
		change({
			...taken({ ...o, start: m.start, end: m.end, room: m.room }, draft),
			...(m.email && {
				people: draft.people.map((p) =>
					p.email.toLowerCase() === m.email?.toLowerCase() ? { ...p, needed: false } : p,
				),
			}),
		});
	return (
		<p className="mt-0.5 flex flex-wrap gap-x-2 text-small">
			<span className="text-quiet">{t("or")}</span>
			{o.mends.map((m) =>
				m.kind === "parts" ? (
					<span key={m.kind} className="text-quiet">
						{m.words}
					</span>
				) : (
					<Button key={m.kind} look="bare" className="!p-0" onClick={() => mend(m)}>
						{m.words}
					</Button>
				),
			)}
		</p>
	);
}

type CardProps = { opening: Opening; zone: string; on: boolean; wantRoom: boolean; onTake: () => void };

function Card({ opening: o, zone, on, wantRoom, onTake }: CardProps) {
	const [start, end] = [inZone(o.start, zone), inZone(o.end, zone)];
	return (
		<CardButton kind={o.kind} on={on} onTake={onTake}>
			<b className="block font-[650] text-body">
				{shortDay(start.toPlainDate())}, {clock(start)} – {clock(end)}
			</b>
			<span>
				<span className={o.kind === "nearly" ? "text-honey" : "text-moss"}>{o.head}</span>
				{o.room && (
					<>
						{" · "}
						<Plate small>{o.room.name}</Plate>
						{o.asks && <span className="text-honey"> {t("asks its keeper")}</span>}
					</>
				)}
				{wantRoom && o.noRoom && <span className="text-brick"> · {t("no room clear")}</span>}
			</span>
			{o.lines.map((line) => (
				<span key={line} className="block text-quiet">
					{line}
				</span>
			))}
		</CardButton>
	);
}

const look = "rounded-[3px] bg-transparent py-px text-quiet text-small";

/** Between which hours is looked, and within how long where that can be said. */
export function Hours({ within, setWithin, ahead = true }: Pick<Props, "within" | "setWithin"> & { ahead?: boolean }) {
	const hours = Array.from({ length: 25 }, (_, h) => h);
	return (
		<span className="flex flex-wrap items-center gap-x-1.5 text-quiet text-small">
			{t("between")}
			<select
				aria-label={t("Not before")}
				className={look}
				value={within.from}
				onChange={(e) =>
					setWithin({ ...within, from: Number(e.target.value), to: Math.max(within.to, Number(e.target.value) + 60) })
				}
			>
				{hours.slice(0, 24).map((h) => (
					<option key={h} value={h * 60}>
						{h}:00
					</option>
				))}
			</select>
			{t("and")}
			<select
				aria-label={t("Not after")}
				className={look}
				value={within.to}
				onChange={(e) =>
					setWithin({ ...within, to: Number(e.target.value), from: Math.min(within.from, Number(e.target.value) - 60) })
				}
			>
				{hours.slice(1).map((h) => (
					<option key={h} value={h * 60}>
						{h}:00
					</option>
				))}
			</select>
			{ahead && t("within")}
			<select
				hidden={!ahead}
				aria-label={t("Within how long")}
				className={look}
				value={within.days}
				onChange={(e) => setWithin({ ...within, days: Number(e.target.value) })}
			>
				<option value={7}>{t("a week")}</option>
				<option value={14}>{t("two weeks")}</option>
				<option value={28}>{t("four weeks")}</option>
				<option value={56}>{t("eight weeks")}</option>
			</select>
		</span>
	);
}

/** Which of the openings is on the sheet, -1 for none. */
function chosenOf(items: Opening[], draft: Part["draft"]) {
	const start = readLocal(draft.start);
	const at = start && instant(start, draft.zone);
	return items.findIndex((o) => at !== null && Temporal.Instant.from(o.start).equals(Temporal.Instant.from(at)));
}

/** What the sheet says once an opening is taken; a room that was chosen and is clear stays. */
function taken(o: Opening, draft: Part["draft"]): Partial<Schemas["Draft"]> {
	const local = (at: string) => writeLocal(inZone(at, draft.zone).toPlainDateTime());
	const room = draft.noRoom || !o.room ? {} : { roomId: o.room.id };
	return { start: local(o.start), end: local(o.end), ...room };
}
