import { memo } from "react";
import { problemOf, type Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { Kbd, Note, Plate } from "../ui/kit";
import { useSeriesOpenings } from "./deeds";
import { CardButton, Hours, useSteps, type Within } from "./Openings";
import type { Filter, Part } from "./part";

type Opening = Schemas["SeriesOpening"];

type Props = Pick<Part, "sheet" | "draft" | "change"> & {
	filter: Filter;
	within: Within;
	setWithin: (w: Within) => void;
};

/** The best times for all dates of a series at once; one press takes time and room. */
export const SeriesOpenings = memo(function SeriesOpenings({ sheet, draft, change, filter, within, setWithin }: Props) {
	const { data, error } = useSeriesOpenings(sheet, filter, within.from, within.to);
	const items = data?.items ?? [];
	const chosen = items.findIndex((o) => isTaken(o, draft));
	const take = (o: Opening) => change(taken(o, draft));
	useSteps(items, chosen, take);
	return (
		<section aria-label={t("Openings for all dates")} className="mt-3">
			<div className="mb-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1">
				<h2 className="text-[17px]">
					{t("Openings for all dates")}
					<Kbd>o</Kbd>
				</h2>
				<Hours within={within} setWithin={setWithin} ahead={false} />
			</div>
			{error !== null && !data && <Note tone="brick">{problemOf(error).detail}</Note>}
			{data && items.length === 0 && (
				<p className="text-quiet text-small">
					{t("Nothing is left between these hours. Look at other hours, or make it shorter.")}
				</p>
			)}
			<ol className="grid gap-2.5 md:grid-cols-3">
				{items.map((o, i) => (
					<li key={o.head}>
						<CardButton kind={o.kind} on={i === chosen} onTake={() => take(o)}>
							<b className="block font-[650] text-body">{o.head}</b>
							{o.room && o.turns.length > 0 && <Plate small>{o.room.name}</Plate>}
							{o.lines.map((line, n) => (
								<span key={line} className={n === 0 && o.turns.length === 0 ? looks[o.kind] : "text-quiet"}>
									{line}
								</span>
							))}
						</CardButton>
					</li>
				))}
			</ol>
		</section>
	);
});

const looks: Record<Opening["kind"], string> = { good: "text-moss", soft: "text-moss", nearly: "text-honey" };

/** The times that single dates have of their own go: all are to be at the new one, or by turns. */
function taken(o: Opening, draft: Part["draft"]): Partial<Schemas["Draft"]> {
	const own = new Map(o.turns.map((t) => [t.on, t]));
	const kept = draft.dates
		.map((d) => ({ ...d, start: own.get(d.on)?.start ?? "", end: own.get(d.on)?.end ?? "" }))
		.filter((d) => d.out || d.start || d.roomId || d.noRoom);
	const fresh = o.turns.filter((t) => !draft.dates.some((d) => d.on === t.on));
	const dates = [...kept, ...fresh].sort((a, b) => (a.on < b.on ? -1 : 1));
	return { start: o.start, end: o.end, dates, ...(o.room && !draft.noRoom ? { roomId: o.room.id } : {}) };
}

const isTaken = (o: Opening, draft: Part["draft"]) =>
	o.start === draft.start && o.end === draft.end && o.turns.length === draft.dates.filter((d) => d.start).length;
