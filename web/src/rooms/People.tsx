import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useId, useState } from "react";
import type { Schemas } from "../api/client";
import { useFindPeople } from "../sheet/deeds";
import { t } from "../tongue/tongue";
import { FieldFault, fieldLook, Label, listLook } from "../ui/kit";

type Person = Schemas["RoomPerson"];

/** People of the house, chosen from the directory one by one. */
export function People(props: {
	label: string;
	none: string;
	people: Person[];
	fault?: string;
	set: (people: Person[]) => void;
}) {
	const { people, set } = props;
	const id = useId();
	const [query, setQuery] = useState("");
	const found = useFindPeople(query);
	const entries = (found.data?.items ?? []).filter((e) => !e.outside && !people.some((p) => p.id === e.personId));
	const choose = (p: Person | null) => {
		setQuery("");
		if (p) set([...people, p]);
	};
	return (
		<div className="mt-2">
			<Label htmlFor={id}>{props.label}</Label>
			<div className="flex flex-wrap items-center gap-1.5">
				{people.map((p) => (
					<button
						key={p.id}
						type="button"
						className="rounded-[3px] bg-slate-wash px-1.5 py-0.5"
						onClick={() => set(people.filter((x) => x.id !== p.id))}
					>
						<span className="sr-only">{t("Take off")} </span>
						{p.name || t("somebody who left")} <span aria-hidden>✕</span>
					</button>
				))}
				{people.length === 0 && <span className="text-quiet text-small">{props.none}</span>}
				<Combobox as="div" className="relative w-[220px]" immediate value={null as Person | null} onChange={choose}>
					<ComboboxInput
						id={id}
						placeholder={t("Name of a colleague")}
						autoComplete="off"
						className={`${fieldLook(!!props.fault)} placeholder:text-quiet`}
						displayValue={() => query}
						value={query}
						onChange={(e) => setQuery(e.target.value)}
					/>
					{query.trim() !== "" && entries.length > 0 && (
						<ComboboxOptions modal={false} className={`absolute top-full z-20 w-[300px] ${listLook}`}>
							{entries.map((e) => (
								<ComboboxOption
									key={e.email}
									value={{ id: e.personId, name: e.name }}
									className="flex cursor-pointer gap-2 px-2.5 py-1.5 text-body data-focus:bg-fig-wash"
								>
									<span>{e.name}</span>
									<span className="ml-auto truncate text-quiet">{e.about}</span>
								</ComboboxOption>
							))}
						</ComboboxOptions>
					)}
				</Combobox>
			</div>
			<FieldFault id={`${id}-fault`} sentence={props.fault} />
		</div>
	);
}
