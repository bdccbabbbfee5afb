import { X } from "lucide-react";
import { memo, useState } from "react";
import type { Schemas } from "../api/client";
import { dayMonth, inZone } from "../time/format";
import { t } from "../tongue/tongue";
import { Button, FieldFault, Tag } from "../ui/kit";
import { AddPerson } from "./AddPerson";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import type { Person } from "./person";
import { inTheWay, WaitFor } from "./WaitFor";
import { WhoIsMeant } from "./WhoIsMeant";

/** From so many people on, those who are well fold away, so that the rest of the sheet stays in sight. */
const unfolded = 9;

export const WhoPart = memo(function WhoPart(part: Part) {
	const { draft, change, faults, day } = part;
	const [all, setAll] = useState(false);
	const set = (i: number, p: Person | null) =>
		change({ people: draft.people.flatMap((old, j) => (j === i ? (p ? [p] : []) : [old])) });
	const rows = draft.people.map((person, i) => ({
		person,
		i,
		fault: faultAt(faults, `people.${i}`),
		trouble: day?.troubles.find((t) => t.email.toLowerCase() === person.email.trim().toLowerCase()),
	}));
	const folded = rows.length >= unfolded && !all;
	// Those who trouble come first, then who was put on last, who may have to be put right.
	const troubled = rows.filter((r) => r.fault || r.trouble);
	const shown = folded ? [...troubled, ...rows.filter((r) => !troubled.includes(r)).slice(-3)].slice(0, 8) : rows;
	const tooMany = faultAt(faults, "people");
	return (
		<PartRow name="Who">
			<AddPerson part={part} />
			<WhoIsMeant part={part} />
			<FieldFault id="fault-people" sentence={tooMany?.detail} />
			<ul
				aria-label={t("People")}
				className={all && rows.length >= unfolded ? "max-h-[46vh] overflow-y-auto pr-1" : ""}
			>
				{shown.map((r) => (
					<li key={`${r.person.email}-${r.i}`} className="py-px">
						<PersonRow part={part} {...r} set={(p) => set(r.i, p)} />
					</li>
				))}
			</ul>
			{(part.sheet.waiting ? draft.roomId === "" : inTheWay(part) === "people") && <WaitFor part={part} />}
			{rows.length >= unfolded && (
				<Button look="bare" className="text-small" aria-expanded={all} onClick={() => setAll(!all)}>
					{all ? t("Fold the list") : t("All %s people", rows.length)}
				</Button>
			)}
		</PartRow>
	);
});

type RowProps = {
	part: Part;
	person: Person;
	fault: Schemas["FieldError"] | undefined;
	trouble: Schemas["Trouble"] | undefined;
	set: (p: Person | null) => void;
};

function PersonRow({ part, person: p, fault, trouble, set }: RowProps) {
	const { draft, dates } = part;
	return (
		<>
			<div className="flex min-h-[26px] items-center gap-1.5 text-body">
				<span className="min-w-0 truncate" title={p.email}>
					{p.name || p.email}
				</span>
				{!p.personId && <Tag>{t("outside")}</Tag>}
				<span className="ml-auto" />
				{draft.repeat && <TheirDates person={p} dates={dates} zone={draft.zone} onChange={set} />}
				<select
					aria-label={t("%s is", p.name || p.email)}
					className="rounded-[3px] bg-transparent py-px text-quiet text-small"
					value={p.needed ? "needed" : "optional"}
					onChange={(e) => set({ ...p, needed: e.target.value === "needed" })}
				>
					<option value="needed">{t("needed")}</option>
					<option value="optional">{t("optional")}</option>
				</select>
				<button
					type="button"
					aria-label={t("Take %s off the list", p.name || p.email)}
					className="p-1 text-quiet hover:text-brick"
					onClick={() => set(null)}
				>
					<X size={14} />
				</button>
			</div>
			{fault && <p className="text-brick text-small">{fault.detail}</p>}
			{!fault && trouble && (
				<p className={`text-small ${trouble.hard ? "text-brick" : "text-honey"}`}>{trouble.short}</p>
			)}
		</>
	);
}

/** Which dates of a series somebody is invited to: all, or one of them. */
function TheirDates(props: {
	person: Person;
	dates: Schemas["SheetDates"] | undefined;
	zone: string;
	onChange: (p: Person) => void;
}) {
	const { person, dates, zone, onChange } = props;
	const only = person.dates.length === 1 && person.dates[0]?.from === person.dates[0]?.to ? person.dates[0]?.from : "";
	const some = person.dates.length > 0 && !only;
	const there = dates?.dates.filter((d) => d.inScope && d.state !== "out" && d.state !== "held") ?? [];
	if (there.length === 0 && !only) return null;
	return (
		<select
			aria-label={t("%s is invited to", person.name || person.email)}
			className="field-sizing-content rounded-[3px] bg-transparent py-px text-quiet text-small"
			value={some ? "some" : only}
			onChange={(e) =>
				onChange({ ...person, dates: e.target.value ? [{ from: e.target.value, to: e.target.value }] : [] })
			}
		>
			<option value="">{t("all dates")}</option>
			{some && <option value="some">{t("some of the dates")}</option>}
			{only && !there.some((d) => d.on === only) && <option value={only}>{t("%s only", only)}</option>}
			{there.map((d) => (
				<option key={d.on} value={d.on}>
					{t("%s only", dayMonth(inZone(d.start, zone).toPlainDate()))}
				</option>
			))}
		</select>
	);
}
