import { useEffect } from "react";
import { type Term, term } from "../tongue/tongue";
import { byKey } from "./Band";
import type { DraftStore } from "./draft/store";

/** The parts of a sheet in the order in which keys go through them. */
export type PartName = "Title" | "When" | "Who" | "Where" | "Link" | "Text" | "Files";
export const partWords: Record<PartName, Term> = {
	Title: term("Title"),
	When: term("When"),
	Who: term("Who"),
	Where: term("Where"),
	Link: term("Link"),
	Text: term("Text"),
	Files: term("Files"),
};
const order = Object.keys(partWords) as PartName[];

const reachable = "input:not([disabled]), select, textarea, button:not([disabled]), a[href]";

/** Brings a part into view and the focus into it; rooms are chosen among their day. */
export function goTo(name: PartName) {
	const rooms = name === "Where" ? document.querySelector<HTMLElement>("[data-part=Rooms]") : null;
	const target =
		rooms?.querySelector<HTMLElement>("input:checked") ??
		rooms?.querySelector<HTMLElement>("input[name=room]") ??
		document.querySelector(`[data-part=${name}]`)?.querySelector<HTMLElement>(reachable);
	target?.scrollIntoView({ block: "center" });
	target?.focus({ preventScroll: true });
}

/** Where the focus is. */
function partAt(element: Element | null): PartName | null {
	const name = element?.closest<HTMLElement>("[data-part]")?.dataset.part;
	return name === "Rooms" ? "Where" : ((name as PartName | undefined) ?? null);
}

/** Ctrl with an arrow goes from part to part; arrows alone move the time, wherever nothing else takes them. */
export function useSheetKeys(store: DraftStore) {
	useEffect(() => {
		// Before a list that is open takes the key.
		const walk = (e: KeyboardEvent) => {
			if (!(e.ctrlKey || e.metaKey) || (e.key !== "ArrowDown" && e.key !== "ArrowUp")) return;
			if ((e.target as HTMLElement).closest("[role=dialog]")) return;
			const now = partAt(document.activeElement);
			const step = e.key === "ArrowDown" ? 1 : -1;
			const next = now ? order[order.indexOf(now) + step] : step > 0 ? order[0] : order.at(-1);
			e.preventDefault();
			e.stopImmediatePropagation();
			if (next) goTo(next);
		};
		const hear = (e: KeyboardEvent) => {
			const at = e.target as HTMLElement;
			if (e.defaultPrevented || at.closest("[role=dialog]")) return;
			if (at.closest("input, textarea, select, [contenteditable], [role=menu], [role=listbox]")) return;
			const part = byKey(e, store.get().draft);
			if (!part) return;
			e.preventDefault();
			store.change(part);
		};
		window.addEventListener("keydown", walk, true);
		window.addEventListener("keydown", hear);
		return () => {
			window.removeEventListener("keydown", walk, true);
			window.removeEventListener("keydown", hear);
		};
	}, [store]);
}
