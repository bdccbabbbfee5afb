import { X } from "lucide-react";
import type { ReactNode } from "react";
import { type Term, t, term } from "../tongue/tongue";
import { Button } from "./kit";

const times: [number, Term][] = [
	[5, term("5 min before")],
	[15, term("15 min before")],
	[30, term("30 min before")],
	[60, term("1 h before")],
	[120, term("2 h before")],
	[1440, term("a day before")],
	[2880, term("2 days before")],
	[10080, term("a week before")],
];

/** When one more comes: the first time that none of them has. */
export const anotherTime = (all: { before: number }[], first: number) =>
	[first, 1440, 60, 30, 120, 10080].find((before) => all.every((r) => r.before !== before)) ?? first;

/** A small field of choices, within a line. */
const smallSelect = "rounded-[3px] border border-rule bg-white px-1 py-px";

type Props = { id?: string; name?: string; value: number; none?: string; set: (before: number) => void };

/** So long before the start; what was chosen elsewhere stays among the choices. */
export function BeforeStart({ id, name, value, none, set }: Props) {
	const known = value === 0 || times.some(([minutes]) => minutes === value);
	return (
		<select
			id={id}
			aria-label={name}
			className={smallSelect}
			value={value}
			onChange={(e) => set(Number(e.target.value))}
		>
			{none && <option value={0}>{none}</option>}
			{!known && <option value={value}>{t("%s min before", value)}</option>}
			{times.map(([minutes, words]) => (
				<option key={minutes} value={minutes}>
					{t(words)}
				</option>
			))}
		</select>
	);
}

type RowProps<Way extends string> = {
	name: string;
	/** What takes it off is called. */
	off: string;
	children?: ReactNode;
	before: number;
	way: Way;
	ways: Record<Way, Term>;
	set: (before: number, way: Way) => void;
	drop: () => void;
};

/** One reminder of several: when it comes, and how. */
export const ReminderRow = <Way extends string>({ before, way, ways, set, ...row }: RowProps<Way>) => (
	<fieldset aria-label={row.name} className="flex flex-wrap items-center gap-1">
		{row.children}
		<BeforeStart name={t("When")} value={before} set={(when) => set(when, way)} />
		<select
			aria-label={t("How")}
			className={smallSelect}
			value={way}
			onChange={(e) => set(before, e.target.value as Way)}
		>
			{(Object.entries(ways) as [Way, Term][]).map(([key, words]) => (
				<option key={key} value={key}>
					{t(words)}
				</option>
			))}
		</select>
		<Button look="bare" aria-label={row.off} onClick={row.drop}>
			<X aria-hidden size={14} />
		</Button>
	</fieldset>
);
