import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useRef } from "react";
import { problemOf } from "../api/client";
import { fold } from "../time/zones";
import { t } from "../tongue/tongue";
import { fieldLook, listLook, optionLook } from "../ui/kit";
import { useFindPeople } from "./deeds";
import { typedIn } from "./draft/typed";
import { useWritten } from "./draft/useDraft";
import type { Part } from "./part";
import { type Person, personOf } from "./person";

/** Anything with an @ and something on both sides may be meant as an address; the sheet says whether it is one. */
const looksLikeAddress = (text: string) => /^\S+@\S+$/.test(text.trim());

/** A list is read by the program as a whole. */
const isList = (text: string) => /[,;\n\t<]/.test(text.trim());

/** How long a field that is left waits for a press on one of its choices. */
const mayChoose = 200;

/** Puts people on the sheet: one by one from the directory, by address, or a list as it is pasted. */
export function AddPerson({ part }: { part: Part }) {
	const { draft, change, store } = part;
	const query = useWritten(store, (w) => typedIn(w.draft.typed, "people")) ?? "";
	const list = isList(query);
	const found = useFindPeople(list ? "" : query);
	const leaving = useRef<ReturnType<typeof setTimeout>>(undefined);
	const on = new Set(draft.people.map((p) => p.email.trim().toLowerCase()));
	const entries = query.trim() === "" || list ? [] : (found.data?.items ?? []);
	const address = query.trim();
	const already = on.has(address.toLowerCase());
	const known = entries.some((e) => e.email.toLowerCase() === address.toLowerCase());
	const offerAddress = !list && looksLikeAddress(address) && !already && !known;
	const choose = (person: Person | null) => {
		clearTimeout(leaving.current);
		if (!person) return;
		store.forget("people");
		change({ people: [...draft.people, person] });
	};
	const take = (text: string) => {
		store.type("people", text);
		store.left("people");
	};
	const option = `${optionLook} data-disabled:text-quiet`;
	return (
		<Combobox as="div" className="relative" immediate value={null as Person | null} onChange={choose}>
			<ComboboxInput
				aria-label={t("Add a person")}
				placeholder={t("Names or any e-mail addresses")}
				autoComplete="off"
				className={`${fieldLook()} mb-1 placeholder:text-quiet`}
				displayValue={() => query}
				value={query}
				onChange={(e) => store.type("people", e.target.value)}
				onPaste={(e) => {
					const text = e.clipboardData.getData("text");
					if (!/[\n\t]/.test(text.trim())) return;
					e.preventDefault(); // a field of one line would lose where one ends and the next begins
					take(`${query}${query.trim() ? "\n" : ""}${text}`);
				}}
				onKeyDown={(e) => {
					if (e.key !== "Enter" || e.ctrlKey || !list) return;
					e.preventDefault();
					take(query);
				}}
				onFocus={() => clearTimeout(leaving.current)}
				onBlur={() => {
					leaving.current = setTimeout(() => store.left("people"), mayChoose);
				}}
			/>
			{query.trim() !== "" && (
				<ComboboxOptions modal={false} className={`absolute top-full z-20 w-full ${listLook}`}>
					{entries.map((e) => (
						<ComboboxOption
							key={e.email}
							value={personOf(e)}
							disabled={on.has(e.email.toLowerCase())}
							className={option}
						>
							<span>{marked(e.name, query)}</span>
							<span className="ml-auto truncate text-quiet">
								{on.has(e.email.toLowerCase()) ? t("on the list") : e.outside ? t("%s · outside", e.about) : e.about}
							</span>
						</ComboboxOption>
					))}
					{offerAddress && (
						<ComboboxOption
							value={{ personId: "", name: "", email: address, needed: true, dates: [] } satisfies Person}
							className={option}
						>
							<span>
								{t("invite")} <b className="font-[650]">{address}</b> {t("by mail")}
							</span>
							<span className="ml-auto text-quiet">{t("outside")}</span>
						</ComboboxOption>
					)}
					{list && (
						<p className="px-2.5 py-1.5 text-body">
							{t("Enter puts all of them on the list; what is unclear is asked.")}
						</p>
					)}
					{!list && entries.length === 0 && !offerAddress && (
						<p className="px-2.5 py-1.5 text-body">
							{already
								? t("%s is on the list already.", address)
								: found.error
									? problemOf(found.error).detail
									: found.isFetching
										? t("Looking…")
										: t("Nobody of that name. Type a whole e-mail address to invite somebody outside.")}
						</p>
					)}
				</ComboboxOptions>
			)}
		</Combobox>
	);
}

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
