import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { useSignedIn } from "../../api/me";
import { useSay } from "../../ui/notice";
import { saveSheet } from "../deeds";
import { same, type Writing } from "./reducer";
import { DraftStore } from "./store";

/**
 * Stores with something that is not kept yet, by who writes and the sheet: whoever has to sign in again in between finds
 * it as it was.
 */
const unsettled = new Map<string, DraftStore>();

/** The store of what is written on a sheet, for as long as it is in view. */
export function useDraftStore(sheet: Schemas["Sheet"]): DraftStore {
	const queries = useQueryClient();
	const say = useSay();
	const key = `${useSignedIn().id} ${sheet.id}`;
	// biome-ignore lint/correctness/useExhaustiveDependencies: one store a sheet; what is read later is told to it below
	const store = useMemo(
		() =>
			unsettled.get(key) ??
			new DraftStore(
				sheet,
				(version, draft, typing) => saveSheet(sheet.id, version, draft, typing),
				(saved) => {
					queries.setQueryData(keys.sheet(sheet.id), saved);
					if (sheet.version === 0) queries.invalidateQueries({ queryKey: keys.sheets });
					if (saved.said) say(saved.said.join(". "));
				},
			),
		[key, queries],
	);
	useEffect(() => store.read(sheet), [store, sheet]);
	// What was typed is on its way before the view or the window goes; only what cannot be saved asks to stay.
	useEffect(() => {
		if (unsettled.delete(key)) void store.save();
		const leave = (e: BeforeUnloadEvent) => {
			store.leave();
			if (store.stuck()) e.preventDefault();
		};
		window.addEventListener("beforeunload", leave);
		return () => {
			window.removeEventListener("beforeunload", leave);
			if (store.settled()) return;
			unsettled.set(key, store);
			store.leave();
		};
	}, [store, key]);
	return store;
}

/** What a part of the page shows of what is written; it is drawn anew only when that says something else. */
export function useWritten<T>(store: DraftStore, pick: (w: Writing) => T): T {
	const last = useRef<{ value: T } | null>(null);
	const get = () => {
		const value = pick(store.get());
		if (!last.current || !same(last.current.value, value)) last.current = { value };
		return last.current.value;
	};
	return useSyncExternalStore(store.subscribe, get);
}
