import { useState } from "react";
import type { Schemas } from "../api/client";
import { clock, dayNear, inZone, shortDay } from "../time/format";
import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { dateLooks } from "./dateLooks";
import { bare } from "./dates";
import type { Part } from "./part";
import { Readings, TypedField } from "./TypedField";
import { writeLocal } from "./when";

type SheetDate = Schemas["SheetDate"];
type DraftDate = Schemas["DraftDate"];

const mostRepairs = 3;

/** A line for each date that does not fit: what is wrong, and each way to mend it at one press. */
export function Repairs({ dates, zone, say }: { dates: SheetDate[]; zone: string; say: (x: DraftDate) => void }) {
	const [all, setAll] = useState(false);
	const shown = all ? dates : dates.slice(0, mostRepairs);
	return (
		<ul aria-label={t("To mend")} className="mt-2.5 flex flex-col gap-0.5 text-small">
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
						{t("and %s more", dates.length - shown.length)}
					</Button>
				</li>
			)}
		</ul>
	);
}

/** One date looked at closer: it can be left out, or be at another time. */
export function Closer({ date, part, say }: { date: SheetDate; part: Part; say: (x: DraftDate) => void }) {
	const { draft, dates } = part;
	const own = draft.dates.find((x) => x.on === date.on) ?? bare(date.on);
	const [start, end] = [inZone(date.start, draft.zone), inZone(date.end, draft.zone)];
	const year = dates?.dates[0] ? inZone(dates.dates[0].start, draft.zone).toPlainDate() : start.toPlainDate();
	// What is typed changes what the sheet says of this date: it has to say something.
	const begin = () =>
		say({ ...own, out: false, start: writeLocal(start.toPlainDateTime()), end: writeLocal(end.toPlainDateTime()) });
	const field = (name: string) => `dates.${date.on}.${name}`;
	return (
		<div className="mt-2.5 flex flex-wrap items-center gap-2 border-rule border-t pt-2.5 text-body">
			<b className="font-[650]">{shortDay(start.toPlainDate())}</b>
			<span className="text-quiet text-small">{[date.words, ...date.notes].join("; ")}</span>
			{date.state === "out" ? (
				<Button look="bare" onClick={() => say(bare(date.on))}>
					{t("take it back in")}
				</Button>
			) : (
				<>
					<span className="ml-2 text-quiet text-small">{t("on this date at")}</span>
					<span className="flex items-center gap-1.5">
						<TypedField
							part={part}
							field={field("day")}
							name={t("Day of this date")}
							shown={dayNear(start.toPlainDate(), year)}
							className="max-w-[132px]"
							onBegin={begin}
						/>
						<TypedField
							part={part}
							field={field("start")}
							name={t("This date starts")}
							shown={clock(start)}
							className="max-w-[72px]"
							onBegin={begin}
						/>
						<span aria-hidden>–</span>
						<TypedField
							part={part}
							field={field("end")}
							name={t("This date ends")}
							shown={clock(end)}
							className="max-w-[72px]"
							onBegin={begin}
						/>
					</span>
					<Button look="bare" onClick={() => say({ ...bare(date.on), out: true })}>
						{t("leave it out")}
					</Button>
					<Readings part={part} fields={["day", "start", "end"].map(field)} />
				</>
			)}
		</div>
	);
}
