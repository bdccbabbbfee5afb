import {
	Combobox,
	ComboboxInput,
	ComboboxOption,
	ComboboxOptions,
	Menu,
	MenuButton,
	MenuItem,
	MenuItems,
} from "@headlessui/react";
import { Eye } from "lucide-react";
import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { useFindPeople, useRooms } from "../sheet/deeds";
import { useOpenSheet } from "../sheet/open";
import { fold } from "../time/zones";
import { t } from "../tongue/tongue";
import { Button, fieldLook, itemLook, listLook, optionLook } from "../ui/kit";
import { useSay } from "../ui/notice";
import { shortName } from "./Beside";
import { useSetWatched } from "./deeds";

type Watched = Schemas["WatchedTime"];

const refOf = (w: Schemas["WatchedRef"]): Schemas["WatchedRef"] =>
	w.personId ? { personId: w.personId } : { roomId: w.roomId };

/** Whose time is looked at beside one's own. Watching invites nobody; inviting is a choice of its own. */
export function Watching({ watched }: { watched: Watched[] }) {
	const set = useSetWatched();
	const say = useSay();
	const [adding, setAdding] = useState(false);
	const change = (items: Schemas["WatchedRef"][]) =>
		set.mutate(items.map(refOf), {
			onError: (e) => say(problemOf(e).errors?.[0]?.detail ?? problemOf(e).detail ?? t("That did not work")),
		});
	return (
		<div className="flex flex-wrap items-center gap-1.5 text-small">
			<span className="text-quiet">{t("Watching")}</span>
			{watched.map((w) => (
				<Chip
					key={w.personId ?? w.roomId}
					watched={w}
					words={shortName(w, watched)}
					onStop={() => change(watched.filter((x) => x !== w))}
				/>
			))}
			{adding ? (
				<Add
					watched={watched}
					onAdd={(w) => {
						if (w) change([...watched, w]);
						setAdding(false);
					}}
				/>
			) : (
				<Button look="bare" onClick={() => setAdding(true)}>
					{watched.length === 0 ? t("+ a colleague or a room") : t("+ add")}
				</Button>
			)}
		</div>
	);
}

function Chip({ watched: w, words, onStop }: { watched: Watched; words: string; onStop: () => void }) {
	const open = useOpenSheet();
	const item = `${itemLook} text-body`;
	return (
		<Menu as="div" className="relative">
			<MenuButton
				title={t("%s: watched, not invited", w.name)}
				className="inline-flex items-center gap-1 rounded-[3px] bg-slate-wash px-1.5 py-0.5"
			>
				<Eye aria-hidden size={12} />
				{words}
				{w.hidden && <span className="text-quiet">{t("shows nothing")}</span>}
				<span aria-hidden>▾</span>
			</MenuButton>
			<MenuItems
				modal={false}
				className="absolute left-0 z-20 mt-1 w-60 rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
			>
				<MenuItem>
					<button
						type="button"
						className={item}
						onClick={() =>
							open(
								w.personId
									? { people: [{ personId: w.personId, name: w.name, email: w.email, needed: true, dates: [] }] }
									: { roomId: w.roomId },
							)
						}
					>
						{w.personId ? t("Invite %s to a new meeting", words) : t("New meeting in %s", words)}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={item} onClick={onStop}>
						{t("Stop watching %s", words)}
					</button>
				</MenuItem>
			</MenuItems>
		</Menu>
	);
}

type Choice = Schemas["WatchedRef"] & { name: string; about: string };

function Add({ watched, onAdd }: { watched: Watched[]; onAdd: (w: Schemas["WatchedRef"] | null) => void }) {
	const [query, setQuery] = useState("");
	const people = useFindPeople(query).data?.items ?? [];
	const rooms = useRooms().data?.items ?? [];
	const on = new Set(watched.map((w) => w.personId ?? w.roomId));
	const choices: Choice[] = [
		...people.filter((e) => !e.outside).map((e) => ({ personId: e.personId, name: e.name, about: e.about })),
		...(query.trim() === ""
			? []
			: rooms
					.filter((r) => fold(r.name).includes(fold(query.trim())))
					.slice(0, 4)
					.map((r) => ({ roomId: r.id, name: r.name, about: r.site }))),
	].filter((c) => !on.has(("personId" in c ? c.personId : c.roomId) as string));
	return (
		<Combobox as="div" className="relative w-[210px]" immediate value={null as Choice | null} onChange={onAdd}>
			<ComboboxInput
				autoFocus
				aria-label={t("Watch a colleague or a room")}
				placeholder={t("A colleague or a room")}
				autoComplete="off"
				className={`${fieldLook()} placeholder:text-quiet`}
				displayValue={() => query}
				value={query}
				onChange={(e) => setQuery(e.target.value)}
				onKeyDown={(e) => e.key === "Escape" && onAdd(null)}
				onBlur={() => query.trim() === "" && onAdd(null)}
			/>
			{query.trim() !== "" && (
				<ComboboxOptions modal={false} className={`absolute top-full left-0 z-20 w-[320px] ${listLook}`}>
					{choices.map((c) => (
						<ComboboxOption key={c.personId ?? c.roomId} value={c} className={optionLook}>
							<span className="whitespace-nowrap">{c.name}</span>
							<span className="ml-auto truncate text-quiet">{c.about}</span>
						</ComboboxOption>
					))}
					{choices.length === 0 && <p className="px-2.5 py-1.5 text-body">{t("Nobody and no room of that name.")}</p>}
				</ComboboxOptions>
			)}
		</Combobox>
	);
}
