import { useState } from "react";
import type { Schemas } from "../api/client";
import { problemOf } from "../api/client";
import { Bracket, type Cell, DateButton, within } from "../series/Bracket";
import { ClockField, DayField } from "../time/fields";
import { clock, inZone, shortDay } from "../time/format";
import { Button, Note, Skeleton, Tag } from "../ui/kit";
import { DatesRooms } from "./DatesRooms";
import type { Part } from "./SheetPage";
import { readLocal, writeLocal } from "./when";

type SheetDate = Schemas["SheetDate"];
type DraftDate = Schemas["DraftDate"];
type Props = Part & { dates: Schemas["SheetDates"] | undefined; error: unknown };

/** Every date of the series with its state, and a way to mend each that does not fit. */
export function DatesPanel(part: Props) {
	const { draft, change, dates, error } = part;
	const [chosen, setChosen] = useState<string | null>(null);
	if (!draft.repeat && !draft.scope) return null;
	if (error !== null && !dates) return <Note tone="brick">{problemOf(error).detail}</Note>;
	if (!dates) return <Skeleton lines={2} />;
	if (dates.dates.length === 0) return null;
	const scope = draft.scope;
	const clocks = new Set(dates.dates.map((d) => clock(inZone(d.start, draft.zone))));
	const cells = dates.dates.map((d) => cellOf(d, draft, clocks.size > 1));
	const meant = dates.dates.filter((_, i) => !scope || within(cells[i] as Cell, scope));
	const say = (x: DraftDate) => change({ dates: withDate(draft.dates, x) });
	const troubled = meant.filter((d) => d.repairs.length > 0);
	const looked = dates.dates.find((d) => d.on === chosen);
	const choose = (key: string) => setChosen(key === chosen ? null : key);
	return (
		<section
			aria-label="Dates"
			className={`rounded-[4px] border border-rule bg-sheet px-3.5 py-3 ${scope ? "mb-3" : "mt-3"}`}
		>
			<div className="mb-2 flex flex-wrap items-baseline gap-x-3">
				<h2 className="text-[17px]">Dates</h2>
				<span className="text-quiet text-small">{headWords(dates)}</span>
			</div>
			{scope ? (
				<Bracket
					cells={cells}
					reach={scope}
					at={scope.at}
					onReach={(reach) => change({ scope: { ...scope, ...reach } })}
					chosen={chosen ?? ""}
					onChoose={choose}
				/>
			) : (
				<ol className="grid grid-cols-[repeat(auto-fill,minmax(104px,1fr))]">
					{cells.map((c) => (
						<li
							key={c.key}
							className={`border border-rule ${c.look} ${c.key === chosen ? "relative z-10 outline-2 outline-fig" : ""}`}
						>
							<DateButton cell={c} chosen={c.key === chosen} onChoose={choose} />
						</li>
					))}
				</ol>
			)}
			{dates.more && <p className="mt-1 text-quiet text-small">and so on</p>}
			{dates.onAll.length > 0 && (
				<p className="mt-2 text-honey text-small">
					<b className="font-[650]">On all dates at the usual time</b> {dates.onAll.join("; ")}.
				</p>
			)}
			{troubled.length > 0 && <Repairs dates={troubled} zone={draft.zone} say={say} />}
			{looked && looked.state !== "held" && <Closer key={looked.on} date={looked} draft={draft} say={say} />}
			{looked?.state === "held" && (
				<p className="mt-2 text-quiet text-small">This date has begun and stays as it is.</p>
			)}
			{dates.rooms && <DatesRooms rooms={dates.rooms} draft={draft} change={change} />}
			{dates.lost.map((l) => (
				<p key={l.on} className="mt-1.5 text-honey text-small">
					What was said of {l.on} is kept and does nothing: {l.why}.{" "}
					<Button look="bare" onClick={() => say(bare(l.on))}>
						Forget it
					</Button>
				</p>
			))}
			{scope && <WhoHears part={part} splits={dates.splits} />}
		</section>
	);
}

function headWords(dates: Schemas["SheetDates"]) {
	const bad = dates.dates.filter((d) => d.inScope && (d.state === "noroom" || d.state === "busy")).length;
	const count = dates.open ? "no end" : dates.count === 1 ? "1 date" : `${dates.count} dates`;
	return `${dates.words} · ${count}${bad > 0 ? ` · ${bad} to mend` : ""}`;
}

const looks: Record<SheetDate["state"], { look: string; words: string; mark: string }> = {
	fits: { look: "bg-white", words: "text-moss", mark: "✓" },
	soft: { look: "bg-honey-wash", words: "text-honey", mark: "!" },
	busy: { look: "bg-honey-wash", words: "text-honey font-[650]", mark: "!!" },
	noroom: { look: "bg-brick-wash", words: "text-brick", mark: "✕" },
	out: { look: "bg-paper", words: "text-quiet", mark: "–" },
	held: { look: "bg-paper", words: "text-quiet", mark: "" },
};

/** A date as a cell of the strip; its time is there where not all are at one. */
function cellOf(d: SheetDate, draft: Props["draft"], timed: boolean): Cell {
	const at = inZone(d.start, draft.zone);
	const look = looks[d.state];
	return {
		key: d.on,
		day: d.scope,
		fixed: d.state === "held",
		look: look.look,
		label: `${shortDay(at.toPlainDate())}, ${d.words}`,
		content: (
			<>
				<b
					className={`block text-small ${d.state === "out" ? "line-through" : ""} ${d.state === "held" ? "font-normal text-quiet" : "font-[650]"}`}
				>
					{shortDay(at.toPlainDate()).slice(4)} {timed && <span className="font-normal">{clock(at)}</span>}
				</b>
				<span className={`block text-[12px] leading-[1.3] ${look.words}`}>
					<span aria-hidden>{look.mark} </span>
					{d.words}
				</span>
			</>
		),
	};
}

const bare = (on: string): DraftDate => ({ on, out: false, start: "", end: "", roomId: "", noRoom: false });

const empty = (x: DraftDate) => !x.out && !x.start && !x.end && !x.roomId && !x.noRoom;

/** The list with what a sheet says of one date now; nothing of its own is not listed. */
function withDate(dates: DraftDate[], x: DraftDate) {
	const others = dates.filter((d) => d.on !== x.on);
	return empty(x) ? others : [...others, x].sort((a, b) => (a.on < b.on ? -1 : 1));
}

const mostRepairs = 8;

/** A line for each date that does not fit: what is wrong, and each way to mend it at one press. */
function Repairs({ dates, zone, say }: { dates: SheetDate[]; zone: string; say: (x: DraftDate) => void }) {
	const [all, setAll] = useState(false);
	const shown = all ? dates : dates.slice(0, mostRepairs);
	return (
		<ul aria-label="To mend" className="mt-2.5 flex flex-col gap-0.5 text-small">
			{shown.map((d) => (
				<li key={d.on} className={looks[d.state].words.replace(" font-[650]", "")}>
					<b className="font-[650]">{shortDay(inZone(d.start, zone).toPlainDate())}</b>{" "}
					{[d.state === "fits" ? "" : d.words, ...d.notes].filter(Boolean).join("; ")}.{" "}
					{d.repairs.map((r) => (
						<Button key={r.kind} look="bare" onClick={() => say(r.date)}>
							{r.words}
						</Button>
					))}
				</li>
			))}
			{dates.length > shown.length && (
				<li>
					<Button look="bare" onClick={() => setAll(true)}>
						and {dates.length - shown.length} more
					</Button>
				</li>
			)}
		</ul>
	);
}

/** One date looked at closer: it can be left out, or be at another time. */
function Closer({ date, draft, say }: { date: SheetDate; draft: Props["draft"]; say: (x: DraftDate) => void }) {
	const own = draft.dates.find((x) => x.on === date.on) ?? bare(date.on);
	const start = writeLocal(inZone(date.start, draft.zone).toPlainDateTime());
	const end = writeLocal(inZone(date.end, draft.zone).toPlainDateTime());
	const move = (to: string) => {
		const [from, at, until] = [readLocal(start), readLocal(to), readLocal(end)];
		if (from && at && until) say({ ...own, out: false, start: to, end: writeLocal(at.add(from.until(until))) });
	};
	return (
		<div className="mt-2.5 flex flex-wrap items-center gap-2 border-rule border-t pt-2.5 text-body">
			<b className="font-[650]">{shortDay(inZone(date.start, draft.zone).toPlainDate())}</b>
			<span className="text-quiet text-small">{[date.words, ...date.notes].join("; ")}</span>
			{date.state === "out" ? (
				<Button look="bare" onClick={() => say(bare(date.on))}>
					take it back in
				</Button>
			) : (
				<>
					<span className="ml-2 text-quiet text-small">on this date at</span>
					<span className="flex items-center gap-1.5">
						<DayField
							name="Day of this date"
							day={start.slice(0, 10)}
							bad={false}
							fault=""
							onChange={(d) => move(`${d}T${start.slice(11)}`)}
						/>
						<ClockField name="This date starts" local={start} bad={false} fault="" onChange={move} />
						<span aria-hidden>–</span>
						<ClockField
							name="This date ends"
							local={end}
							bad={false}
							fault=""
							onChange={(to) => readLocal(to) && say({ ...own, start, end: to })}
						/>
					</span>
					<Button look="bare" onClick={() => say({ ...bare(date.on), out: true })}>
						leave it out
					</Button>
				</>
			)}
		</div>
	);
}

/** Who will hear what of a change, before it is sent. */
function WhoHears({ part, splits }: { part: Part; splits: boolean }) {
	const { sheet } = part;
	if (sheet.faults.length > 0) return null;
	const people = new Map<string, { outside: boolean; words: string[] }>();
	for (const d of sheet.due) {
		const known = people.get(d.name) ?? { outside: d.outside, words: [] };
		known.words.push(d.words || "the meeting");
		people.set(d.name, known);
	}
	return (
		<div className="mt-3 border-rule border-t pt-2.5 text-body">
			<h3 className="text-[15px]">Who hears what</h3>
			{people.size === 0 ? (
				<p className="text-quiet text-small">Nobody has to hear of it yet.</p>
			) : (
				<dl className="mt-1 grid grid-cols-[max-content_minmax(0,1fr)] gap-x-6 gap-y-0.5">
					{[...people].map(([name, p]) => (
						<div key={name} className="contents">
							<dt className="text-quiet">
								{name} {p.outside && <Tag>outside</Tag>}
							</dt>
							<dd>{p.words.join("; ")}</dd>
						</div>
					))}
					{sheet.card && (
						<>
							<dt className="text-quiet">Join card</dt>
							<dd>stays as it is</dd>
						</>
					)}
				</dl>
			)}
			{splits && (
				<p className="mt-1 text-quiet text-small">
					The dates before stay as they were sent. The later ones become a series of their own with the same people,
					room and link.
				</p>
			)}
		</div>
	);
}
