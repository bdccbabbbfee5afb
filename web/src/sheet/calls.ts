import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, problemOf, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";
import { useSettled } from "../api/settled";
import type { DraftStore } from "./draft/store";

type Sheet = Schemas["Sheet"];

/** Where a call is to be. */
export type Choice = Schemas["AttachLink"];

/** A deed about the call of a sheet; it answers with the sheet as it is then. They are done in the order of the hand. */
function useCallDeed<In>(id: string, deed: (input: In) => Promise<Sheet>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		scope: { id: `call ${id}` },
		onSuccess: (sheet) => queries.setQueryData(keys.sheet(id), sheet),
		// Some failures leave something on the sheet: a link that follows.
		onError: () => queries.invalidateQueries({ queryKey: keys.sheet(id) }),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.callsOf(id) }),
	});
}

/** Puts a call on the sheet. Where somebody has to sign in first the browser goes there, and comes back to the sheet. */
export function useChoose(id: string, store: DraftStore) {
	const [last, setLast] = useState<Choice>({});
	const choose = useCallDeed(id, (body: Choice) =>
		take(api.POST("/api/sheets/{id}/link", { params: { path: { id } }, body })),
	);
	const leaving = choose.error instanceof ProblemError && choose.error.kind === "sign-in-at-provider";
	const make = async (choice: Choice) => {
		if (!(await store.save())) return;
		setLast(choice);
		choose.mutate(choice, {
			onError: (error) => {
				if (error instanceof ProblemError && error.kind === "sign-in-at-provider")
					window.location.assign(`/api/connect/${choice.provider}/start?sheet=${id}`);
			},
		});
	};
	return {
		make,
		again: () => make(last),
		busy: choose.isPending || leaving,
		problem: choose.error && !leaving ? problemOf(choose.error) : null,
	};
}

export const useDropLink = (id: string) =>
	useCallDeed(id, (none: boolean) =>
		take(api.DELETE("/api/sheets/{id}/link", { params: { path: { id }, query: { none } } })),
	);

export const useSettleWay = (id: string) =>
	useCallDeed(id, (body: Schemas["SettleWay"]) =>
		take(api.POST("/api/sheets/{id}/way", { params: { path: { id } }, body })),
	);

export const useSetDoor = (id: string) =>
	useCallDeed(id, (body: Schemas["SetDoor"]) =>
		take(api.PUT("/api/sheets/{id}/door", { params: { path: { id } }, body })),
	);

/** Makes several meetings of one that is too long for its plan. */
export function useSplit(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (parts: number) =>
			take(api.POST("/api/sheets/{id}/split", { params: { path: { id } }, body: { parts } })),
		onSuccess: (sheet) => {
			queries.setQueryData(keys.sheet(id), sheet);
			queries.invalidateQueries({ queryKey: keys.sheets });
		},
	});
}

/** Where the call of a sheet can be; asked again when what it depends on was saved. */
export const useCalls = (sheet: Sheet) =>
	useQuery({
		queryKey: keys.calls(sheet.id, sheet.version),
		queryFn: () => take(api.GET("/api/sheets/{id}/calls", { params: { path: { id: sheet.id } } })),
		enabled: sheet.version > 0,
		placeholderData: keepPreviousData,
	});

/** The card of a sheet as one of the people on it reads it; -1 is the organiser. */
export const useCardFor = (sheet: Sheet, reader: number) =>
	useQuery({
		queryKey: keys.cardFor(sheet.id, sheet.version, reader),
		queryFn: () =>
			take(
				api.GET("/api/sheets/{id}/card", {
					params: { path: { id: sheet.id }, query: reader < 0 ? {} : { reader } },
				}),
			),
		enabled: reader >= 0 && !!sheet.card,
		placeholderData: keepPreviousData,
	});

/** What a text says about a call, once it rests. */
export function useReadCard(now: string) {
	const text = useSettled(now.trim(), 300);
	return useQuery({
		queryKey: keys.readCard(text),
		queryFn: () => take(api.POST("/api/card", { body: { text } })),
		enabled: text !== "",
		placeholderData: keepPreviousData,
	});
}
