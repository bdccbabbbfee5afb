import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { X } from "lucide-react";
import { memo, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { inZone, shortDay } from "../time/format";
import { fieldLook, Tag } from "../ui/kit";
import { useFindPeople } from "./deeds";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";

type Person = Schemas["DraftPerson"];

export const WhoPart = memo(function WhoPart(part: Part) {
	const { draft, change, faults, day, dates } = part;
	const add = (p: Person) => change({ people: [...draft.people, p] });
	const set = (i: number, p: Person | null) =>
		change({ people: draft.people.flatMap((old, j) => (j === i ? (p ? [p] : []) : [old])) });
	return (
		<PartRow name="Who">
			<AddPerson people={draft.people} onAdd={add} />
			<ul>
				{draft.people.map((p, i) => {
					const fault = faultAt(faults, `people.${i}`);
					const trouble = day?.troubles.find((t) => t.email.toLowerCase() === p.email.trim().toLowerCase());
					return (
						// biome-ignore lint/suspicious/noArrayIndexKey: somebody may be on the list twice, and the order stays
						<li key={`${p.email}-${i}`} className="py-px">
							<div className="flex min-h-[26px] items-center gap-1.5 text-body">
								<span className="min-w-0 truncate" title={p.email}>
									{p.name || p.email}
								</span>
								{!p.personId && <Tag>outside</Tag>}
								<span className="ml-auto" />
								{draft.repeat && (
									<TheirDates person={p} dates={dates} zone={draft.zone} onChange={(to) => set(i, to)} />
								)}
								<select
									aria-label={`${p.name || p.email} is`}
									className="rounded-[3px] bg-transparent py-px text-quiet text-small"
									value={p.needed ? "needed" : "optional"}
									onChange={(e) => set(i, { ...p, needed: e.target.value === "needed" })}
								>
									<option value="needed">needed</option>
									<option value="optional">optional</option>
								</select>
								<button
									type="button"
									aria-label={`Take ${p.name || p.email} off the list`}
									className="p-1 text-quiet hover:text-brick"
									onClick={() => set(i, null)}
								>
									<X size={14} />
								</button>
							</div>
							{fault && <p className="text-brick text-small">{fault.detail}</p>}
							{!fault && trouble && (
								<p className={`text-small ${trouble.hard ? "text-brick" : "text-honey"}`}>{trouble.short}</p>
							)}
						</li>
					);
				})}
			</ul>
		</PartRow>
	);
});

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
			aria-label={`${person.name || person.email} is invited to`}
			className="field-sizing-content rounded-[3px] bg-transparent py-px text-quiet text-small"
			value={some ? "some" : only}
			onChange={(e) =>
				onChange({ ...person, dates: e.target.value ? [{ from: e.target.value, to: e.target.value }] : [] })
			}
		>
			<option value="">all dates</option>
			{some && <option value="some">some of the dates</option>}
			{only && !there.some((d) => d.on === only) && <option value={only}>{only} only</option>}
			{there.map((d) => (
				<option key={d.on} value={d.on}>
					{shortDay(inZone(d.start, zone).toPlainDate()).slice(4)} only
				</option>
			))}
		</select>
	);
}

/** Anything with an @ and something on both sides may be meant as an address; the sheet says whether it is one. */
const looksLikeAddress = (text: string) => /^\S+@\S+$/.test(text.trim());

function AddPerson({ people, onAdd }: { people: Person[]; onAdd: (p: Person) => void }) {
	const [query, setQuery] = useState("");
	const found = useFindPeople(query);
	const on = new Set(people.map((p) => p.email.trim().toLowerCase()));
	const entries = query.trim() === "" ? [] : (found.data?.items ?? []);
	const address = query.trim();
	const already = on.has(address.toLowerCase());
	const known = entries.some((e) => e.email.toLowerCase() === address.toLowerCase());
	const offerAddress = looksLikeAddress(address) && !already && !known;
	const choose = (person: Person | null) => {
		if (!person) return;
		onAdd(person);
		setQuery("");
	};
	const option =
		"flex cursor-pointer gap-2 px-2.5 py-1.5 text-body data-focus:bg-fig-wash data-focus:shadow-[inset_4px_0_0_var(--color-fig)] data-disabled:text-quiet";
	return (
		<Combobox as="div" className="relative" immediate value={null as Person | null} onChange={choose}>
			<ComboboxInput
				aria-label="Add a person"
				placeholder="Name or any e-mail address"
				autoComplete="off"
				className={`${fieldLook()} mb-1 placeholder:text-quiet`}
				displayValue={() => query}
				value={query}
				onChange={(e) => setQuery(e.target.value)}
			/>
			{query.trim() !== "" && (
				<ComboboxOptions
					modal={false}
					className="absolute top-full z-20 w-full overflow-hidden rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
				>
					{entries.map((e) => (
						<ComboboxOption
							key={e.email}
							value={{ personId: e.personId, name: e.name, email: e.email, needed: true, dates: [] } satisfies Person}
							disabled={on.has(e.email.toLowerCase())}
							className={option}
						>
							<span>{marked(e.name, query)}</span>
							<span className="ml-auto truncate text-quiet">
								{on.has(e.email.toLowerCase()) ? "on the list" : e.outside ? `${e.about} · outside` : e.about}
							</span>
						</ComboboxOption>
					))}
					{offerAddress && (
						<ComboboxOption
							value={{ personId: "", name: "", email: address, needed: true, dates: [] } satisfies Person}
							className={option}
						>
							<span>
								invite <b className="font-[650]">{address}</b> by mail
							</span>
							<span className="ml-auto text-quiet">outside</span>
						</ComboboxOption>
					)}
					{entries.length === 0 && !offerAddress && (
						<p className="px-2.5 py-1.5 text-quiet text-small">
							{already
								? `${address} is on the list already.`
								: found.error
									? problemOf(found.error).detail
									: found.isFetching
										? "Looking…"
										: "Nobody of that name. Type a whole e-mail address to invite somebody outside."}
						</p>
					)}
				</ComboboxOptions>
			)}
		</Combobox>
	);
}

const fold = (text: string) =>
	text
		.normalize("NFD")
		.replace(/\p{Mn}/gu, "")
		.toLowerCase();

/** The part of a name that was typed, set off; accents and case do not matter. */
function marked(name: string, query: string) {
	const letters = [...name];
	const at = fold(name).indexOf(fold(query.trim()));
	if (at < 0) return name;
	const end = at + [...fold(query.trim())].length;
	return (
		<>
			{letters.slice(0, at).join("")}
			<b className="font-[650]">{letters.slice(at, end).join("")}</b>
			{letters.slice(end).join("")}
		</>
	);
}
