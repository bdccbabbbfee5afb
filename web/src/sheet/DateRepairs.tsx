import { useState } from "react";
import type { Schemas } from "../api/client";
import { ClockField, DayField } from "../time/fields";
import { inZone, shortDay } from "../time/format";
import { Button } from "../ui/kit";
import { dateLooks } from "./DatesPanel";
import { bare } from "./dates";
import type { Part } from "./part";
import { readLocal, writeLocal } from "./when";

type SheetDate = Schemas["SheetDate"];
type DraftDate = Schemas["DraftDate"];

const mostRepairs = 8;

/** A line for each date that does not fit: what is wrong, and each way to mend it at one press. */
export function Repairs({ dates, zone, say }: { dates: SheetDate[]; zone: string; say: (x: DraftDate) => void }) {
	const [all, setAll] = useState(false);
	const shown = all ? dates : dates.slice(0, mostRepairs);
	return (
		<ul aria-label="To mend" className="mt-2.5 flex flex-col gap-0.5 text-small">
			{shown.map((d) => (
				<li key={d.on} className={dateLooks[d.state].words.replace(" font-[650]", "")}>
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
export function Closer({ date, draft, say }: { date: SheetDate; draft: Part["draft"]; say: (x: DraftDate) => void }) {
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
