import { memo, useState } from "react";
import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { problemOf } from "../api/client";
import { Bracket, type Cell, DateButton, within } from "../series/Bracket";
import { clock, dayInRow, inZone, shortDay, zoneOf } from "../time/format";
import { t } from "../tongue/tongue";
import { Button, Note, Skeleton } from "../ui/kit";
import { Closer, Repairs } from "./DateRepairs";
import { DatesRooms } from "./DatesRooms";
import { dateLooks } from "./dateLooks";
import { bare, withDate } from "./dates";
import type { Part } from "./part";
import { headWords, skippedWords } from "./repeatWords";
import { WhoHears } from "./WhoHears";

type SheetDate = Schemas["SheetDate"];
type DraftDate = Schemas["DraftDate"];
type Props = Part & { dates: Schemas["SheetDates"] | undefined; error: unknown };

/** Every date of the series with its state, and a way to mend each that does not fit. */
export const DatesPanel = memo(function DatesPanel(part: Props) {
	const { draft, change, dates, error } = part;
	const [chosen, setChosen] = useState<string | null>(null);
	if (!draft.repeat && !draft.scope) return null;
	if (error !== null && !dates) return <Note tone="brick">{problemOf(error).detail}</Note>;
	if (!dates) return <Skeleton lines={2} />;
	if (dates.dates.length === 0) return null;
	const scope = draft.scope;
	const zone = zoneOf({ start: "", end: "", allDay: draft.allDay }, draft.zone);
	const clocks = new Set(dates.dates.map((d) => clock(inZone(d.start, zone))));
	const first = inZone(dates.dates[0]?.start ?? "", zone).toPlainDate();
	const cells = dates.dates.map((d) => cellOf(d, zone, first, clocks.size > 1));
	const meant = dates.dates.filter((_, i) => !scope || within(cells[i] as Cell, scope));
	const say = (x: DraftDate) => change({ dates: withDate(draft.dates, x) });
	const troubled = meant.filter((d) => d.repairs.length > 0);
	const looked = dates.dates.find((d) => d.on === chosen);
	const choose = (key: string) => setChosen(key === chosen ? null : key);
	return (
		<section aria-label={t("Dates")} className="mb-3 rounded-[4px] border border-rule bg-sheet px-3.5 py-3">
			<div className="mb-2 flex flex-wrap items-baseline gap-x-3">
				<h2 className="text-[17px]">{t("Dates")}</h2>
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
				<Strip cells={cells} chosen={chosen} onChoose={choose} />
			)}
			{dates.more && <p className="mt-1 text-quiet text-small">{t("and so on")}</p>}
			{dates.skipped.length > 0 && (
				<p className="mt-2 text-quiet text-small">
					<b className="font-[650]">{t("Left out")}</b> {skippedWords(dates.skipped)}
				</p>
			)}
			{dates.onAll.length > 0 && (
				<p className="mt-2 text-honey text-small">
					<b className="font-[650]">{t("On all dates at the usual time")}</b> {dates.onAll.join("; ")}.
				</p>
			)}
			{troubled.length > 0 && <Repairs dates={troubled} zone={draft.zone} say={say} />}
			{looked && looked.state !== "held" && <Closer key={looked.on} date={looked} part={part} say={say} />}
			{looked?.state === "held" && (
				<p className="mt-2 text-quiet text-small">{t("This date has begun and stays as it is.")}</p>
			)}
			{dates.rooms && <DatesRooms rooms={dates.rooms} draft={draft} change={change} />}
			{dates.lost.map((l) => (
				<p key={l.on} className="mt-1.5 text-honey text-small">
					{t("What was said of %s is kept and does nothing: %s.", l.on, l.why)}{" "}
					<Button look="bare" onClick={() => say(bare(l.on))}>
						{t("Forget it")}
					</Button>
				</p>
			))}
			{scope && <WhoHears part={part} splits={dates.splits} />}
		</section>
	);
});

/** As many dates as are looked at by themselves; the rest comes on demand. */
const atFirst = 14;

function Strip({ cells, chosen, onChoose }: { cells: Cell[]; chosen: string | null; onChoose: (key: string) => void }) {
	const [all, setAll] = useState(false);
	return (
		<>
			<ol className="grid grid-cols-[repeat(auto-fill,minmax(104px,1fr))]">
				{(all ? cells : cells.slice(0, atFirst)).map((c) => (
					<li
						key={c.key}
						className={`border border-rule ${c.look} ${c.key === chosen ? "relative z-10 outline-2 outline-fig" : ""}`}
					>
						<DateButton cell={c} chosen={c.key === chosen} onChoose={onChoose} />
					</li>
				))}
			</ol>
			{cells.length > atFirst && (
				<Button look="bare" className="text-small" onClick={() => setAll(!all)}>
					{all ? t("Fewer dates") : t("%s more dates", cells.length - atFirst)}
				</Button>
			)}
		</>
	);
}

/** A date as a cell of the strip; its time is there where not all are at one. */
function cellOf(d: SheetDate, zone: string, first: Temporal.PlainDate, timed: boolean): Cell {
	const at = inZone(d.start, zone);
	const look = dateLooks[d.state];
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
					{dayInRow(at.toPlainDate(), first)} {timed && <span className="font-normal">{clock(at)}</span>}
				</b>
				<span className={`block text-[12px] leading-[1.3] ${look.words}`}>
					<span aria-hidden>{look.mark} </span>
					{d.words}
				</span>
				{d.marks.map((m) => (
					<span key={m} className="block text-[11.5px] text-honey leading-[1.3]">
						{m}
					</span>
				))}
			</>
		),
	};
}
