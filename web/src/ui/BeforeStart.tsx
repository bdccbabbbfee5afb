const times: [number, string][] = [
	[5, "5 min before"],
	[15, "15 min before"],
	[30, "30 min before"],
	[60, "1 h before"],
	[120, "2 h before"],
	[1440, "a day before"],
	[2880, "2 days before"],
	[10080, "a week before"],
];

/** A small field of choices, within a line. */
export const smallSelect = "rounded-[3px] border border-rule bg-white px-1 py-px";

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
			{!known && <option value={value}>{value} min before</option>}
			{times.map(([minutes, words]) => (
				<option key={minutes} value={minutes}>
					{words}
				</option>
			))}
		</select>
	);
}
