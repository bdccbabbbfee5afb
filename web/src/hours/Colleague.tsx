import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState } from "react";
import { useFindPeople } from "../sheet/deeds";
import { t } from "../tongue/tongue";
import { fieldLook, listLook, optionLook } from "../ui/kit";

export type Named = { id: string; name: string };

/** One colleague, found by name. What is typed and not chosen is taken where it can mean one only. */
export function Colleague(props: {
	label: string;
	placeholder?: string;
	chosen?: Named;
	without?: string[];
	set: (person: Named | undefined) => void;
}) {
	const { chosen, set, without = [] } = props;
	const [query, setQuery] = useState("");
	const found = useFindPeople(query);
	const entries = (found.data?.items ?? []).filter((e) => !e.outside && !without.includes(e.personId));
	const choose = (p: Named | null) => {
		setQuery("");
		if (p) set(p);
	};
	return (
		<Combobox as="div" className="relative w-[230px]" immediate value={chosen ?? null} onChange={choose} by="id">
			<ComboboxInput
				aria-label={props.label}
				placeholder={props.placeholder ?? t("Name of a colleague")}
				autoComplete="off"
				className={`${fieldLook()} placeholder:text-quiet`}
				displayValue={(p: Named | null) => query || (p?.name ?? "")}
				onChange={(e) => {
					setQuery(e.target.value);
					if (chosen) set(undefined);
				}}
				onBlur={() => {
					const one = entries.length === 1 ? entries[0] : undefined;
					if (query.trim() && one) choose({ id: one.personId, name: one.name });
				}}
			/>
			{query.trim() !== "" && (
				<ComboboxOptions modal={false} className={`absolute top-full right-0 z-30 w-[300px] ${listLook}`}>
					{entries.map((e) => (
						<ComboboxOption key={e.email} value={{ id: e.personId, name: e.name }} className={optionLook}>
							<span className="whitespace-nowrap">{e.name}</span>
							<span className="ml-auto truncate text-quiet">{e.about}</span>
						</ComboboxOption>
					))}
					{entries.length === 0 && (
						<p className="px-2.5 py-1.5 text-body">
							{found.isFetching ? t("Looking…") : t("No colleague of that name.")}
						</p>
					)}
				</ComboboxOptions>
			)}
		</Combobox>
	);
}
